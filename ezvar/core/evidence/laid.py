"""What was seen of strips, laid along the lock that shows them."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace

import numpy as np

from ezvar.core.cuts import COLOUR, THUMB, Signals, change_at
from ezvar.core.lock import Run
from ezvar.core.store import joined_up

from .analysis import Analysis
from .cadence import Cadence
from .gather import KINDS, LOOK, Evidence, nothing_seen
from .joining.drift import Drift
from .looking import Seen
from .regions import RegionKind


def laid(
    runs: Sequence[Run], seen: Mapping[str, Sequence[Seen]], finders: tuple[RegionKind, ...], rate: float
) -> Analysis:
    """The analysis of a lock's runs from what was ``seen`` of their strips, as far as it was.

    ``rate`` is the lock's, in frames a second. Pictures that are nowhere count as seen, with nothing in them. A run
    begins with what the last looks before its first picture saw, carried along as the picture moves.
    """
    frames = runs[-1].end
    signals = Signals(
        np.zeros((frames, THUMB[1], THUMB[0]), np.uint8),
        np.zeros((frames, 2, COLOUR[1], COLOUR[0]), np.uint8),
        np.zeros(frames, np.float32),
    )
    parts = [_arrays(nothing_seen(finders))]
    damaged, known = [np.zeros(0, np.int32)], [(run.start, run.end) for run in runs if not run.strip]
    for run in runs:
        if not run.strip or not (pieces := list(_shown(run, seen.get(run.strip, ())))):
            continue
        for piece, first, last in pieces:
            here, there = slice(run.at(first), run.at(last)), slice(first - piece.start, last - piece.start)
            for whole, part in zip(signals.arrays().values(), piece.signals.arrays().values(), strict=True):
                whole[here] = part[there]
            inside = (piece.damaged >= first) & (piece.damaged < last)
            damaged.append(piece.damaged[inside] + np.int32(run.start - run.first))
            known.append((run.at(first), run.at(last)))
        parts.append(_arrays(_of_run(run, [piece for piece, _, _ in pieces])))
    _compared_at_starts(runs, signals)
    rows, looks, stills, flows, bars = (np.concatenate(each) for each in zip(*parts, strict=True))
    evidence = Evidence(rows, looks, finders, stills, flows, bars, rate)
    read = tuple(joined_up(known))
    return Analysis(signals, evidence, np.concatenate(damaged), None if read == ((0, frames),) else read)


def _shown(run: Run, pieces: Sequence[Seen]) -> Iterator[tuple[Seen, int, int]]:
    """Pieces that a run shows something of, in order, each with the first picture and the one after the last that it
    gives."""
    at = run.first
    for piece in sorted(pieces, key=lambda piece: piece.start):
        first, last = max(at, piece.start), min(run.last, piece.end)
        if first < last:
            yield piece, first, last
            at = last


def _arrays(evidence: Evidence) -> tuple[np.ndarray, ...]:
    return evidence.rows, evidence.looks, evidence.stills, evidence.flows, evidence.bars


def _of_run(run: Run, pieces: Sequence[Seen]) -> Evidence:
    """What was seen of a run, by lock frame."""
    arrays = [_arrays(piece.evidence) for piece in pieces]
    whole = [a[np.argsort(a["frame"], kind="stable")] for a in map(np.concatenate, zip(*arrays, strict=True))]
    rows, looks, stills, flows, bars = whole
    one = pieces[0].evidence
    every = replace(one, rows=rows, looks=looks, stills=stills, flows=flows, bars=bars)
    parts = [_within(values, run.first, run.last) for values in _arrays(every)]
    rows, looks, stills, flows, bars = (
        np.concatenate(each) for each in zip(_before(every, run.first), parts, strict=True)
    )
    for values in (rows, looks, stills, flows, bars):
        values["frame"] += run.start - run.first
    return replace(one, rows=rows, looks=looks, stills=stills, flows=flows, bars=bars)


def _within(values: np.ndarray, first: int, last: int) -> np.ndarray:
    """What of arrays in the order of frames lies within ``first`` to ``last``."""
    return values[np.searchsorted(values["frame"], first) : np.searchsorted(values["frame"], last)]


def _before(evidence: Evidence, first: int) -> tuple[np.ndarray, ...]:
    """What the last looks before picture ``first`` saw, carried to it; nothing for what is looked for there anyway."""
    every = evidence.cadence
    nothing = nothing_seen()
    drift = Drift(_within(evidence.flows, first - every.text, first + every.moving), every.moving)
    rows_found, looks_found = [nothing.rows], [nothing.looks]
    for number, kind in enumerate(KINDS):
        at = _last_look(evidence, number, first, every.text if kind == "text" else every.people)
        if kind == "moving" or at is None:
            continue
        looks_found.append(np.array([(first, number)], LOOK))
        seen = _within(evidence.rows, at, at + 1)
        seen = seen[seen["kind"] == number].copy()
        for row in seen:
            row["box"] = _carried(drift, row["box"], at, first)
        seen["frame"] = first
        rows_found.append(seen)
    return (
        np.concatenate(rows_found), np.concatenate(looks_found),
        _last_of(evidence.stills, first, every), nothing.flows,
        _last_of(evidence.bars, first, every),
    )  # fmt: skip


def _last_look(evidence: Evidence, number: int, first: int, longest: int) -> int | None:
    """The last look for a kind before a picture, and not longer ago than ``longest``; ``None`` where the next one
    follows soon after it, as it does after a change."""
    frames = evidence.looks["frame"][evidence.looks["kind"] == number]
    k = int(np.searchsorted(frames, first))
    soon = k < len(frames) and frames[k] <= first + evidence.cadence.moving
    return None if soon or k == 0 or first - frames[k - 1] > longest else int(frames[k - 1])


def _carried(drift: Drift, box: np.ndarray, frame: int, to: int) -> np.ndarray:
    left, top, width, height = box
    places = drift.carried(np.array([left, top, left + width, top + height]), frame, to)
    if not places:
        return box
    place = places[max(places)]
    return np.array([*place[:2], *(place[2:] - place[:2])], np.float32)


def _last_of(values: np.ndarray, first: int, every: Cadence) -> np.ndarray:
    """The last still, or look for bars, before a picture, as one of it, where none follows within two seconds."""
    k = int(np.searchsorted(values["frame"], first))
    if k == 0 or (k < len(values) and values["frame"][k] < first + every.text):
        return values[:0]
    found = values[k - 1 : k].copy()
    found["frame"] = first
    return found


def _compared_at_starts(runs: Sequence[Run], signals: Signals) -> None:
    """Let the first frame of each run be compared with the frame before it, which lies in another strip."""
    for run in runs[1:]:
        signals.change[run.start] = change_at(signals, run.start) if run.strip else 0.0
