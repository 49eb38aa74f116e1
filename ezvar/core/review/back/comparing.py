"""Decisions of another side beside ours: which of both changed what, and how far windows are apart."""

from __future__ import annotations

import math
from bisect import bisect_left
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import zip_longest
from typing import Literal

import numpy as np

from ezvar.core.framing import Window, key_at, pane_picture_size, pane_window
from ezvar.core.model import Document, EarlierLock, Framing, Keyframe, Master, Pane, Rect, Shot

from ..decision import digest, is_as, same
from .returned import Returned

State = Literal["same", "theirs", "ours", "both", "not placed"]
STATES: dict[State, str] = {
    "same": "unchanged", "theirs": "changed by them", "ours": "changed by us", "both": "changed by both",
    "not placed": "cannot be placed",
}  # fmt: skip
_MOMENTS = 24  # frames of a shot, at most, on which windows are compared


@dataclass(frozen=True)
class Compared:
    """A decision of theirs beside ours of the same shot and master, under our ids; who has changed it since both sides
    had it."""

    state: State
    ours: Framing | None
    theirs: Framing
    base: str = ""  # the digest of what both had, as the return says


def compare(doc: Document, returned: Returned) -> tuple[list[Compared], list[str]]:
    """Every decision that came back, beside ours, and what is to be told of it in sentences.

    Shots are matched as `placed` does, a master by name and size. Where
    nothing is known of what both sides had, what differs counts as changed by
    both.
    """
    theirs_to_ours = placed(doc, returned)
    problems = list(returned.problems)
    master = next(
        (m for m in doc.masters if m.name == returned.master_name and (m.width, m.height) == returned.master_size), None
    )
    if master is None:
        width, height = returned.master_size
        problems.append(f"There is no master {returned.master_name} of {width} × {height} here, so nothing was taken.")
        return [Compared("not placed", None, f) for f, _ in returned.framings], problems
    found = []
    for framing, base in returned.framings:
        places = theirs_to_ours.get(framing.shot, ())
        if not places:
            problems.append("A shot of theirs is not in this edit, its framing was left out.")
            found.append(Compared("not placed", None, framing))
        for shot, later in places:
            ours, carried = doc.framing(shot, master.id), framing.later(later)
            state = _state(ours, carried, base, framing, later)
            found.append(Compared(state, ours, replace(carried, shot=shot, master=master.id), base))
    return found, problems


def placed(doc: Document, returned: Returned) -> dict[str, list[tuple[str, int]]]:
    """Which of our shots show what each of theirs does, by ids, and how many frames later ours begin.

    A shot is the stretch of the lock that it is; where there is none as long
    in that place, or the return is about another lock, by what both show of
    the same media at the same speed: each of ours goes to the one of theirs
    that it shares most of. A lock that this one has replaced is followed to
    where its frames are now.
    """
    replaced = next((e for e in doc.earlier if returned.elsewhere and is_about(returned, e.identity, e.frames)), None)
    if replaced is not None:
        return _followed(doc, returned, replaced)
    by_span = {} if returned.elsewhere else {(s.start, s.frames): s.id for s in doc.shots}
    found = {shot: [(by_span[start, n], 0)] for shot, start, n in returned.spans if (start, n) in by_span}
    taken = {ours for places in found.values() for ours, _ in places}
    lengths = {shot: n for shot, _, n in returned.spans}
    shown: dict[tuple[str, Fraction], list[tuple[Fraction, int, str]]] = {}
    for shot, source in returned.sources:
        if shot not in found and shot in lengths and source.step > 0:
            shown.setdefault((source.media, source.step), []).append((source.start, lengths[shot], shot))
    for each in shown.values():
        each.sort()
    for ours in doc.shots if shown else ():
        media = doc.media_of(ours)
        theirs = shown.get((media.content, ours.source.step)) or shown.get((media.name, ours.source.step))
        if ours.id in taken or not theirs:
            continue
        begins = ours.source.start
        most, shot, start = _shares_most(begins, begins + ours.frames * ours.source.step, theirs, ours.source.step)
        later = (ours.source.start - start) / ours.source.step
        if most > 0 and later.denominator == 1:
            found.setdefault(shot, []).append((ours.id, int(later)))
    return found


def _followed(doc: Document, returned: Returned, replaced: EarlierLock) -> dict[str, list[tuple[str, int]]]:
    """As `placed`, for decisions on a lock that the present one has replaced: each of our shots goes to the one of
    theirs that it shares most of."""
    theirs = sorted((Fraction(start), n, shot) for shot, start, n in returned.spans if n > 0)
    found: dict[str, list[tuple[str, int]]] = {}
    stretches = sorted(replaced.stretches, key=lambda s: s.now)
    longest = max((s.frames for s in stretches), default=0)
    for ours in doc.shots if theirs else ():
        first = bisect_left(stretches, ours.start - longest, key=lambda s: s.now)
        last = bisect_left(stretches, ours.end, key=lambda s: s.now)
        shared = []
        for each in stretches[first:last]:
            begins, ends = max(ours.start, each.now), min(ours.end, each.now + each.frames)
            by = each.was - each.now
            if begins < ends:
                most, shot, start = _shares_most(Fraction(begins + by), Fraction(ends + by), theirs)
                shared.append((most, shot, ours.start + by - int(start)))
        most, shot, later = max(shared, default=(Fraction(0), "", 0))
        if most > 0:
            found.setdefault(shot, []).append((ours.id, later))
    return found


def is_about(returned: Returned, identity: str, frames: int) -> bool:
    """Whether what came back is about a lock of such an identity and length. Those of before locks had identities, and
    lists, name a flat movie's content."""
    return (returned.identity or returned.content) == identity and returned.frames == frames


def _shares_most(
    begins: Fraction, ends: Fraction, theirs: list[tuple[Fraction, int, str]], step: Fraction = Fraction(1)
) -> tuple[Fraction, str, Fraction]:
    """Of stretches of a media at one speed, each so many lock frames of ``step``, in order of where they begin, the one
    that the stretch from ``begins`` to ``ends`` shares most of: how much, in frames of the lock, its shot, and where it
    begins."""
    longest = max(n for _, n, _ in theirs) * step
    first = bisect_left(theirs, begins - longest, key=lambda each: each[0])
    last = bisect_left(theirs, ends, key=lambda each: each[0])
    shared = (
        ((min(ends, start + n * step) - max(begins, start)) / step, shot, start)
        for start, n, shot in theirs[first:last]
    )
    return max(shared, key=lambda each: each[0], default=(Fraction(0), "", begins))


def _state(ours: Framing | None, carried: Framing, base: str, theirs: Framing, later: int) -> State:
    """Who has changed what since both had ``base``: ours, or theirs, which is ``carried`` to our shot, that begins so
    many frames later."""
    if ours is None:
        return "theirs"
    if same(ours, carried):
        return "same"
    # Our decision may be the one that both sides had, under our ids or theirs.
    own = ours.later(-later)
    if is_as(own, base) or is_as(replace(own, shot=theirs.shot, master=theirs.master), base):
        return "theirs"
    return "ours" if is_as(theirs, base) else "both"


def returned_of(theirs: Document, master: Master, begun: Document | None = None) -> Returned:
    """The decisions of another document on one of its masters, as if they came back; ``begun`` is what both sides
    had."""
    bases = {(f.shot, f.master): digest(f) for f in begun.framings} if begun else {}
    framings = tuple((f, bases.get((f.shot, f.master), "")) for f in theirs.framings if f.master == master.id)
    spans = tuple((s.id, s.start, s.frames) for s in theirs.shots)
    size, notes = (master.width, master.height), tuple(n for n in theirs.notes if n.master in ("", master.id))
    return Returned(theirs.lock.content, "", theirs.lock.frames, master.name, size, framings, spans, (), notes)


def overlap(doc: Document, ours: Framing, theirs: Framing) -> float:
    """How far two framings of the same shot and master show the same, 0..1: the mean over some frames, and over panes,
    of the windows' intersection over their union, upright boxes of turned ones."""
    shot, master = doc.shot(ours.shot), doc.master(ours.master)
    frames = np.unique(np.linspace(0, shot.frames - 1, _MOMENTS).round().astype(int))
    pairs = list(zip_longest(ours.panes, theirs.panes))
    return float(np.mean([_panes(doc, shot, master, frames, *pair) for pair in pairs]))


def seen_from_ours(doc: Document, ours: Framing, theirs: Framing, frame: int) -> Rect | None:
    """Where the window of theirs stands in ours at a frame of the shot: fractions of our window, upright boxes of
    turned ones. ``None`` where either has several panes."""
    if len(ours.panes) > 1 or len(theirs.panes) > 1:
        return None
    shot, master = doc.shot(ours.shot), doc.master(ours.master)
    size = pane_picture_size(doc, shot, ours.panes[0])
    own, other = (pane_window(framing.panes[0], master, size, frame) for framing in (ours, theirs))
    box = other.bounds()
    left, top = other.cx - box.width / 2, other.cy - box.height / 2
    return Rect(
        (left - own.left) / own.width, (top - own.top) / own.height, box.width / own.width, box.height / own.height
    )


def halfway(ours: Framing, theirs: Framing) -> Framing:
    """Our framing with windows in the middle between ours and theirs, at the keyframes of both; zooms in equal ratios.

    Raises `ValueError` where they do not have the same panes.
    """
    if len(ours.panes) != len(theirs.panes) or any(
        a.rect != b.rect or a.shot != b.shot for a, b in zip(ours.panes, theirs.panes, strict=True)
    ):
        raise ValueError("there is nothing halfway between other panes")
    panes = []
    for one, other in zip(ours.panes, theirs.panes, strict=True):
        frames = sorted({k.frame for pane in (one, other) for k in pane.keys})
        panes.append(replace(one, keys=tuple(_between(key_at(one, n), key_at(other, n)) for n in frames)))
    return replace(ours, panes=tuple(panes), decided="from review", verdict="open")


def _between(one: Keyframe, other: Keyframe) -> Keyframe:
    return replace(
        one, cx=(one.cx + other.cx) / 2, cy=(one.cy + other.cy) / 2, angle=(one.angle + other.angle) / 2,
        zoom=math.sqrt(one.zoom * other.zoom), bend=0.5,
    )  # fmt: skip


def _panes(
    doc: Document, shot: Shot, master: Master, frames: np.ndarray, one: Pane | None, other: Pane | None
) -> float:
    if one is None or other is None or one.rect != other.rect or one.shot != other.shot:
        return 0.0
    size = pane_picture_size(doc, shot, one)
    return float(np.mean([
        _shared(*(pane_window(pane, master, size, int(n)) for pane in (one, other))) for n in frames
    ]))  # fmt: skip


def _shared(one: Window, other: Window) -> float:
    boxes = [(w.cx, w.cy, w.bounds().width, w.bounds().height) for w in (one, other)]
    (ax, ay, aw, ah), (bx, by, bw, bh) = boxes
    across = min(ax + aw / 2, bx + bw / 2) - max(ax - aw / 2, bx - bw / 2)
    down = min(ay + ah / 2, by + bh / 2) - max(ay - ah / 2, by - bh / 2)
    both = max(0.0, across) * max(0.0, down)
    return min(1.0, both / (aw * ah + bw * bh - both))
