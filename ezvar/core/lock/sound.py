"""The sound of the lock: its clips mixed, placed exactly under its frames."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

import numpy as np
import soxr

from ezvar.core.errors import EzvarError, MediaError
from ezvar.core.media import SOUND_RATE, SOUND_SUFFIXES, MovieFacts, SoundFacts, probe, probe_sound, sound_blocks
from ezvar.core.model import Document, Lock, Media, SoundClip
from ezvar.core.progress import CancelToken, Progress, silent
from ezvar.core.timing import can_drop, timecode

_BLOCK = 4800


@dataclass(frozen=True)
class Silence:
    """A stretch of sound, lock frames ``start`` to ``end``, of which something cannot be heard, and why."""

    start: int
    end: int
    why: EzvarError

    def said(self, lock: Lock) -> str:
        """A sentence for it, with the lock's timecodes."""
        drop = lock.drop and can_drop(lock.rate)
        begins, ends = (timecode(lock.start + frame, lock.rate, drop) for frame in (self.start, self.end))
        return f"Sound is missing between {begins} and {ends}: {self.why}"


def silences(doc: Document, start: int = 0, end: int | None = None) -> list[Silence]:
    """The stretches of a timeline's sound between lock frames whose media are missing, unreadable or without sound.

    Opens each media and decodes nothing, so that damage inside is not seen.
    """
    last = doc.lock.frames if end is None else end
    known = {m.id: m for m in doc.lock.media}
    if doc.lock.flat:
        return []  # what its movie says of itself
    facts: dict[str, _Known] = {}
    found: list[Silence] = []
    for clip in (c for c in doc.lock.sounds if c.start < last and c.end > start):
        media = _known(known[clip.media], facts)
        why = media if isinstance(media, EzvarError) else _beyond(doc, clip, media)
        if why is not None:
            found.append(Silence(max(clip.start, start), min(clip.end, last), why))
    return found


def lock_sound(
    doc: Document, start: int = 0, end: int | None = None, channels: int = 2,
    on_silence: Callable[[Silence], object] = lambda silence: None, tracks: Sequence[int] = (),
) -> Iterator[np.ndarray]:  # fmt: skip
    """The sound under lock frames ``start`` to ``end``: of some ``tracks``, all that a timeline has by default, the
    first that a flat lock has.

    Yields float32 blocks (channels, up to 4800) at 48 kHz with exactly as
    many samples as the frames last, rounded; sounds that overlap are added
    up. What stands still or runs backwards is silent, as is what has no
    sound, is missing or damaged, of which ``on_silence`` is told.
    """
    rate = doc.lock.rate
    last = doc.lock.frames if end is None else end
    zero = round(rate.seconds(start) * SOUND_RATE)
    total = round(rate.seconds(last) * SOUND_RATE) - zero
    known = {m.id: m for m in doc.lock.media}
    heard = (c for c in _clips(doc.lock, tracks) if c.start < last and c.end > start)
    waiting = sorted(heard, key=lambda c: c.start)
    facts: dict[str, _Known] = {}
    playing: list[_Clip] = []
    for at in range(0, total, _BLOCK):
        length = min(_BLOCK, total - at)
        while waiting and round(rate.seconds(waiting[0].start) * SOUND_RATE) - zero < at + length:
            clip = waiting.pop(0)
            begins, ends = max(clip.start, start), min(clip.end, last)

            def fault(error: EzvarError, begins: int = begins, ends: int = ends) -> None:
                on_silence(Silence(begins, ends, error))

            media = _known(known[clip.media], facts)
            if isinstance(media, EzvarError):
                fault(media)
                continue
            if (short := _beyond(doc, clip, media)) is not None:
                fault(short)
            if doc.lock.flat and clip.track > len(media.audios):
                fault(MediaError(f"it has no sound track {clip.track}", file=media.path, remedy="Choose another"))
            if clip.speed > 0:
                playing.append(_Clip(doc, clip, media, start, last, zero, channels, fault))
        block = np.zeros((channels, length), np.float32)
        for clip_ in playing:
            clip_.add(block, at)
        playing = [c for c in playing if c.end > at + length]
        yield block


def _clips(lock: Lock, tracks: Sequence[int]) -> list[SoundClip]:
    """The clips of some tracks. Those of a flat lock are its movie's, of which the first is heard by itself."""
    if lock.flat:
        return [replace(clip, track=number) for clip in lock.sounds for number in tracks or (1,)]
    return [clip for clip in lock.sounds if not tracks or clip.track in tracks]


@dataclass(frozen=True)
class SoundTrack:
    """A sound track of a lock: its number, counted from 1, what it is called, and how many channels it has at most, of
    those that are there."""

    number: int
    name: str
    channels: int


def sound_tracks(doc: Document) -> list[SoundTrack]:
    """The sound tracks of a lock. Opens the media that are heard, and decodes nothing."""
    known, facts = {m.id: m for m in doc.lock.media}, dict[str, _Known]()
    found: dict[int, SoundTrack] = {}
    for clip in doc.lock.sounds:
        media = _known(known[clip.media], facts)
        if isinstance(media, EzvarError):
            found.setdefault(clip.track, SoundTrack(clip.track, "", 0))
        elif doc.lock.flat:
            return [SoundTrack(k, each.name, each.channels) for k, each in enumerate(media.audios, 1)]
        else:
            widest = max(found[clip.track].channels if clip.track in found else 0, media.audios[0].channels)
            found[clip.track] = SoundTrack(clip.track, "", widest)
    return [found[number] for number in sorted(found)]


_SHORT = Fraction(1, 4)  # seconds by which an edit may use more than there is before it is told


def _beyond(doc: Document, clip: SoundClip, facts: MovieFacts | SoundFacts) -> MediaError | None:
    """What is wrong where a clip plays on after the end of its media, which may be cut short."""
    used = clip.source + doc.lock.rate.seconds(clip.end - clip.start) * clip.speed
    if used <= facts.seconds + _SHORT:
        return None
    there = f"{float(facts.seconds):.1f} of the {float(used):.1f} s that are used are there"
    return MediaError(f"its sound is cut short, {there}", file=facts.path, remedy="Copy it again")


_Known = MovieFacts | SoundFacts | EzvarError


def _known(media: Media, facts: dict[str, _Known]) -> _Known:
    """What is known of a media that is to be heard, or why it cannot be; noted in ``facts`` by its id."""
    if media.id not in facts:
        try:
            facts[media.id] = _facts(media)
        except EzvarError as error:
            facts[media.id] = error.with_traceback(None)
    return facts[media.id]


def _facts(media: Media) -> MovieFacts | SoundFacts:
    """What is known of a media that is to be heard. Raises `MediaError` where it cannot be."""
    if media.missing:
        raise MediaError("it was not found", file=media.path or media.name, remedy="Choose its file")
    if not media.has_sound:
        raise MediaError("it has no sound", file=media.path or media.name)
    suffix = media.path[media.path.rfind(".") :].lower()
    return probe_sound(media.path) if suffix in SOUND_SUFFIXES else probe(media.path)


class _Clip:
    """A clip of sound that is being played out, in samples from the beginning of what is asked for."""

    def __init__(
        self, doc: Document, clip: SoundClip, facts: MovieFacts | SoundFacts, start: int, last: int, zero: int,
        channels: int, on_fault: Callable[[EzvarError], object],
    ) -> None:  # fmt: skip
        rate = doc.lock.rate
        first, end = max(clip.start, start), min(clip.end, last)
        self.begin, self.end = (round(rate.seconds(f) * SOUND_RATE) - zero for f in (first, end))
        skipped = rate.seconds(first - clip.start) * clip.speed
        begins = clip.source + skipped
        ends = begins + Fraction(self.end - self.begin, SOUND_RATE) * clip.speed
        self._silence = max(0, round(-begins * SOUND_RATE / clip.speed))  # before the media's first sample
        track = clip.track if doc.lock.flat else 1
        blocks = sound_blocks(facts, max(Fraction(0), begins), max(Fraction(0), ends), channels, on_fault, track)
        self._blocks = blocks if clip.speed == 1 else _faster(blocks, float(clip.speed), channels)
        self._rest = np.zeros((channels, 0), np.float32)

    def add(self, block: np.ndarray, at: int) -> None:
        """Add what this clip plays to a block that begins at sample ``at``."""
        first = max(0, self.begin + self._silence - at)
        last = min(block.shape[1], self.end - at)
        while first < last:
            if not self._rest.shape[1]:
                following = next(self._blocks, None)
                if following is None:
                    return
                self._rest = following
            n = min(last - first, self._rest.shape[1])
            block[:, first : first + n] += self._rest[:, :n]
            self._rest = self._rest[:, n:]
            first += n


def _faster(blocks: Iterator[np.ndarray], speed: float, channels: int) -> Iterator[np.ndarray]:
    """Sound at another speed, its pitch with it, resampled without what would fold back."""
    stream = soxr.ResampleStream(SOUND_RATE * speed, SOUND_RATE, channels, "float32", "HQ")
    for block in blocks:
        yield np.ascontiguousarray(
            stream.resample_chunk(np.ascontiguousarray(block.T, np.float32)).reshape(-1, channels).T
        )
    rest = stream.resample_chunk(np.zeros((0, channels), np.float32), last=True)
    yield np.ascontiguousarray(rest.reshape(-1, channels).T)


def peaks(doc: Document, columns: int, cancel: CancelToken | None = None, progress: Progress = silent) -> np.ndarray:
    """How loud the sound is along the lock: float32 (columns,), 0..1, the peak of each stretch."""
    total = round(doc.lock.rate.seconds(doc.lock.frames) * SOUND_RATE)
    loud = np.zeros(columns, np.float32)
    at = 0
    for block in lock_sound(doc, channels=1):
        if cancel is not None:
            cancel.check()
        places = (np.arange(at, at + block.shape[1]) * columns) // max(1, total)
        np.maximum.at(loud, np.minimum(places, columns - 1), np.abs(block[0]))
        at += block.shape[1]
        progress(min(1.0, at / max(1, total)), "Reading the sound")
    return np.clip(loud, 0, 1)
