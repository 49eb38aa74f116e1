"""Flattening an OpenTimelineIO timeline into clips in lock frames.

The lowest enabled picture track is the edit; clips of upper tracks are titles
and graphics, except where the edit below them is empty: there they are the
picture. A dissolve on an upper track is a clip that comes or goes, or two that
do. Not done: effects other than speed, freeze frames, placements and opacity,
which are listed instead, and handed out as they were.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

import opentimelineio as otio

from ezvar.core.errors import TimelineError
from ezvar.core.model import Note, Placement
from ezvar.core.timing import Rate

from .carried import carried_text, with_mixes
from .files import plain
from .reading import LONGEST, MediaHint, Mix, Piece, Reading
from .values import NAMESPACE, exact_seconds, parse_placement, rate_of, stated_reel, stated_size, stated_wipe

_DEEPEST = 24
_MOST_CLIPS = 100_000
_DAY = 24 * 3600  # seconds, of a clip or until it begins in its media


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
    reading = Reading(timeline.name or name, rate or rate_of(timeline, name))
    begins = timeline.global_start_time
    if begins is not None and begins.rate > 0:
        reading.start = max(0, round(exact_seconds(begins) * reading.rate.fraction))
    reading.size = stated_size(timeline)
    walker = _Walker(reading, name)
    tracks = [t for t in timeline.tracks if isinstance(t, otio.schema.Track)]
    pictures = [t for t in tracks if t.kind == otio.schema.TrackKind.Video]
    heard = [t for t in tracks if t.kind == otio.schema.TrackKind.Audio]
    numbered = {f"{what} {n}": t for what, of in (("picture", pictures), ("sound", heard)) for n, t in enumerate(of, 1)}
    reading.carried = walker.carried(
        timeline.name or "The timeline", timeline=timeline, stack=timeline.tracks, **numbered
    )
    others = {t.kind for t in tracks} - {otio.schema.TrackKind.Video, otio.schema.TrackKind.Audio}
    reading.left_out += [f"A track of kind “{kind}” is not carried." for kind in sorted(others)]
    for number, track in enumerate(pictures, 1):
        walker.track(track, number)
    for number, track in enumerate(heard, 1):
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
        self.layers: list[tuple[list[Piece], list[Mix]]] = []  # tracks, with the mixes of upper ones
        self._clips = 0
        self._over: list[Mix] | None = None  # the mixes of an upper track, while one is gone through

    def track(self, track: otio.schema.Track, number: int) -> None:
        """Collect a picture track."""
        if not track.enabled:
            self._say(f"Picture track {number} is switched off and not carried.")
            return
        self._over = [] if self.layers else None
        pieces: list[Piece] = []
        self._items(track, self._whole(track), pieces, number, 0, sound=False)
        if any(p.key for p in pieces) or not self.layers:
            self.layers.append((pieces, self._over or []))

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
        first = exact_seconds(trim.start_time) if trim else Fraction(0)
        last = first + exact_seconds(trim.duration) if trim else Fraction(LONGEST)
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
                    self._transition(track, place, child, at, span)
                continue
            length = self._length(child)
            if length is None:
                continue
            end = at + length
            first, last = max(at, span.first), min(end, span.last)
            if first < last:
                shown = _Span(span.lock_time(first), first, last, span.speed)
                try:
                    self._item(child, at, shown, into, number, depth, sound)
                except (otio.exceptions.OTIOError, ValueError, ZeroDivisionError, OverflowError):
                    self._say(f"“{child.name}” has times that make no sense; its place is black.")
                    self._put(into, shown, Piece(0, 0, track=number))
            at = end

    def _length(self, item: otio.core.Item) -> Fraction | None:
        """How long an item lasts, in seconds; ``None``, and said, where that makes no sense."""
        name = item.name or type(item).__name__
        try:
            length = exact_seconds(item.trimmed_range().duration)
        except (otio.exceptions.OTIOError, ValueError, ZeroDivisionError, OverflowError):
            self._say(f"“{name}” has no length that makes sense and was left out.")
            return None
        if not 0 <= length <= _DAY:
            self._say(f"“{name}” has a length {'below nothing' if length < 0 else 'of days'} and was left out.")
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
        begins = exact_seconds(item.trimmed_range().start_time)
        if abs(begins) > _DAY:
            raise ValueError("it begins at no time that timecode has")
        if span.first != at:
            begins += (span.first - at) * speed
        if isinstance(item, otio.schema.Clip):
            if item.markers:
                self.markers(item, replace(span, first=begins, last=begins + LONGEST, speed=span.speed * (speed or 1)))
            key = self._media(item)
            runs = span.speed if speed == 1 else span.speed * speed
            piece = Piece(0, 0, key, begins, runs, item.name or "", placement, number, self._opacity(item))
            effects = item.effects if len(item.effects) else ()
            carried = self.carried(item.name, effects, clip=item, media=item.media_reference)
            return self._put(into, span, replace(piece, carried=carried))
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
        outside = self._over
        for layer, child in enumerate(t for t in tracks if getattr(t, "enabled", True)):
            found: list[Piece] = []
            self._over = [] if layer else outside
            if isinstance(child, otio.schema.Track):
                self._items(child, span, found, number + layer, depth, sound)
            elif (length := self._length(child)) is not None and span.first < length:
                self._item(child, Fraction(0), replace(span, last=min(span.last, length)), found, number, depth, sound)
            if layer == 0 or sound:
                into += found
            else:
                self.reading.upper += [p for p in _mixed(found, self._over or (), self.reading.rate) if p.key]
        self._over = outside

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
                shows = "shows black" if self._over is None else "is not drawn"
                self._say(f"“{clip.name}” is generated ({reference.generator_kind}) and {shows}.")
            return ""
        path, stated = "", getattr(reference, "available_range", None)
        if isinstance(reference, otio.schema.ExternalReference):
            path = reference.target_url or ""
        elif isinstance(reference, otio.schema.ImageSequenceReference):
            path = self._first_image(clip, reference)
        if path in reading.media:
            return path
        told = plain(clip.metadata)
        reel = stated_reel(told) or stated_reel(plain(getattr(reference, "metadata", None)))
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
                exact_seconds(usable.start_time) if usable else None,
                exact_seconds(usable.duration) if usable else None,
                sequence=isinstance(reference, otio.schema.ImageSequenceReference),
            )
        return key

    def _first_image(self, clip: otio.schema.Clip, reference: otio.schema.ImageSequenceReference) -> str:
        """Where the first image of a sequence is; empty where that cannot be told, which is said."""
        if reference.frame_step != 1:
            self._say(f"“{clip.name}” leaves images of its sequence out; all of them are shown in order.")
        digits = str(reference.start_frame).zfill(max(0, reference.frame_zero_padding))
        base = reference.target_url_base or ""
        joint = "" if not base or base.endswith("/") else "/"
        return f"{base}{joint}{reference.name_prefix}{digits}{reference.name_suffix}"

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
                self._say(f"“{item.name}”: the effect “{what}” is not drawn.")
        return speed, Placement() if sound else self._placement(item)

    def _placement(self, item: otio.core.Item) -> Placement:
        """What Ezvar's own metadata says of it, else the bounds that the schema gives a picture."""
        told = plain(item.metadata.get(NAMESPACE)) if len(item.metadata) else None
        if isinstance(told, dict) and isinstance(said := told.get("placement"), dict):
            try:
                return parse_placement(said)
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

    def _opacity(self, item: otio.core.Item) -> float:
        """How much of an item is seen, 0..1, by Ezvar's own metadata; the schema has no word for it."""
        told = plain(item.metadata.get(NAMESPACE)) if len(item.metadata) else None
        stated = told.get("opacity", 1.0) if isinstance(told, dict) else 1.0
        if isinstance(stated, (int, float)) and 0 <= stated <= 1:
            return float(stated)
        self._say(f"“{item.name}” has an opacity that makes no sense; all of it is seen.")
        return 1.0

    def _transition(
        self, track: otio.schema.Track, place: int, transition: otio.schema.Transition, at: Fraction, span: _Span
    ) -> None:
        before, after = (track[k] if 0 <= k < len(track) else None for k in (place - 1, place + 1))
        name = transition.name or transition.transition_type
        if (before is None or after is None) and (self._over is None or before is after):
            self._say(f"The transition “{name}” has a clip on one side only and is not carried.")
            return
        try:
            lead, tail = exact_seconds(transition.in_offset), exact_seconds(transition.out_offset)
        except (ValueError, ZeroDivisionError, OverflowError):
            lead = tail = Fraction(-1)
        inside = span.first < at < span.last or (self._over is not None and span.first <= at <= span.last)
        if lead < 0 or tail < 0 or not inside:
            if inside:
                self._say(f"The transition “{name}” has lengths that make no sense and is not carried.")
            return
        wipe = "wipe" in f"{name} {transition.transition_type}".lower()
        if not wipe and transition.transition_type != otio.schema.TransitionTypes.SMPTE_Dissolve:
            self._say(f"The transition “{name}” is taken as a dissolve.")
        how = stated_wipe(transition) if wipe else None
        join, start, end = (self._frame(span.lock_time(t)) for t in (at, at - lead, at + tail))
        if end <= start:
            return
        carried = self.carried(name, transition=transition)
        mixes = self.reading.mixes if self._over is None else self._over
        mixes.append(Mix("wipe" if wipe else "dissolve", join, start, end, how, carried))

    def carried(
        self, name: str, effects: Iterable[otio.schema.Effect] = (),
        **items: otio.core.SerializableObjectWithMetadata | None,
    ) -> str:  # fmt: skip
        """What others say of items, to be handed out again."""
        text = carried_text(effects, **items)
        if text is None:
            self._say(f"What other programs note on “{name}” is too much to be kept.")
        return text or ""

    def markers(self, item: otio.core.Item, span: _Span) -> None:
        """Note the markers of an item, whose own time the span maps."""
        for marker in item.markers:
            try:
                begins, length = (
                    exact_seconds(marker.marked_range.start_time),
                    exact_seconds(marker.marked_range.duration),
                )
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


def _mixed(pieces: list[Piece], mixes: Sequence[Mix], rate: Rate) -> list[Piece]:
    """The clips of an upper track, that come and go as its mixes say. A clip is there for all of its mix."""
    at = {m.join: m for m in mixes}
    made = []
    for p in pieces:
        comes, goes = at.get(p.start), at.get(p.end)
        told = [mix.carried if mix is not None else "" for mix in (comes, goes)]
        if p.key and any(told):
            p = replace(p, carried=with_mixes(p.carried, *told))
        if p.key and comes is not None:
            by = p.start - max(0, comes.start)
            p = replace(
                p, start=p.start - by, comes=comes.end - p.start + by, source=p.source - rate.seconds(by) * p.speed,
                comes_by=comes.wipe, placement=p.placement.later(-by),
            )  # fmt: skip
        if p.key and goes is not None:
            p = replace(p, end=goes.end, goes=goes.end - goes.start, goes_by=goes.wipe)
        made.append(p)
    return made


def _layer(reading: Reading, layers: list[tuple[list[Piece], list[Mix]]]) -> None:
    """Put the lowest track at the base, and clips above its gaps into them, with the mixes that they have."""
    base = layers[0][0] if layers else []
    for number, (pieces, mixes) in enumerate(layers[1:], 2):
        over: list[Piece] = []
        for piece in (p for p in pieces if p.key):
            if _is_empty(base, piece):
                base = _filled(base, piece)
                reading.mixes += [m for m in mixes if m.join in (piece.start, piece.end) and m not in reading.mixes]
            else:
                over.append(replace(piece, track=number))
        reading.upper += _mixed(over, mixes, reading.rate)
    for name in dict.fromkeys(p.name for p in base if p.key and p.opacity < 1):
        reading.left_out.append(f"“{name}” is seen whole: the opacity of the edit's own clips is not drawn.")
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
