"""Media put in the place of those that a timeline names."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cached_property

from ezvar.core.model import Choices, Document, Framing, Media, SoundClip, Source


@dataclass(frozen=True)
class MediaLink:
    """A media as the timeline tells of it and as its file is. ``shift`` seconds are added to the times used."""

    old: Media
    new: Media
    shift: Fraction

    @cached_property
    def ratio(self) -> Fraction:
        """Frames of the new media for each of the old."""
        return self.new.rate.fraction / self.old.rate.fraction

    @cached_property
    def seconds(self) -> Fraction:
        """Seconds of the new media's own count where the old one's begins."""
        return self.old.origin - self.new.origin + self.shift

    @cached_property
    def frames(self) -> Fraction:
        return self.seconds * self.new.rate.fraction

    def moved(self, start: Fraction) -> Fraction:
        """A place in the old media's frames as the same time in the new one's."""
        return Fraction(0) if self.new.kind == "still" else start * self.ratio + self.frames

    def source(self, source: Source) -> Source:
        if self.new.kind == "still":
            return Source(source.media, Fraction(0), Fraction(0))
        if self.ratio == 1 and not self.frames:
            return source
        return Source(source.media, self.moved(source.start), source.step * self.ratio)

    def sound(self, clip: SoundClip) -> SoundClip:
        return replace(clip, source=clip.source + self.seconds) if self.seconds else clip


def link_media(doc: Document, links: Sequence[MediaLink]) -> Document:
    """The document with all these media found. One pass, whatever their number, since edits have thousands of shots.

    Framings that were only put where the media were not there go, to be solved; what was asked or decided stays.
    """
    by = {link.old.id: link for link in links}
    lock = doc.lock
    shots = tuple(
        replace(s, source=by[s.source.media].source(s.source)) if s.source.media in by else s for s in doc.shots
    )
    sound = tuple(by[c.media].sound(c) if c.media in by else c for c in lock.sound)
    layers = tuple(
        replace(each, source=by[each.source.media].source(each.source)) if each.source.media in by else each
        for each in lock.layers
    )
    media = tuple(by[m.id].new if m.id in by else m for m in lock.media)
    found = {s.id for s in doc.shots if s.source.media in by and by[s.source.media].old.missing}
    framings = tuple(f for f in doc.framings if f.shot not in found or not _is_put_only(f))
    return replace(doc, lock=replace(lock, media=media, sound=sound, layers=layers), shots=shots, framings=framings)


def _is_put_only(framing: Framing) -> bool:
    """Whether nobody has asked or decided anything about a framing."""
    open_and_solved = framing.decided == "solved" and framing.verdict == "open" and not framing.held
    return open_and_solved and all(pane.choices == Choices() for pane in framing.panes) and len(framing.panes) == 1
