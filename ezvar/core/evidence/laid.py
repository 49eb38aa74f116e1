"""What was seen of strips, laid along the lock that shows them."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

import numpy as np

from ezvar.core.cuts import COLOUR, THUMB, Signals, change_at
from ezvar.core.lock import Run
from ezvar.core.store import Piece, joined_up

from .analysis import Analysis
from .cadence import Cadence
from .finders.bars import BARS
from .gather import KINDS, LOOK, Evidence, nothing_seen
from .joining.drift import Drift
from .regions import RegionKind
from .shelf import Shelf


def laid(runs: Sequence[Run], shelf: Shelf, finders: tuple[RegionKind, ...]) -> Analysis:
    """The analysis of a lock's runs from what was seen of their strips, as far as it was.

    Pictures that are nowhere count as seen, with nothing in them. A run begins with what the last looks before its
    first picture saw, carried along as the picture moves.
    """
    parts = _Laid(runs, shelf, finders)
    damaged, bars = [np.zeros(0, np.int32)], [np.zeros(0, BARS)]
    known = [(run.start, run.end) for run in runs if not run.strip]
    for run in runs:
        for piece, first, last in _shown(run, parts.pieces.get(run.strip, ())):
            torn, left = shelf.facts(run.strip, piece)
            damaged.append(torn[(torn >= first) & (torn < last)] + np.int32(run.start - run.first))
            here = left[(left["frame"] >= first) & (left["frame"] < last)].copy()
            here["frame"] += run.start - run.first
            bars.append(here)
            known.append((run.at(first), run.at(last)))
    read = tuple(joined_up(known))
    return Analysis(
        parts, np.concatenate(damaged), np.concatenate(bars), None if read == ((0, parts.frames),) else read
    )


class _Laid:
    """What was seen along a lock, taken from the shelf stretch by stretch."""

    def __init__(self, runs: Sequence[Run], shelf: Shelf, finders: tuple[RegionKind, ...]) -> None:
        self._runs, self._shelf, self._finders = tuple(runs), shelf, finders
        self._starts = np.array([run.start for run in runs])
        self.frames = runs[-1].end
        self.pieces: Mapping[str, tuple[Piece, ...]] = {run.strip: shelf.pieces(run.strip) for run in runs}

    def signals(self, start: int, end: int) -> Signals:
        first = max(0, start - 1)  # so that a run's beginning is compared with what goes before
        whole = Signals(
            np.zeros((end - first, THUMB[1], THUMB[0]), np.uint8),
            np.zeros((end - first, 2, COLOUR[1], COLOUR[0]), np.uint8),
            np.zeros(end - first, np.float32),
        )
        runs = list(self._showing(first, end))
        for run in runs:
            for piece, a, b in _shown(run, self.pieces.get(run.strip, ())):
                low, high = max(run.at(a), first), min(run.at(b), end)
                if low >= high:
                    continue
                seen = self._shelf.seen(run.strip, piece)
                there = slice(low - run.at(seen.start), high - run.at(seen.start))
                for into, values in zip(whole.arrays().values(), seen.signals.arrays().values(), strict=True):
                    into[low - first : high - first] = values[there]
        for run in runs:
            if run.start > first:
                whole.change[run.start - first] = change_at(whole, run.start - first)
        return Signals(**{name: values[start - first :] for name, values in whole.arrays().items()})

    def evidence(self, start: int, end: int) -> Evidence:
        nothing = nothing_seen(self._finders, self._shelf.rate)
        return Evidence.joined([nothing, *(self._of_run(run, start, end) for run in self._showing(start, end))])

    def _showing(self, start: int, end: int) -> Iterator[Run]:
        """The runs that show something of lock frames ``start`` to ``end``."""
        for k in range(int(np.searchsorted(self._starts, start, "right")) - 1, len(self._runs)):
            if self._runs[k].start >= end:
                return
            yield self._runs[k]

    def _of_run(self, run: Run, start: int, end: int) -> Evidence:
        """What was seen of a run in lock frames ``start`` to ``end``."""
        rate = self._shelf.rate
        first, last = max(run.first, run.first + start - run.start), min(run.last, run.first + end - run.start)
        from_start = first == run.first
        low = first - (Cadence(rate).text if from_start else 0)
        pieces = [piece for piece in self.pieces.get(run.strip, ()) if piece[0] < last and piece[1] > low]
        nothing = nothing_seen(self._finders, rate)
        seen = Evidence.joined([nothing, *(self._shelf.seen(run.strip, piece).evidence for piece in pieces)])
        parts = [_before(seen, first)] if from_start else []
        found = Evidence.joined([*parts, seen.within(first, last)])
        for values in found.arrays():
            values["frame"] += run.start - run.first
        return found


def _shown(run: Run, pieces: Sequence[Piece]) -> Iterator[tuple[Piece, int, int]]:
    """Pieces that a run shows something of, in order, each with the first picture and the one after the last that it
    gives."""
    at = run.first
    for piece in sorted(pieces):
        first, last = max(at, piece[0]), min(run.last, piece[1])
        if first < last:
            yield piece, first, last
            at = last


def _before(evidence: Evidence, first: int) -> Evidence:
    """What the last looks before picture ``first`` saw, carried to it; nothing for what is looked for there anyway."""
    every, nothing = evidence.cadence, nothing_seen(evidence.finders, evidence.rate)
    drift = Drift(evidence.within(first - every.text, first + every.moving).flows, every.moving)
    rows, looks = [nothing.rows], [nothing.looks]
    for number, kind in enumerate(KINDS):
        at = _last_look(evidence, number, first, every.text if kind == "text" else every.people)
        if kind == "moving" or at is None:
            continue
        looks.append(np.array([(first, number)], LOOK))
        seen = evidence.within(at, at + 1).rows
        seen = seen[seen["kind"] == number].copy()
        for row in seen:
            row["box"] = _carried(drift, row["box"], at, first)
        seen["frame"] = first
        rows.append(seen)
    stills, bars = (_last_of(values, first, every) for values in (evidence.stills, evidence.bars))
    return nothing.with_arrays((np.concatenate(rows), np.concatenate(looks), stills, nothing.flows, bars))


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
