"""Every change of the document, as a pure function ``Document -> Document``.

The app wraps each in an undo step; the command line and the tests call the
same. None of these solves a framing or keeps a window inside its picture:
that is `ezvar.core.framing`'s.
"""

from __future__ import annotations

import secrets
from collections.abc import Iterable
from dataclasses import replace
from fractions import Fraction

from .document import Cut, Document, Exchanged, Framing, Keyframe, Master, Pane, Reason, Shot, Verdict
from .locked import Lock, Source


def new_id() -> str:
    """An id that is new everywhere, for shots and masters."""
    return secrets.token_hex(4)


def set_shots(doc: Document, shots: Iterable[Shot]) -> Document:
    """Put new shots in place; framings of shots that are gone go with them."""
    kept = tuple(shots)
    ids = {s.id for s in kept}
    return replace(
        doc,
        shots=kept,
        framings=tuple(f for f in doc.framings if f.shot in ids),
        exchanged=tuple(e for e in doc.exchanged if e.shot in ids),
    )


def shots_from_cuts(lock: Lock, media: str, cuts: Iterable[Cut]) -> tuple[Shot, ...]:
    """The shots of a flat lock between its cuts. A mix is split in its middle."""
    inner = sorted((c for c in cuts if 0 < (c.start + c.end) // 2 < lock.frames), key=lambda c: (c.start + c.end) // 2)
    starts: list[tuple[int, Cut | None]] = [(0, None)]
    for cut in inner:
        frame = (cut.start + cut.end) // 2
        if frame > starts[-1][0]:
            starts.append((frame, cut))
    ends = [frame for frame, _ in starts[1:]] + [lock.frames]
    return tuple(
        Shot(id=new_id(), start=start, end=end, source=Source(media, Fraction(start)), cut=cut)
        for (start, cut), end in zip(starts, ends, strict=True)
    )


def add_cut(doc: Document, frame: int) -> Document:
    """Split the shot at ``frame``, the first frame of the new one, which takes on the framings of the old.

    Raises `ValueError` where a cut is already, or outside the lock.
    """
    if not 0 < frame < doc.lock.frames:
        raise ValueError("there is no frame to cut at")
    old = doc.shot_at(frame)
    if old.start == frame:
        raise ValueError("there is a cut already")
    offset = frame - old.start
    new = replace(
        old,
        id=new_id(),
        start=frame,
        source=old.source.later(offset),
        placement=old.placement.later(offset),
        cut=Cut("cut", frame, frame, settled=True),
    )
    at = doc.place_of(old.id)
    shots = (*doc.shots[:at], replace(old, end=frame), new, *doc.shots[at + 1 :])
    inherited = tuple(
        replace(f, shot=new.id, panes=tuple(_shift_keys(p, -offset) for p in f.panes))
        for f in doc.framings
        if f.shot == old.id
    )
    return replace(doc, shots=shots, framings=doc.framings + inherited)


def remove_cut(doc: Document, shot: str) -> Document:
    """Join a shot to the one before it, whose framings then hold for both."""
    at = doc.place_of(shot)
    if at == 0:
        raise ValueError("the first shot begins the lock, there is no cut")
    before, gone = doc.shots[at - 1], doc.shots[at]
    shots = (*doc.shots[: at - 1], replace(before, end=gone.end), *doc.shots[at + 1 :])
    return set_shots(doc, shots)


def move_cut(doc: Document, shot: str, frame: int) -> Document:
    """Let a shot begin at ``frame``; both windows stay where they are in time.

    Raises `ValueError` where one of the two shots would have no frame left.
    """
    at = doc.place_of(shot)
    if at == 0:
        raise ValueError("the first shot begins the lock, there is no cut")
    before, moved = doc.shots[at - 1], doc.shots[at]
    if not before.start < frame < moved.end:
        raise ValueError("a shot would have no frame left")
    by = frame - moved.start
    cut = replace(moved.cut, start=frame, end=frame, settled=True) if moved.cut else None
    shots = (
        *doc.shots[: at - 1],
        replace(before, end=frame),
        replace(moved, start=frame, source=moved.source.later(by), placement=moved.placement.later(by), cut=cut),
        *doc.shots[at + 1 :],
    )
    framings = tuple(
        replace(f, panes=tuple(_shift_keys(p, -by) for p in f.panes)) if f.shot == shot else f for f in doc.framings
    )
    return replace(doc, shots=shots, framings=framings)


def settle_cut(doc: Document, shot: str) -> Document:
    """Note that an editor has looked at the cut that begins a shot."""
    shots = tuple(replace(s, cut=replace(s.cut, settled=True)) if s.id == shot and s.cut else s for s in doc.shots)
    return replace(doc, shots=shots)


def add_master(doc: Document, master: Master) -> Document:
    """Add a master after the others. Raises `ValueError` for a name that is taken."""
    if any(m.name == master.name for m in doc.masters):
        raise ValueError(f"there is a master named {master.name} already")
    return replace(doc, masters=(*doc.masters, master))


def remove_master(doc: Document, master: str) -> Document:
    """Remove a master with all its framings."""
    return replace(
        doc,
        masters=tuple(m for m in doc.masters if m.id != master),
        framings=tuple(f for f in doc.framings if f.master != master),
        exchanged=tuple(e for e in doc.exchanged if e.master != master),
    )


def set_framings(doc: Document, framings: Iterable[Framing]) -> Document:
    """Put framings in place of those for the same shots and masters, or add them."""
    new = {(f.shot, f.master): f for f in framings}
    kept = tuple(new.pop((f.shot, f.master), f) for f in doc.framings)
    return replace(doc, framings=kept + tuple(new.values()))


def set_panes(doc: Document, shot: str, master: str, panes: tuple[Pane, ...], reasons: tuple[Reason, ...]) -> Document:
    """Put an editor's own panes in place, with the doubt that now holds.

    An agreed framing that is changed is open again.
    """
    old = _framing(doc, shot, master)
    return set_framings(
        doc, [replace(old, panes=panes, reasons=reasons, decided="by hand", why="Set by hand.", verdict="open")]
    )


def set_keyframe(pane: Pane, key: Keyframe) -> Pane:
    """Set one keyframe of a pane, in place of another at the same frame."""
    keys = [k for k in pane.keys if k.frame != key.frame]
    return replace(pane, keys=tuple(sorted([*keys, key], key=lambda k: k.frame)))


def set_verdict(doc: Document, shot: str, master: str, verdict: Verdict) -> Document:
    """Say what a reviewer says of a framing."""
    return set_framings(doc, [replace(_framing(doc, shot, master), verdict=verdict)])


def set_exchanged(doc: Document, exchanged: Iterable[Exchanged]) -> Document:
    """Note the decisions that both sides of a handoff now have."""
    known = {(e.shot, e.master): e for e in doc.exchanged}
    known.update({(e.shot, e.master): e for e in exchanged})
    return replace(doc, exchanged=tuple(known.values()))


def _framing(doc: Document, shot: str, master: str) -> Framing:
    framing = doc.framing(shot, master)
    if framing is None:
        raise KeyError((shot, master))
    return framing


def _shift_keys(pane: Pane, by: int) -> Pane:
    return replace(pane, keys=tuple(replace(k, frame=k.frame + by) for k in pane.keys))
