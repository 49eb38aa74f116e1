"""Every change of the document, as a pure function ``Document -> Document``.

The app wraps each in an undo step; the command line and the tests call the
same. None of these solves a framing or keeps a window inside its picture:
that is `ezvar.core.framing`'s.
"""

from __future__ import annotations

import secrets
from collections.abc import Iterable, Mapping
from dataclasses import replace
from fractions import Fraction

from .document import Cut, Document, Drawn, Exchanged, Framing, Held, Master, Reason, Shot, Uses, Verdict
from .locked import FrameRule, Lock, Placement, Source
from .windows import Keyframe, Pane

_NEAR = 4  # frames


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
        drawn=tuple(d for d in doc.drawn if d.shot in ids),
    )


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
    inherited = tuple(replace(f.later(offset), shot=new.id) for f in doc.framings if f.shot == old.id)
    drawn = tuple(replace(d.later(offset), id=new_id(), shot=new.id) for d in doc.drawn if d.shot == old.id)
    passed = tuple(c for c in doc.passed if c is not cut and c.frame != frame)
    return replace(doc, shots=shots, framings=doc.framings + inherited, passed=passed, drawn=doc.drawn + drawn)


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
    by = gone.start - before.start
    drawn = tuple(replace(d.later(-by), shot=before.id) if d.shot == gone.id else d for d in doc.drawn)
    joined = replace(set_shots(doc, shots), drawn=drawn)
    if gone.frames <= before.frames:
        return joined
    return set_framings(
        joined,
        (replace(f.later(-by), shot=before.id) for f in doc.framings if f.shot == gone.id),
    )


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
    framings = tuple(f.later(by) if f.shot == shot else f for f in doc.framings)
    drawn = tuple(d.later(by) if d.shot == shot else d for d in doc.drawn)
    return replace(doc, shots=shots, framings=framings, drawn=drawn)


def settle_cut(doc: Document, shot: str) -> Document:
    """Note that an editor has looked at the cut that begins a shot."""
    shots = tuple(replace(s, cut=replace(s.cut, settled=True)) if s.id == shot and s.cut else s for s in doc.shots)
    return replace(doc, shots=shots)


def turn_uses(doc: Document, shot: str) -> Document:
    """Let a shot's windows lie in the full source instead of what the edit showed, or the reverse.

    Its solved framings go, to be solved anew; those by hand and agreed ones stay.
    """
    old = doc.shot(shot)
    uses: Uses = "what the edit showed" if old.uses == "the full source" else "the full source"
    kept = tuple(f for f in doc.framings if f.shot != shot or f.decided != "solved" or f.verdict == "agreed")
    shots = tuple(replace(s, uses=uses) if s.id == shot else s for s in doc.shots)
    return replace(doc, shots=shots, framings=kept)


def place_shots(doc: Document, placements: Mapping[str, Placement]) -> Document:
    """Let shots be placed in the lock's frame as given, by their ids.

    Their solved framings go, to be solved anew; those by hand and agreed ones stay.
    """
    kept = tuple(f for f in doc.framings if f.shot not in placements or f.decided != "solved" or f.verdict == "agreed")
    shots = tuple(replace(s, placement=placements.get(s.id, s.placement)) for s in doc.shots)
    return replace(doc, shots=shots, framings=kept)


def turn_rule(doc: Document) -> Document:
    """Show the nearest frame of media of another rate instead of blending two, or the reverse."""
    rule: FrameRule = "nearest" if doc.lock.rule == "blended" else "blended"
    return replace(doc, lock=replace(doc.lock, rule=rule))


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


def duplicate_master(doc: Document, master: str) -> tuple[Document, Master]:
    """A copy of a master with all its decisions, right after it, under a name that is free."""
    old = doc.master(master)
    names = {m.name for m in doc.masters}
    name = next(n for k in range(2, len(names) + 3) if (n := f"{old.name} {k}") not in names)
    new = replace(old, id=new_id(), name=name)
    at = doc.masters.index(old) + 1
    copies = tuple(replace(f, master=new.id) for f in doc.framings if f.master == master)
    masters = (*doc.masters[:at], new, *doc.masters[at:])
    return replace(doc, masters=masters, framings=doc.framings + copies), new


def change_master(doc: Document, changed: Master) -> Document:
    """Put a master in place of the one with its id: another name, size, start or ranges. Decisions stay.

    Raises `ValueError` for a name that another master has.
    """
    if any(m.name == changed.name and m.id != changed.id for m in doc.masters):
        raise ValueError(f"there is a master named {changed.name} already")
    return replace(doc, masters=tuple(changed if m.id == changed.id else m for m in doc.masters))


def move_master(doc: Document, master: str, by: int) -> Document:
    """Move a master ``by`` places in their order; at the ends it stays."""
    masters = list(doc.masters)
    at = masters.index(doc.master(master))
    masters.insert(max(0, min(len(masters) - 1, at + by)), masters.pop(at))
    return replace(doc, masters=tuple(masters))


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


def hold(doc: Document, shot: str, master: str) -> Document:
    """Hold the present framing beside, as an alternative. Raises `ValueError` where `MOST_HELD` are held already."""
    old = _framing(doc, shot, master)
    held = Held(old.panes, old.arrangement, old.decided, old.why, old.reasons)
    return set_framings(doc, [replace(old, held=(*old.held, held))])


def swap_held(doc: Document, shot: str, master: str, number: int) -> Document:
    """Put the alternative ``number`` (from 0) in place and hold the present framing in its stead."""
    old = _framing(doc, shot, master)
    chosen = old.held[number]
    beside = Held(old.panes, old.arrangement, old.decided, old.why, old.reasons)
    held = (*old.held[:number], beside, *old.held[number + 1 :])
    return set_framings(
        doc,
        [
            replace(
                old, panes=chosen.panes, arrangement=chosen.arrangement, decided=chosen.decided, why=chosen.why,
                reasons=chosen.reasons, verdict="open", held=held, sound=min(old.sound, len(chosen.panes) - 1),
            )
        ],
    )  # fmt: skip


def keep_present(doc: Document, shot: str, master: str) -> Document:
    """Keep the present framing and let go of those that are held beside it."""
    return set_framings(doc, [replace(_framing(doc, shot, master), held=())])


def draw_subject(doc: Document, drawn: Drawn) -> Document:
    """Add a drawn subject, or put it in place of the one with its id."""
    others = tuple(d for d in doc.drawn if d.id != drawn.id)
    return replace(doc, drawn=(*others, drawn))


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
