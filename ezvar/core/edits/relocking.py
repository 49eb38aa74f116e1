"""Carrying decisions over to a lock that was changed and locked again."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal, TypeVar

from ezvar.core.model import (
    MOST_EARLIER,
    Anchoring,
    CaptionTrack,
    Document,
    EarlierLock,
    Listed,
    NamedRange,
    Shot,
    Stretch,
    Title,
    hanging,
    lock_identity,
    time_of,
)

from .captions import in_order
from .colouring import colouring_after

Change = Literal["unchanged", "moved", "trimmed", "extended", "split", "new", "removed"]

_WORDS: dict[Change, str] = {
    "unchanged": "is as it was",
    "moved": "was moved",
    "trimmed": "was trimmed",
    "extended": "was extended",
    "split": "is a further part of it",
}


@dataclass(frozen=True)
class Carried:
    """What became of one shot: ``old`` and ``new`` are shot numbers from 1, ``None`` where there is none."""

    change: Change
    old: int | None
    new: int | None
    said: str


@dataclass(frozen=True)
class Match:
    """A shot of the old lock that shows what a new one does; the new one's first frame is its frame ``later``."""

    shot: str
    later: int


def carry(old: Document, new: Document, same: dict[str, Match]) -> tuple[Document, list[Carried]]:
    """The new lock with every decision of the old document that has a shot to go to.

    ``same`` maps shots of the new lock to those of the old one that show the
    same, as the lock's rooms match them. Framings keep
    their windows at the same pictures: a shot that begins later or earlier
    in its clip has its keyframes shifted. What has no shot any more is kept
    in the document's ``aside``, and listed.
    """
    moved = _Moved(old, new, same)
    masters = tuple(
        replace(m, ranges=_ranges(m.ranges, new, moved), poster=moved.frame(m.poster, new.lock.frames))
        for m in old.masters
    )
    doc = replace(hanging.with_shots_only(new, ()), masters=masters, project=old.project)
    listed: list[Carried] = []
    used: dict[str, int] = {}
    for number, shot in enumerate(new.shots, 1):
        match = same.get(shot.id)
        if match is None:
            listed.append(Carried("new", None, number, f"Shot {number} is new."))
            continue
        origin = old.shot(match.shot)
        place = old.place_of(origin.id) + 1
        used[origin.id] = used.get(origin.id, 0) + 1
        doc = hanging.carried(old, origin.id, shot.id, match.later, doc)
        change = _change(origin, shot, match.later, used[origin.id])
        words = _WORDS[change]
        listed.append(Carried(change, place, number, f"Shot {number}, earlier {place}, {words}."))
    gone = [s for s in old.shots if s.id not in used]
    for shot in gone:
        place = old.place_of(shot.id) + 1
        decided = [old.master(f.master).name for f in old.framings if f.shot == shot.id]
        kept = f" Its framings for {', '.join(decided)} are kept aside." if decided else ""
        listed.append(Carried("removed", place, None, f"Shot {place} of the old lock is no longer there.{kept}"))
    aside = tuple(f for f in old.framings if f.shot in {s.id for s in gone})
    tracks, lost = _captions(old, new, moved)
    titles, gone_titles = _titles(old, new, moved)
    listed += [*lost, *gone_titles]
    items = {t.id for t in titles} | {c.id for track in tracks for c in track.captions}
    doc = replace(
        doc,
        tracks=tracks,
        styles=old.styles,
        differing=tuple(d for d in old.differing if d.caption in items),
        titles=tuple(_standing(t, items) for t in titles),
        placed=tuple(p for p in old.placed if _is_there(p.item, items)),
        title_lane=old.title_lane,
        anchorings=tuple(_standing(a, items) for a in old.anchorings),
        shared=old.shared,
        returns=old.returns,
        earlier=_earlier(old, new, same),
        listed=tuple(_row(row, new, moved) for row in old.listed),
        unlisted=old.unlisted,
        makings=old.makings,
        colouring=colouring_after(old, new),
    )
    return replace(doc, aside=(*old.aside, *aside)), listed


def _ranges(ranges: tuple[NamedRange, ...], new: Document, moved: _Moved) -> tuple[NamedRange, ...]:
    """Named ranges, each where its first and last frame are now; one whose ends are gone stays at its frames."""
    found = []
    for each in ranges:
        span = moved.span(each.start, each.end, new.lock.frames)
        found.append(each if span is None else replace(each, start=span[0], end=span[1]))
    return tuple(found)


def _row(row: Listed, new: Document, moved: _Moved) -> Listed:
    """A row with frames of its own, where these are now; of its whole range again where they are gone."""
    if row.start is None or row.end is None:
        return row
    start, end = moved.span(row.start, row.end, new.lock.frames) or (None, None)
    return replace(row, start=start, end=end)


def _earlier(old: Document, new: Document, same: dict[str, Match]) -> tuple[EarlierLock, ...]:
    """The old lock and those before it, with where their frames are in the new one."""
    stretches = []
    for shot in new.shots:
        if (match := same.get(shot.id)) is not None:
            origin, later = old.shot(match.shot), match.later
            first, last = max(0, later), min(origin.frames, later + shot.frames)
            if first < last:
                stretches.append(Stretch(origin.start + first, shot.start + first - later, last - first))
    replaced = EarlierLock(lock_identity(old), old.lock.frames, tuple(stretches))
    return (replaced, *(e.onward(stretches) for e in old.earlier))[:MOST_EARLIER]


def _titles(old: Document, new: Document, moved: _Moved) -> tuple[list[Title], list[Carried]]:
    """The titles, each where the shot that it begins in is now, and which of them had none to go to."""
    titles, lost = [], []
    for title in old.titles:
        by = moved.by(title.start)
        if by is None or title.start + by >= new.lock.frames:
            said = f"The title “{title.called}” belongs to a shot that is gone, and was left out."
            lost.append(Carried("removed", old.place_of(old.shot_at(title.start).id) + 1, None, said))
        else:
            start = max(0, title.start + by)
            titles.append(replace(title, start=start, end=max(start + 1, min(new.lock.frames, title.end + by))))
    return titles, lost


_T = TypeVar("_T", Title, Anchoring)


def _standing(thing: _T, items: set[str]) -> _T:
    """A title, or how a layer is anchored: by itself where what it stood beside is gone."""
    gone = thing.beside is not None and not _is_there(thing.beside.item, items)
    return replace(thing, beside=None) if gone else thing


def _is_there(item: str, items: set[str]) -> bool:
    """Whether an item still is; layers of a lock are known by names that another may have too."""
    return item in items or item.startswith("layer ")


class _Moved:
    """Where frames of an old lock are in a new one: with the first shot there that shows them."""

    def __init__(self, old: Document, new: Document, same: dict[str, Match]) -> None:
        self._old = old
        self._ways: dict[str, list[tuple[Shot, int]]] = {}
        for shot in new.shots:
            if (match := same.get(shot.id)) is not None:
                self._ways.setdefault(match.shot, []).append((shot, match.later))

    def by(self, frame: int) -> int | None:
        """How many frames later a frame is now; ``None`` where no shot shows it any more."""
        origin = self._old.shot_at(min(frame, self._old.lock.frames - 1))
        at = frame - origin.start
        ways = self._ways.get(origin.id, ())
        return next((s.start - later - origin.start for s, later in ways if 0 <= at - later < s.frames), None)

    def frame(self, frame: int | None, most: int) -> int | None:
        """Where a frame is now, before ``most``; ``None`` where it is gone, or none."""
        by = None if frame is None else self.by(frame)
        return frame + by if frame is not None and by is not None and 0 <= frame + by < most else None

    def span(self, start: int, end: int, most: int) -> tuple[int, int] | None:
        """Where a range is now by its first and last frame, within ``most``; ``None`` where one of them is gone."""
        first, last = self.by(start), self.by(end - 1)
        if first is None or last is None:
            return None
        at = max(0, start + first), min(most, end + last)
        return at if at[0] < at[1] else None


def _captions(old: Document, new: Document, moved: _Moved) -> tuple[tuple[CaptionTrack, ...], list[Carried]]:
    """The captions, each where the shot that it begins in is now, and which of them had none to go to."""
    rate, tracks, lost = old.lock.rate, [], []
    last = time_of(new.lock.frames, rate)
    for track in old.tracks:
        made = []
        for caption in track.captions:
            begins = caption.frames(rate).start
            frames = moved.by(begins)
            if frames is None:
                said = f"The caption “{caption.words[:40]}” belongs to a shot that is gone, and was left out."
                lost.append(Carried("removed", old.place_of(old.shot_at(begins).id) + 1, None, said))
                continue
            by = time_of(frames, rate)
            start = max(0, caption.start + by)
            made.append(replace(caption, start=start, end=max(start + 1, min(last, caption.end + by))))
        tracks.append(replace(track, captions=in_order(made)))
    return tuple(tracks), lost


def _change(old: Shot, new: Shot, later: int, uses: int) -> Change:
    if uses > 1:
        return "split"
    if later < 0 or later + new.frames > old.frames:
        return "extended"
    if later > 0 or later + new.frames < old.frames:
        return "trimmed"
    return "unchanged" if old.start == new.start else "moved"
