"""The data classes of the document. All are immutable and say their units.

Nothing is computed here beyond looking things up: where a window lies is
`ezvar.core.framing`'s, how values change is `edits`'.
"""

from __future__ import annotations

from collections.abc import Iterable
from copy import copy
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

from ezvar.core.timing import FrameRange

from .checks import LARGEST_SIDE, MOST_MASTERS, MOST_SHOTS, finite, frames
from .colouring import Colouring
from .earlier import EarlierLock
from .framings import Drawn, Exchanged, Framing, Past, Played
from .locked import Lock, Media, Placement, Source, Wipe
from .notes import ReviewNote
from .output.makings import Makings
from .output.rows import Listed
from .windows import Backdrop
from .written.captions import CaptionStyle, CaptionTrack, Differing, TrackStyle
from .written.textless import Textless, TextlessShot
from .written.titles import Anchoring, Placed, Title, TitleLane
from .written.zones import ZoneProfile

CutKind = Literal["cut", "dissolve", "fade", "wipe"]
Uses = Literal["what the edit showed", "the full source"]


@dataclass(frozen=True, slots=True)
class Cut:
    """The change of shot that begins a shot.

    ``start`` and ``end`` are lock frames: of a hard cut both are the first
    frame of the incoming shot, of a mix its first frame and the one after it.
    The incoming shot begins at ``frame``, of a mix its middle.
    ``strength`` is 0..1, ``doubt`` 0..100. ``settled`` once an editor has
    looked. ``wipe`` is how a wipe goes where the timeline states one.
    """

    kind: CutKind
    start: int
    end: int
    strength: float = 1.0
    doubt: float = 0.0
    why: str = ""
    settled: bool = False
    wipe: Wipe | None = None
    carried: str = ""  # what others say of it in the timeline's metadata, as the library's JSON

    def __post_init__(self) -> None:
        finite(strength=self.strength, doubt=self.doubt)

    @property
    def frame(self) -> int:
        """The first frame of the incoming shot."""
        return (self.start + self.end) // 2


@dataclass(frozen=True, slots=True)
class Shot:
    """A stretch of the lock between two cuts: lock frames, ``end`` excluded."""

    id: str
    start: int
    end: int
    source: Source
    placement: Placement = Placement()
    uses: Uses = "what the edit showed"
    cut: Cut | None = None
    carried: str = ""  # what others say of its clip in the timeline's metadata, as the library's JSON

    def __post_init__(self) -> None:
        if self.end <= self.start:
            raise ValueError("a shot has at least one frame")
        frames(start=self.start, end=self.end)

    @property
    def frames(self) -> int:
        return self.end - self.start

    @property
    def range(self) -> FrameRange:
        return FrameRange(self.start, self.end)


@dataclass(frozen=True, slots=True)
class NamedRange:
    """A part of the lock that is delivered by itself: lock frames, ``end`` excluded."""

    name: str
    start: int
    end: int
    limit_seconds: float | None = None

    def __post_init__(self) -> None:
        frames(start=self.start, end=self.end)
        finite(limit=self.limit_seconds or 0.0)


@dataclass(frozen=True, slots=True)
class Master:
    """One finished movie in one shape; width and height in pixels, both even."""

    id: str
    name: str
    width: int
    height: int
    start: Literal["fill", "whole"] = "fill"
    backdrop: Backdrop = Backdrop()
    ranges: tuple[NamedRange, ...] = ()
    pace: float = 0.5  # 0 never moves, 1 follows closely
    zones: ZoneProfile | None = None  # what a viewing app draws over
    poster: int | None = None  # the lock frame that stands for it

    def __post_init__(self) -> None:
        if not 0 <= self.pace <= 1:
            raise ValueError("pace lies between 0 and 1")
        for side in (self.width, self.height):
            if not 16 <= side <= LARGEST_SIDE:
                raise ValueError(f"a master's sides lie between 16 and {LARGEST_SIDE} pixels")
            if side % 2:
                raise ValueError("a master's width and height must be even")


@dataclass(frozen=True)
class Document:
    """Everything known and decided. Shots fill the lock without gaps, in order."""

    lock: Lock
    shots: tuple[Shot, ...] = ()
    masters: tuple[Master, ...] = ()
    framings: tuple[Framing, ...] = ()
    exchanged: tuple[Exchanged, ...] = field(default=())
    aside: tuple[Framing, ...] = ()  # decisions on shots that a changed lock no longer has
    passed: tuple[Cut, ...] = ()  # changes taken for no cuts that still deserve a look
    drawn: tuple[Drawn, ...] = ()  # subjects that an editor has drawn
    played: tuple[Played, ...] = ()
    project: str = ""  # an id of its own, from its beginning on
    tracks: tuple[CaptionTrack, ...] = ()  # of captions, the first lowest
    styles: tuple[TrackStyle, ...] = ()
    differing: tuple[Differing, ...] = ()  # captions that are not as their track's style says
    titles: tuple[Title, ...] = ()  # made here, the first lowest
    title_lane: TitleLane = field(default_factory=TitleLane)
    textless: Textless | None = None  # the same edit without what was written into it
    textless_shots: tuple[TextlessShot, ...] = ()  # that show it
    placed: tuple[Placed, ...] = ()  # titles and layers that do not stand where they would by themselves
    notes: tuple[ReviewNote, ...] = ()  # of reviewers, and answers to them
    past: tuple[Past, ...] = ()  # what framings were before, the oldest first
    versions: tuple[Framing, ...] = ()  # of others, where several changed a framing, until that is settled
    shared: str = ""  # the folder that a team shares
    returns: tuple[str, ...] = ()  # digests of files in it that were seen to, or are our own
    anchorings: tuple[Anchoring, ...] = ()  # of layers that are not laid out as the lock has them
    earlier: tuple[EarlierLock, ...] = ()  # locks that this one has replaced, the last first
    listed: tuple[Listed, ...] = ()  # rows of the output list that are not as they would be by themselves
    unlisted: tuple[str, ...] = ()  # ids of rows that would be there by themselves, and are not wanted
    makings: Makings = field(default_factory=Makings)  # what became of rows
    colouring: Colouring = field(default_factory=Colouring)

    def __post_init__(self) -> None:
        if len(self.masters) > MOST_MASTERS:
            raise ValueError(f"there are at most {MOST_MASTERS} masters")
        if max(len(self.shots), len(self.framings)) > MOST_SHOTS:
            raise ValueError("there are at most a million shots and framings")
        at = 0
        for shot in self.shots:
            if shot.start != at:
                raise ValueError(f"shot {shot.id} starts at frame {shot.start}, not at {at}")
            at = shot.end
        if self.shots and at != self.lock.frames:
            raise ValueError(f"the shots end at frame {at}, the lock at {self.lock.frames}")
        for what, count, ids in (
            ("shot", len(self.shots), {s.id for s in self.shots}),
            ("master", len(self.masters), {m.id for m in self.masters}),
            ("framing", len(self.framings), self._framing_places),
            ("drawn subject", len(self.drawn), {d.id for d in self.drawn}),
            ("caption track", len(self.tracks), {t.id for t in self.tracks}),
            ("style of a track", len(self.styles), self._styles),
            ("caption that differs", len(self.differing), self._differing),
            ("title", len(self.titles), {t.id for t in self.titles}),
            ("place of an item", len(self.placed), self._placed),
            ("note", len(self.notes), {(n.shot, n.master, n.id) for n in self.notes}),
            ("anchoring of a layer", len(self.anchorings), self._anchorings),
            ("row", len(self.listed), {r.id for r in self.listed}),
        ):
            if len(ids) != count:
                raise ValueError(f"one {what} is there twice")
        media = {m.id for m in self.lock.media}
        masters = {m.id for m in self.masters}
        if any(s.source.media not in media for s in self.shots):
            raise ValueError("a shot shows media that the lock does not list")
        known = self._shot_places
        if any(f.shot not in known or f.master not in masters for f in self.framings):
            raise ValueError("a framing belongs to no shot or no master")
        if any(d.shot not in known for d in self.drawn):
            raise ValueError("a drawn subject belongs to no shot")
        if any(n.shot not in known or n.master not in masters | {""} for n in self.notes):
            raise ValueError("a note belongs to no shot or no master")
        if any(r.master not in masters for r in self.listed):
            raise ValueError("a row belongs to no master")
        if any(f.shot not in known or f.master not in masters for f in self.versions):
            raise ValueError("a version of others belongs to no shot or no master")
        if any(p.framing.shot not in known or p.framing.master not in masters for p in self.past):
            raise ValueError("an earlier framing belongs to no shot or no master")

    @cached_property
    def _shot_places(self) -> dict[str, int]:
        return {shot.id: k for k, shot in enumerate(self.shots)}

    @cached_property
    def _placed(self) -> dict[tuple[str, str], Placed]:
        return {(p.item, p.master): p for p in self.placed}

    @cached_property
    def _anchorings(self) -> dict[str, Anchoring]:
        return {a.item: a for a in self.anchorings}

    @cached_property
    def _styles(self) -> dict[tuple[str, str], CaptionStyle]:
        return {(s.track, s.master): s.style for s in self.styles}

    @cached_property
    def _differing(self) -> dict[tuple[str, str], Differing]:
        return {(d.caption, d.master): d for d in self.differing}

    @cached_property
    def _media(self) -> dict[str, Media]:
        return {m.id: m for m in self.lock.media}

    @cached_property
    def _framing_places(self) -> dict[tuple[str, str], int]:
        return {(f.shot, f.master): k for k, f in enumerate(self.framings)}

    def shot(self, shot: str) -> Shot:
        """The shot with this id; `KeyError` when there is none."""
        return self.shots[self._shot_places[shot]]

    def place_of(self, shot: str) -> int:
        """The place of a shot in the order, from 0."""
        return self._shot_places[shot]

    def shot_at(self, frame: int) -> Shot:
        """The shot that owns a lock frame; frames outside give the nearest."""
        low, high = 0, len(self.shots) - 1
        while low < high:
            middle = (low + high + 1) // 2
            if self.shots[middle].start <= frame:
                low = middle
            else:
                high = middle - 1
        return self.shots[low]

    def master(self, master: str) -> Master:
        """The master with this id; `KeyError` when there is none."""
        for candidate in self.masters:
            if candidate.id == master:
                return candidate
        raise KeyError(master)

    def media_of(self, shot: Shot) -> Media:
        """The media that a shot shows."""
        return self._media[shot.source.media]

    def framing(self, shot: str, master: str) -> Framing | None:
        """How a shot sits in a master, once decided."""
        place = self._framing_places.get((shot, master))
        return None if place is None else self.framings[place]

    def track(self, track: str) -> CaptionTrack:
        """The track of captions with this id; `KeyError` when there is none."""
        for candidate in self.tracks:
            if candidate.id == track:
                return candidate
        raise KeyError(track)

    def place_of_track(self, track: str) -> int:
        """The place of a track among the tracks, from 0, the lowest first."""
        return next(k for k, t in enumerate(self.tracks) if t.id == track)

    @cached_property
    def _sent(self) -> dict[tuple[str, str], str]:
        return {(e.shot, e.master): e.digest for e in self.exchanged}

    def sent(self, shot: str, master: str) -> str:
        """The digest of the framing that both sides last had; empty where none was handed out."""
        return self._sent.get((shot, master), "")

    @cached_property
    def _notes(self) -> dict[str, tuple[ReviewNote, ...]]:
        found: dict[str, list[ReviewNote]] = {}
        for note in self.notes:
            found.setdefault(note.shot, []).append(note)
        return {shot: tuple(notes) for shot, notes in found.items()}

    @cached_property
    def _versions(self) -> dict[tuple[str, str], tuple[Framing, ...]]:
        found: dict[tuple[str, str], tuple[Framing, ...]] = {}
        for each in self.versions:
            found[each.shot, each.master] = (*found.get((each.shot, each.master), ()), each)
        return found

    def versions_of(self, shot: str, master: str) -> tuple[Framing, ...]:
        """What others decided on a framing that was changed here or by several of them, until it is settled."""
        return self._versions.get((shot, master), ())

    def notes_on(self, shot: str, master: str) -> tuple[ReviewNote, ...]:
        """What was noted on a shot in a master, or on the shot in all of them, as far as it stands."""
        notes = self._notes.get(shot)
        if notes is None:
            return ()
        frames = self.shot(shot).frames
        return tuple(n for n in notes if n.master in ("", master) and n.stands and n.start < frames and n.end > 0)

    def style(self, track: str, master: str) -> CaptionStyle | None:
        """The style of a track in a master, once one was chosen."""
        return self._styles.get((track, master))

    @cached_property
    def _textless(self) -> frozenset[str]:
        return frozenset(t.shot for t in self.textless_shots)

    def unwritten(self, shot: str) -> bool:
        """Whether what is written in a shot's picture is nothing to keep: it is titled anew."""
        return shot in self._textless

    def is_textless(self, shot: str) -> bool:
        """Whether a shot shows the textless version's pictures."""
        return self.textless is not None and shot in self._textless

    @property
    def shown_titles(self) -> tuple[Title, ...]:
        """The titles, unless all are hidden."""
        return self.titles if self.title_lane.shown else ()

    def title(self, title: str) -> Title:
        """The title with this id; `KeyError` when there is none."""
        for candidate in self.titles:
            if candidate.id == title:
                return candidate
        raise KeyError(title)

    def stands(self, item: str, master: str) -> Placed:
        """Where an item stands in a master beside its first layout."""
        return self._placed.get((item, master)) or Placed(item, master)

    def anchoring(self, item: str) -> Anchoring:
        """To what a layer of the lock is anchored with its group, by the `layer_key` of the first of that."""
        return self._anchorings.get(item) or Anchoring(item)

    def differs(self, caption: str, master: str) -> Differing:
        """How a caption differs from its track's style in a master."""
        return self._differing.get((caption, master)) or Differing(caption, master)

    def with_framings(self, framings: Iterable[Framing]) -> Document:
        """The document with framings in place of those for the same shots and masters, or added.

        Only these are checked against the shots and masters, since a window
        that is dragged in an edit of thousands of shots changes one of them.
        """
        now, places, masters = list(self.framings), self._framing_places, {m.id for m in self.masters}
        for framing in framings:
            if framing.shot not in self._shot_places or framing.master not in masters:
                raise ValueError("a framing belongs to no shot or no master")
            place = places.get((framing.shot, framing.master))
            if place is not None:
                now[place] = framing
                continue
            if places is self._framing_places:
                places = places.copy()
            places[framing.shot, framing.master] = len(now)
            now.append(framing)
        made = copy(self)
        vars(made).update(framings=tuple(now), _framing_places=places)  # what else is known of it holds on
        return made
