"""Flattening an OpenTimelineIO timeline into clips in lock frames.

The lowest enabled picture track is the edit; clips of upper tracks are titles
and graphics, except where the edit below them is empty: there they are the
picture. Not done: effects other than speed, freeze frames and placements, which are
listed instead.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import lru_cache
from typing import Any

import opentimelineio as otio

from ezvar.core.errors import TimelineError
from ezvar.core.model import Note, Placement, PlacementKey, Rect, Wipe
from ezvar.core.timing import Rate

from .files import plain
from .timeline_form import LONGEST, MediaHint, Mix, Piece, Reading

NAMESPACE = "ezvar"
_DEEPEST = 24
_MOST_CLIPS = 100_000


@dataclass(frozen=True)
class _Span:
    """Where a composition lies: its own seconds ``first`` to ``last`` stand at ``at`` seconds of the lock.

    ``speed`` is how much faster its own time runs than the lock's.
    """

    at: Fraction
    first: Fraction
    last: Fraction
    speed: Fraction = Fraction(1)

    def lock_time(self, own: Fraction) -> Fraction:
        if own == self.first:
            return self.at
        gone = own - self.first
        return self.at + (gone if self.speed == 1 else gone / self.speed)


def read_timeline_object(timeline: otio.schema.Timeline, name: str, rate: Rate | None = None) -> Reading:
    """Flatten a timeline; ``rate`` overrides the rate that it states.

    Raises `TimelineError` where it holds no picture, states no usable rate,
    or is nested too deeply.
    """
    reading = Reading(timeline.name or name, rate or _rate_of(timeline, name))
    begins = timeline.global_start_time
    if begins is not None and begins.rate > 0:
        reading.start = max(0, round(_seconds(begins) * reading.rate.fraction))
    reading.size = _stated_size(timeline)
    walker = _Walker(reading, name)
    tracks = [t for t in timeline.tracks if isinstance(t, otio.schema.Track)]
    pictures = [t for t in tracks if t.kind == otio.schema.TrackKind.Video]
    others = {t.kind for t in tracks} - {otio.schema.TrackKind.Video, otio.schema.TrackKind.Audio}
    reading.left_out += [f"A track of kind “{kind}” is not carried." for kind in sorted(others)]
    for number, track in enumerate(pictures, 1):
        walker.track(track, number)
    for number, track in enumerate((t for t in tracks if t.kind == otio.schema.TrackKind.Audio), 1):
        walker.sound(track, number)
    walker.markers(timeline.tracks, _Span(Fraction(0), Fraction(0), Fraction(LONGEST)))
    _layer(reading, walker.layers)
    if not reading.pieces:
        raise TimelineError("there is no picture in it", file=name, remedy="Export the edit with its picture track")
    return reading


class _Walker:
    """Goes through tracks and what is nested in them, collecting clips in lock frames."""

    def __init__(self, reading: Reading, name: str) -> None:
        self.reading = reading
        self.name = name
        self.layers: list[list[Piece]] = []
        self._clips = 0

    def track(self, track: otio.schema.Track, number: int) -> None:
        """Collect a picture track."""
        if not track.enabled:
            self._say(f"Picture track {number} is switched off and not carried.")
            return
        pieces: list[Piece] = []
        self._items(track, self._whole(track), pieces, number, 0, sound=False)
        if any(p.key for p in pieces) or not self.layers:
            self.layers.append(pieces)

    def sound(self, track: otio.schema.Track, number: int) -> None:
        """Collect a sound track."""
        if not track.enabled:
            self._say(f"Sound track {number} is switched off and not carried.")
            return
        pieces: list[Piece] = []
        self._items(track, self._whole(track), pieces, number, 0, sound=True)
        self.reading.sounds += [p for p in pieces if p.key]

    @staticmethod
    def _whole(track: otio.schema.Track) -> _Span:
        trim = track.source_range
        first = _seconds(trim.start_time) if trim else Fraction(0)
        last = first + _seconds(trim.duration) if trim else Fraction(LONGEST)
        return _Span(Fraction(0), first, last)

    def _items(
        self, track: otio.schema.Track, span: _Span, into: list[Piece], number: int, depth: int, sound: bool
    ) -> None:
        """The children of a track, one after the other, as far as the span shows them."""
        if depth > _DEEPEST:
            raise TimelineError("timelines are nested in it too deeply", file=self.name, remedy="Flatten the edit")
        self.markers(track, span)
        at = Fraction(0)
        for place, child in enumerate(track):
            if isinstance(child, otio.schema.Transition):
                if not sound:
                    self._transition(track, place, child, at, span, depth)
                continue
            length = self._length(child)
            if length is None:
                continue
            end = at + length
            first, last = max(at, span.first), min(end, span.last)
            if first < last:
                self._item(child, at, _Span(span.lock_time(first), first, last, span.speed), into, number, depth, sound)
            at = end

    def _length(self, item: otio.core.Item) -> Fraction | None:
        """How long an item lasts, in seconds; ``None``, and said, where that makes no sense."""
        name = item.name or type(item).__name__
        try:
            length = _seconds(item.trimmed_range().duration)
        except (otio.exceptions.OTIOError, ValueError, ZeroDivisionError, OverflowError):
            self._say(f"“{name}” has no length that makes sense and was left out.")
            return None
        if length < 0:
            self._say(f"“{name}” has a negative length and was left out.")
            return None
        return length

    def _item(
        self, item: otio.core.Item, at: Fraction, span: _Span, into: list[Piece], number: int, depth: int, sound: bool
    ) -> None:
        """One item that begins at ``at`` of its track; ``span`` is what is shown of it, in its track's time."""
        self._clips += 1
        if self._clips > _MOST_CLIPS:
            raise TimelineError(
                f"it has more than {_MOST_CLIPS} clips", file=self.name, remedy="Choose the edit itself"
            )
        if isinstance(item, otio.schema.Gap):
            return self._put(into, span, Piece(0, 0, track=number))
        if not item.enabled:
            self._say(f"“{item.name}” is switched off; its place is black.")
            return self._put(into, span, Piece(0, 0, track=number))
        speed, placement = self._effects(item, sound)
        begins = _seconds(item.trimmed_range().start_time)
        if span.first != at:
            begins += (span.first - at) * speed
        if isinstance(item, otio.schema.Clip):
            if item.markers:
                self.markers(item, replace(span, first=begins, last=begins + LONGEST, speed=span.speed * (speed or 1)))
            key = self._media(item)
            runs = span.speed if speed == 1 else span.speed * speed
            piece = Piece(0, 0, key, begins, runs, item.name or "", placement, number)
            return self._put(into, span, piece)
        if speed <= 0:
            self._say(f"“{item.name}” is a nested timeline that stands still or runs backwards; it runs forwards here.")
            speed = Fraction(1)
        inner = _Span(span.at, begins, begins + (span.last - span.first) * speed, span.speed * speed)
        if isinstance(item, otio.schema.Track):
            return self._items(item, inner, into, number, depth + 1, sound)
        return self._stack(item, inner, into, number, depth + 1, sound)

    def _stack(
        self, stack: otio.schema.Stack, span: _Span, into: list[Piece], number: int, depth: int, sound: bool
    ) -> None:
        """A nested timeline: its lowest picture (or sound) track stands in its place, upper ones above."""
        self.markers(stack, span)
        kind = otio.schema.TrackKind.Audio if sound else otio.schema.TrackKind.Video
        tracks = [t for t in stack if not isinstance(t, otio.schema.Track) or t.kind == kind]
        for layer, child in enumerate(t for t in tracks if getattr(t, "enabled", True)):
            found: list[Piece] = []
            if isinstance(child, otio.schema.Track):
                self._items(child, span, found, number + layer, depth, sound)
            elif (length := self._length(child)) is not None and span.first < length:
                self._item(child, Fraction(0), replace(span, last=min(span.last, length)), found, number, depth, sound)
            if layer == 0 or sound:
                into += found
            else:
                self.reading.upper += [p for p in found if p.key]

    def _put(self, into: list[Piece], span: _Span, piece: Piece) -> None:
        start, end = self._frame(span.at), self._frame(span.lock_time(span.last))
        if end > LONGEST:
            raise TimelineError("it is longer than a day", file=self.name, remedy="Check its ranges")
        if end > start:
            into.append(replace(piece, start=start, end=end))
        elif piece.key:
            self._say(f"“{piece.name}” is shorter than a frame and was left out.")

    def _media(self, clip: otio.schema.Clip) -> str:
        """Note the media of a clip and return its key; empty for what makes black."""
        reference, reading = clip.media_reference, self.reading
        if isinstance(reference, otio.schema.GeneratorReference):
            if reference.generator_kind not in ("black", "Black", "BLACK"):
                self._say(f"“{clip.name}” is generated ({reference.generator_kind}) and shows black.")
            return ""
        path, stated = "", getattr(reference, "available_range", None)
        if isinstance(reference, otio.schema.ExternalReference):
            path = reference.target_url or ""
        elif isinstance(reference, otio.schema.ImageSequenceReference):
            self._say(f"“{clip.name}” is a sequence of images, which is not carried; it counts as missing.")
        if path in reading.media:
            return path
        told = plain(clip.metadata)
        reel = _reel(told) or _reel(plain(getattr(reference, "metadata", None)))
        key = path or f"{reel}|{clip.name}"
        if key not in reading.media:
            usable = stated if stated is not None and min(stated.duration.rate, stated.start_time.rate) > 0 else None
            rate = usable.duration.rate if usable else clip.trimmed_range().start_time.rate
            reading.media[key] = MediaHint(
                key,
                path,
                (path.replace("\\", "/").rsplit("/", 1)[-1] if path else clip.name) or reel,
                reel,
                Rate.parse(rate) if 1 <= rate <= 1000 else None,
                _seconds(usable.start_time) if usable else None,
                _seconds(usable.duration) if usable else None,
            )
        return key

    def _effects(self, item: otio.core.Item, sound: bool) -> tuple[Fraction, Placement]:
        speed = Fraction(1)
        for effect in item.effects if len(item.effects) else ():  # iterating over none takes OTIO long
            if isinstance(effect, otio.schema.FreezeFrame):
                speed = Fraction(0)
            elif isinstance(effect, otio.schema.LinearTimeWarp):
                scalar = float(effect.time_scalar)
                if abs(scalar) <= 1000:
                    speed *= Fraction(scalar).limit_denominator(100_000)
                else:
                    self._say(f"“{item.name}” has a speed that makes no sense; it runs at its own.")
            elif not sound:
                what = effect.effect_name or effect.name or effect.schema_name()
                self._say(f"“{item.name}”: the effect “{what}” is not carried.")
        return speed, Placement() if sound else self._placement(item)

    def _placement(self, item: otio.core.Item) -> Placement:
        """What Ezvar's own metadata says of it, else the bounds that the schema gives a picture."""
        told = plain(item.metadata.get(NAMESPACE)) if len(item.metadata) else None
        if isinstance(told, dict) and isinstance(said := told.get("placement"), dict):
            try:
                return _parse_placement(said)
            except (TypeError, ValueError, KeyError) as error:
                self._say(f"“{item.name}”: its placement makes no sense ({error}); the whole picture is shown.")
                return Placement()
        bounds = getattr(getattr(item, "media_reference", None), "available_image_bounds", None)
        frame = self.reading.size
        if bounds is None or frame is None:
            return Placement()
        # The schema leaves the unit open; here one unit is a pixel of the stated frame, with its middle at 0.
        width, height = bounds.max.x - bounds.min.x, bounds.max.y - bounds.min.y
        if not (width > 0 and height > 0):
            self._say(f"“{item.name}”: its image bounds make no sense; the whole picture is shown.")
            return Placement()
        scale = max(width / frame[0], height / frame[1])
        middle = (bounds.min.x + bounds.max.x) / 2 / frame[0], -(bounds.min.y + bounds.max.y) / 2 / frame[1]
        return Placement(middle[0], middle[1], scale)

    def _transition(
        self, track: otio.schema.Track, place: int, transition: otio.schema.Transition, at: Fraction, span: _Span,
        depth: int,
    ) -> None:  # fmt: skip
        before, after = (track[k] if 0 <= k < len(track) else None for k in (place - 1, place + 1))
        name = transition.name or transition.transition_type
        if before is None or after is None:
            self._say(f"The transition “{name}” has a clip on one side only and is not carried.")
            return
        try:
            lead, tail = _seconds(transition.in_offset), _seconds(transition.out_offset)
        except (ValueError, ZeroDivisionError, OverflowError):
            lead = tail = Fraction(-1)
        if lead < 0 or tail < 0 or not span.first < at < span.last:
            if span.first < at < span.last:
                self._say(f"The transition “{name}” has lengths that make no sense and is not carried.")
            return
        wipe = "wipe" in f"{name} {transition.transition_type}".lower()
        if not wipe and transition.transition_type != otio.schema.TransitionTypes.SMPTE_Dissolve:
            self._say(f"The transition “{name}” is taken as a dissolve.")
        how = _wipe(transition) if wipe else None
        join, start, end = (self._frame(span.lock_time(t)) for t in (at, at - lead, at + tail))
        if end > start and (depth or not self.layers):
            self.reading.mixes.append(Mix("wipe" if wipe else "dissolve", join, start, end, how))
        elif end > start:
            self._say(f"The transition “{name}” on an upper track is not carried.")

    def markers(self, item: otio.core.Item, span: _Span) -> None:
        """Note the markers of an item, whose own time the span maps."""
        for marker in item.markers:
            try:
                begins, length = _seconds(marker.marked_range.start_time), _seconds(marker.marked_range.duration)
            except (ValueError, ZeroDivisionError, OverflowError):
                self._say(f"The marker “{marker.name}” has a range that makes no sense and was left out.")
                continue
            frame = self._frame(span.lock_time(begins))
            last = max(frame + 1, self._frame(span.lock_time(begins + length)))
            text = " ".join(t for t in (marker.name, getattr(marker, "comment", "")) if t)
            if frame >= 0 and span.first <= begins < span.last:
                self.reading.notes.append(Note(text or marker.color or "", frame, last))

    def _frame(self, seconds: Fraction) -> int:
        """The lock frame nearest to a time."""
        rate = self.reading.rate.fraction
        whole, rest = divmod(seconds.numerator * rate.numerator, seconds.denominator * rate.denominator)
        return whole if not rest else round(seconds * rate)

    def _say(self, text: str) -> None:
        if text not in self.reading.left_out:
            self.reading.left_out.append(text)


_PATTERN = re.compile(r"\bW(\d{3})\b|\bwipe\D{0,3}(\d{1,3})\b", re.IGNORECASE)


def _wipe(transition: otio.schema.Transition) -> Wipe:
    """How a transition states its wipe: in our own metadata, by a number in its name; else a straight edge."""
    own = plain(transition.metadata.get(NAMESPACE))
    stated = own.get("wipe") if isinstance(own, dict) else None
    if isinstance(stated, dict):
        try:
            return Wipe(int(stated["pattern"]), bool(stated.get("backwards")), float(stated.get("soft", 0)))
        except (KeyError, TypeError, ValueError, OverflowError):
            return Wipe()  # of no sense: a straight edge
    number = _PATTERN.search(f"{transition.name} {transition.transition_type}")
    return Wipe(int(number[1] or number[2])) if number else Wipe()


def _layer(reading: Reading, layers: list[list[Piece]]) -> None:
    """Put the lowest track at the base, and clips above its gaps into them."""
    base = layers[0] if layers else []
    for number, layer in enumerate(layers[1:], 2):
        for piece in (p for p in layer if p.key):
            if _is_empty(base, piece):
                base = _filled(base, piece)
            else:
                reading.upper.append(replace(piece, track=number))
    reading.pieces = base if any(p.key for p in base) else []


def _is_empty(base: list[Piece], piece: Piece) -> bool:
    return not any(p.key and p.start < piece.end and piece.start < p.end for p in base)


def _filled(base: list[Piece], piece: Piece) -> list[Piece]:
    kept = []
    for p in base:
        if p.end <= piece.start or p.start >= piece.end:
            kept.append(p)
        else:
            kept += [replace(p, start=a, end=b) for a, b in ((p.start, piece.start), (piece.end, p.end)) if a < b]
    return sorted([*kept, replace(piece, track=1)], key=lambda p: p.start)


def _seconds(time: otio.opentime.RationalTime) -> Fraction:
    """A time in exact seconds, at the exact rate that its rounded one stands for."""
    if not 0 < time.rate <= 1_000_000:
        raise ValueError("its rate makes no sense")
    near = round(time.value)  # raises for what is not finite
    rate = _exact_rate(time.rate)
    if abs(time.value - near) < 1e-4:
        return Fraction(near * rate.denominator, rate.numerator)
    return Fraction(time.value).limit_denominator(10**9) / rate


@lru_cache(256)
def _exact_rate(rate: float) -> Fraction:
    return Rate.parse(rate).fraction if 1 <= rate <= 1000 else Fraction(rate).limit_denominator(1001)


def _rate_of(timeline: otio.schema.Timeline, name: str) -> Rate:
    """The rate that a timeline states, else the one that most of its picture clips have."""
    begins = timeline.global_start_time
    found = [begins.rate] if begins is not None and begins.rate > 1 else []
    if not found:
        ranges = [c.source_range for t in timeline.video_tracks() for c in t.find_clips() if c.source_range]
        rates = [r.duration.rate for r in ranges if 1 <= r.duration.rate <= 1000]
        found = [max(set(rates), key=rates.count)] if rates else []
    if not found or not 1 <= found[0] <= 1000:
        raise TimelineError("it states no rate that makes sense", file=name, remedy="Name its rate, such as 25")
    return Rate.parse(found[0])


def _stated_size(timeline: otio.schema.Timeline) -> tuple[int, int] | None:
    told = plain(timeline.metadata.get(NAMESPACE))
    size = told.get("frame") if isinstance(told, dict) else None
    if isinstance(size, list) and len(size) == 2 and all(isinstance(s, int) and 16 <= s <= 16_384 for s in size):
        return size[0], size[1]
    return None


def _parse_placement(said: dict[str, Any]) -> Placement:
    crop = Rect(*(float(v) for v in said["crop"])) if "crop" in said else Rect()
    keys = tuple(
        PlacementKey(int(k["frame"]), float(k.get("x", 0)), float(k.get("y", 0)), float(k.get("scale", 1)))
        for k in said.get("keys", ())
    )
    return Placement(float(said.get("x", 0)), float(said.get("y", 0)), float(said.get("scale", 1)), crop, keys)


def _reel(told: Any) -> str:
    """The reel or tape named anywhere in metadata, under the names that list formats use for it."""
    for name, value in _walk(told):
        if name.lower() in ("reel", "tape", "tape name", "tapeid", "reel name") and isinstance(value, str):
            return value
    return ""


def _walk(told: Any, depth: int = 0) -> Iterator[tuple[str, Any]]:
    if isinstance(told, dict) and depth < 6:
        for name, value in told.items():
            yield name, value
            yield from _walk(value, depth + 1)
