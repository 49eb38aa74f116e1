"""The cuts of the lock: found, kept, dropped, moved, added."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from fractions import Fraction

from ezvar.core.model import Cut, CutPlace, Document, Lock, Shot, Source, hanging, new_id

_NEAR = 4  # frames


def set_shots(doc: Document, shots: Iterable[Shot]) -> Document:
    """Put new shots in place; what hangs on shots that are gone goes with them."""
    kept = tuple(shots)
    return replace(hanging.with_shots_only(doc, (s.id for s in kept)), shots=kept)


def shots_from_cuts(lock: Lock, media: str, cuts: Iterable[Cut]) -> tuple[Shot, ...]:
    """The shots of a flat lock between its cuts. A mix is split in its middle."""
    inner = sorted((c for c in cuts if 0 < c.frame < lock.frames), key=lambda c: c.frame)
    starts: list[tuple[int, Cut | None]] = [(0, None)]
    for cut in inner:
        frame = cut.frame
        if frame > starts[-1][0]:
            starts.append((frame, cut))
    ends = [frame for frame, _ in starts[1:]] + [lock.frames]
    return tuple(
        Shot(id=new_id(), start=start, end=end, source=Source(media, Fraction(start)), cut=cut)
        for (start, cut), end in zip(starts, ends, strict=True)
    )


def add_cut(doc: Document, frame: int, cut: Cut | None = None) -> Document:
    """Split the shot at ``frame``, the first frame of the new one, which takes on the framings of the old.

    ``cut`` says what kind of cut it is, a hard one where none is given.
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
        cut=replace(cut or Cut("cut", frame, frame), settled=True),
    )
    at = doc.place_of(old.id)
    shots = (*doc.shots[:at], replace(old, end=frame), new, *doc.shots[at + 1 :])
    passed = tuple(c for c in doc.passed if c is not cut and c.frame != frame)
    return hanging.split(replace(doc, shots=shots, passed=passed), old.id, new.id, offset)


def dismiss(doc: Document, cut: Cut) -> Document:
    """Note that a change that was passed over is no cut indeed."""
    return replace(doc, passed=tuple(c for c in doc.passed if c != cut))


def find_anew(doc: Document, cuts: Iterable[Cut], passed: Iterable[Cut], start: int, end: int) -> Document:
    """Put newly found cuts in place from frame ``start`` to ``end`` of a flat lock.

    Cuts there that an editor has settled stay, as do framings of shots that
    do not change; a shot that is cut anew hands its framings on.
    """
    settled = [s.start for s in doc.shots if s.cut is not None and s.cut.settled]
    found = {
        c.frame: c
        for c in cuts
        if start <= c.frame < end
        and 0 < c.frame < doc.lock.frames
        # Close by a settled one it is the same cut, which an editor has moved.
        and (c.frame in settled or all(abs(c.frame - s) > _NEAR for s in settled))
    }
    for shot in doc.shots[1:]:
        if start <= shot.start < end and shot.start not in found and not (shot.cut and shot.cut.settled):
            doc = remove_cut(doc, shot.id)
    at = {s.start: s for s in doc.shots}
    for frame, cut in sorted(found.items()):
        old = at[frame].cut if frame in at else None
        if frame not in at:
            doc = add_cut(doc, frame, cut)
        if old is None or not old.settled:
            doc = replace(doc, shots=tuple(replace(s, cut=cut) if s.start == frame else s for s in doc.shots))
    taken = {s.start for s in doc.shots}
    others = tuple(c for c in doc.passed if not start <= c.frame < end)
    new = tuple(c for c in passed if start <= c.frame < end and c.frame not in taken)
    return replace(doc, passed=tuple(sorted((*others, *new), key=lambda c: c.frame)))


def remove_cut(doc: Document, shot: str) -> Document:
    """Join a shot to the one before it; the framings of the longer one then hold for both.

    Raises `ValueError` where the two show different clips, or not the same one going on.
    """
    at = doc.place_of(shot)
    if at == 0:
        raise ValueError("the first shot begins the lock, there is no cut")
    before, gone = doc.shots[at - 1], doc.shots[at]
    if not goes_on(before, gone):
        raise ValueError("the two shots show different clips")
    shots = (*doc.shots[: at - 1], replace(before, end=gone.end), *doc.shots[at + 1 :])
    longer = gone.id if gone.frames > before.frames else before.id
    return replace(hanging.joined(doc, before.id, gone.id, gone.start - before.start, longer), shots=shots)


def goes_on(before: Shot, after: Shot) -> bool:
    """Whether a shot only goes on with what the one before it shows."""
    return before.source.later(before.frames) == after.source and before.uses == after.uses


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
    if not goes_on(before, moved):
        raise ValueError("the timeline sets it, and the lock is never changed")
    by = frame - moved.start
    cut = replace(moved.cut, start=frame, end=frame, settled=True) if moved.cut else None
    shots = (
        *doc.shots[: at - 1],
        replace(before, end=frame),
        replace(moved, start=frame, source=moved.source.later(by), placement=moved.placement.later(by), cut=cut),
        *doc.shots[at + 1 :],
    )
    return replace(hanging.moved(doc, shot, by), shots=shots)


def settle_cut(doc: Document, shot: str) -> Document:
    """Note that an editor has looked at the cut that begins a shot."""
    shots = tuple(replace(s, cut=replace(s.cut, settled=True)) if s.id == shot and s.cut else s for s in doc.shots)
    return replace(doc, shots=shots)


def keep(doc: Document, place: CutPlace) -> Document:
    """A cut there is one: settle it, or make the passed-over change a cut."""
    if place.shot is not None:
        return settle_cut(doc, place.shot)
    return add_cut(doc, place.frame, place.cut)


def drop(doc: Document, place: CutPlace) -> Document:
    """There is no cut: join its shots, or forget the passed-over change."""
    if place.shot is not None:
        return remove_cut(doc, place.shot)
    return dismiss(doc, place.cut)
