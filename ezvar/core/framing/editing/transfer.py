"""One framing for others: the shots of a set-up, other shapes, and the ways back."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Literal

from ezvar.core.evidence import Analysis
from ezvar.core.model import Document, Framing, Keyframe, Master, Pane, Reason, Shot
from ezvar.core.timing import FrameRange

from ..keeping.whom_to_follow import subjects_in
from ..paths.hand_stretches import excerpt, marked
from ..solver.solve import judged, solved_with
from ..windows.geometry import Size, fit_zoom, trimmed_size
from ..windows.path import framed, key_at, pane_aspect, pane_picture_size
from ..windows.place import Place
from .moves import placed, resting

Copied = Literal["position", "zoom", "everything", "choices"]
Way = Literal["centre", "static", "solved"]


@dataclass(frozen=True)
class Given:
    """A framing given to others; ``skipped`` are the shots whose agreed framings stayed."""

    framings: tuple[Framing, ...]
    skipped: tuple[str, ...]


def give(
    doc: Document, shot: str, master: Master, to: Iterable[str], copied: Copied, analysis: Analysis | None
) -> Given:
    """Give the framing of a shot to others, as `paste` does."""
    return paste(doc, framed(doc, doc.shot(shot), master), master, [s for s in to if s != shot], copied, analysis)


def paste(
    doc: Document, source: Framing, master: Master, to: Iterable[str], copied: Copied, analysis: Analysis | None
) -> Given:
    """Give a framing to shots: its position, its zoom, everything, or its choices to solve each by.

    Agreed framings are skipped. Without an analysis doubts stay as they were,
    and nothing is solved.
    """
    skipped, made = [], []
    for other in (doc.shot(s) for s in to):
        old = framed(doc, other, master)
        if old.verdict == "agreed":
            skipped.append(other.id)
        else:
            made.append(_given(source, Place(doc, other, master), copied, analysis))
    return Given(tuple(made), tuple(skipped))


def _given(source: Framing, to: Place, copied: Copied, analysis: Analysis | None) -> Framing:
    old = to.framing
    if copied == "choices":
        choices = source.panes[0].choices
        asked = replace(old, panes=tuple(replace(p, choices=choices, by_hand=()) for p in old.panes))
        if analysis is None:
            return asked
        return replace(solved_with(to.doc, asked, analysis), decided="from a set-up")
    if copied == "everything":
        panes, arrangement, sound = source.panes, source.arrangement, source.sound
    else:
        first = _with(copied, source.panes[0], to.first)
        panes, arrangement, sound = (first, *old.panes[1:]), old.arrangement, old.sound
    panes = tuple(_all_by_hand(p, to.shot) for p in panes)
    reasons = _reasons(to, panes, analysis)
    return replace(
        old, panes=panes, arrangement=arrangement, sound=sound, decided="from a set-up",
        why="Taken from another shot of its set-up.", reasons=reasons, verdict="open",
    )  # fmt: skip


def _with(copied: Copied, source: Pane, to: Place) -> Pane:
    old = to.pane
    if copied == "position":
        keys = tuple(replace(k, zoom=key_at(old, k.frame).zoom) for k in source.keys)
    else:
        keys = tuple(replace(k, zoom=key_at(source, k.frame).zoom) for k in old.keys)
    return replace(old, keys=tuple(placed(k, old, to.master, to.size) for k in keys))


def _all_by_hand(pane: Pane, shot: Shot) -> Pane:
    frames = [0, shot.frames - 1, *(k.frame for k in pane.keys)]
    return marked(replace(pane, by_hand=()), min(frames), max(frames))


def _reasons(place: Place, panes: tuple[Pane, ...], analysis: Analysis | None) -> tuple[Reason, ...]:
    if analysis is None:
        return place.framing.reasons
    return judged(place, panes, subjects_in(place.doc, place.shot, analysis))


def carried(source: Place, master: Master, analysis: Analysis | None = None) -> Framing:
    """The framing of a place for another master, as a starting point: the same centres, no looser and no tighter.

    A window that fills, fills; one between filling and the whole picture
    stands as far between. It counts as set by hand.
    """
    doc, shot, old = source.doc, source.shot, source.framing
    target = Place(doc, shot, master)
    panes = []
    for pane in old.panes:
        size = pane_picture_size(doc, shot, pane)
        keys = tuple(replace(k, zoom=_carried_zoom(k.zoom, size, pane, source.master, master)) for k in pane.keys)
        panes.append(_all_by_hand(replace(pane, keys=tuple(placed(k, pane, master, size) for k in keys)), shot))
    reasons = _reasons(target, tuple(panes), analysis)
    return replace(
        target.framing, panes=tuple(panes), arrangement=old.arrangement, sound=old.sound, decided="by hand",
        verdict="open", why=f"Carried over from {source.master.name}.", reasons=reasons,
    )  # fmt: skip


def _carried_zoom(zoom: float, size: Size, pane: Pane, source: Master, target: Master) -> float:
    if zoom >= 1:
        return zoom
    part = trimmed_size(size, pane.trim)
    here, there = (fit_zoom(part, pane_aspect(pane, m)) for m in (source, target))
    return float(there ** ((1 - zoom) / (1 - here))) if here < 1 else 1.0


def reset(
    doc: Document, shots: Iterable[Shot], masters: Iterable[Master], way: Way, analysis: Analysis | None,
    stretch: FrameRange | None = None,
) -> Given:  # fmt: skip
    """Framings back to the plain centre, to the best static window, or to what is solved; agreed ones are skipped.

    ``stretch``, in frames of the shot, takes only that part of the path back;
    the rest stays, and is solved to meet it where it is not by hand. Without
    an analysis only the way to the centre does something.
    """
    chosen, made, skipped = tuple(shots), [], []
    for master in masters:
        for shot in chosen:
            place = Place(doc, shot, master)
            if place.framing.verdict == "agreed":
                skipped.append(shot.id)
            elif analysis is not None or way == "centre":
                made.append(_reset(place, way, analysis, stretch))
    return Given(tuple(made), tuple(dict.fromkeys(skipped)))


def _reset(place: Place, way: Way, analysis: Analysis | None, stretch: FrameRange | None) -> Framing:
    doc, shot, master, old = place.doc, place.shot, place.master, place.framing
    span = stretch or FrameRange(0, shot.frames)
    panes = tuple(_without_hand(p, span if stretch else None) for p in old.panes)
    freed = replace(old, panes=panes)
    if way == "solved" and analysis is not None:
        return solved_with(doc, freed, analysis)
    made = []
    for pane in panes:
        size = pane_picture_size(doc, shot, pane)
        rest = resting(pane, master, size, None if master.start == "whole" else 1.0).keys[0]
        if way == "static" and analysis is not None:
            still = replace(pane, by_hand=(), choices=replace(pane.choices, pace=0.0, move=""))
            alone = replace(freed, panes=(still,), arrangement=None, sound=-1)
            rest = solved_with(doc, alone, analysis).panes[0].keys[0]
        made.append(_held_at(pane, rest, span, stretch is None))
    if stretch is not None and analysis is not None:
        return solved_with(doc, replace(freed, panes=tuple(made)), analysis)
    reasons = _reasons(place, tuple(made), analysis)
    why = "The middle, set by hand." if way == "centre" else "The best static window, set by hand."
    return replace(freed, panes=tuple(made), decided="by hand", why=why, reasons=reasons, verdict="open")


def _without_hand(pane: Pane, span: FrameRange | None) -> Pane:
    """A pane whose path is no longer by hand in a span, or nowhere."""
    if span is None:
        return replace(pane, by_hand=())
    kept: list[FrameRange] = []
    keys = {k.frame: k for k in pane.keys}
    for s in pane.by_hand:
        if s.end <= span.start or span.end <= s.start:
            kept.append(s)
            continue
        keys = {n: k for n, k in keys.items() if n not in s}
        for start, end in ((s.start, span.start), (span.end, s.end)):
            if start < end:
                kept.append(FrameRange(start, end))
                keys |= {k.frame: k for k in excerpt(pane, start, end - 1)}
    return replace(pane, keys=tuple(keys[f] for f in sorted(keys)) or pane.keys[:1], by_hand=tuple(kept))


def _held_at(pane: Pane, rest: Keyframe, span: FrameRange, alone: bool) -> Pane:
    """A pane that rests at a keyframe's values through a span, by hand."""
    at = replace(rest, frame=span.start, ease="both")
    if alone:
        return marked(replace(pane, keys=(at,)), span.start, span.end - 1)
    outside = [k for k in pane.keys if k.frame not in span]
    ends = {span.start: at, span.end - 1: replace(at, frame=span.end - 1)}
    keys = {**{k.frame: k for k in outside}, **ends}
    return marked(replace(pane, keys=tuple(keys[f] for f in sorted(keys))), span.start, span.end - 1)
