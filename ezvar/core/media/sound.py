"""The sound of a movie, placed exactly against its pictures."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from av.audio.stream import AudioStream
from av.container import InputContainer

from ezvar.core.errors import EzvarError, MediaError

from .container import MOST_CHANNELS, in_decoder, open_movie, packets_of, seek_back
from .facts import AudioFacts, MovieFacts

SOUND_RATE = 48_000
SOUND_SUFFIXES = frozenset({".wav", ".aif", ".aiff", ".flac", ".mp3", ".m4a", ".aac", ".ogg", ".opus", ".bwf"})
"""The endings of files that hold sound only."""
_BLOCK = 4800
_DIGITS = 20  # of a number of samples that a file states
_JUMP = SOUND_RATE // 50  # a step in time above this is a gap in the sound, below it rounding


@dataclass(frozen=True)
class SoundFacts:
    """A file that holds sound only. ``origin`` is the time of its first sample, in seconds, where it states one."""

    path: Path
    audio: AudioFacts
    seconds: Fraction
    origin: Fraction = Fraction(0)
    zero: Fraction = Fraction(0)

    @property
    def audios(self) -> tuple[AudioFacts, ...]:
        """Its one sound track, as a movie has them."""
        return (self.audio,)


_LAYOUTS = {1: "mono", 2: "stereo", 3: "3.0", 4: "4.0", 5: "5.0", 6: "5.1", 7: "6.1", 8: "7.1"}


def sound_layout(channels: int) -> str:
    """The library's name of how so many channels are laid out."""
    return _LAYOUTS.get(channels, f"{channels} channels")


def sound_frame(block: np.ndarray, layout: str) -> av.AudioFrame:
    """A block of sound, float32 (channels, samples) at 48 kHz, for the library: interleaved, since its planes of many
    channels come apart."""
    frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(block.T).reshape(1, -1), format="flt", layout=layout)
    frame.sample_rate, frame.time_base = SOUND_RATE, Fraction(1, SOUND_RATE)
    return frame


def probe_sound(path: str | os.PathLike[str]) -> SoundFacts:
    """Read the facts of a sound file. Raises `MediaError` where it holds no sound or states no length."""
    with open_movie(path) as container:
        stream = next(iter(container.streams.audio), None)
        if stream is None:
            raise MediaError("it has no sound", file=path, remedy="Choose another file")
        if (wrong := _unusable(path, stream)) is not None:
            raise wrong
        if stream.duration and stream.time_base:
            seconds = Fraction(stream.duration) * stream.time_base
        elif container.duration:
            seconds = Fraction(container.duration, 1_000_000)
        else:
            raise MediaError("it does not say how long it is", file=path, remedy="Export it again as WAV")
        stamp = container.metadata.get("time_reference", "")
        known = stamp.isascii() and stamp.isdigit() and len(stamp) < _DIGITS and stream.rate
        origin = Fraction(int(stamp), stream.rate) if known else Fraction(0)
        zero = Fraction(stream.start_time or 0) * Fraction(stream.time_base or 1)
        return SoundFacts(Path(path), AudioFacts.of(stream), seconds, origin, zero)


_SHORT = SOUND_RATE // 4  # samples by which sound may end before it says
_EXACT = frozenset({"wav", "w64", "aiff", "mov", "flac"})  # containers that do not estimate how long their sound is

Fault = Callable[[EzvarError], object]
"""Told what is wrong with sound, once for each thing."""


def sound_blocks(
    facts: MovieFacts | SoundFacts, start: Fraction = Fraction(0), end: Fraction | None = None, channels: int = 2,
    on_fault: Fault = lambda error: None, track: int = 1,
) -> Iterator[np.ndarray]:  # fmt: skip
    """Sound of a ``track``, counted from 1, from ``start`` to ``end`` seconds after the first picture.

    Yields float32 blocks (channels, up to 4800) at 48 kHz which together have
    exactly ``round((end - start) * 48000)`` samples: gaps, and what lies
    before or after the sound, are silence. Without sound: silence throughout.
    So is what is damaged, and what is missing at the end of a file that says
    it is longer; ``on_fault`` is told of it. Sound that has as many
    ``channels`` comes channel for channel; other sound is mixed into them by
    the library's matrix (ITU-R BS.775).
    """
    end = facts.seconds if end is None else end
    total = round((end - start) * SOUND_RATE)
    filled = 0
    pending: list[np.ndarray] = []

    def put(block: np.ndarray) -> Iterator[np.ndarray]:
        nonlocal filled
        block = block[:, : total - filled]
        filled += block.shape[1]
        pending.append(block)
        if sum(b.shape[1] for b in pending) >= _BLOCK:
            joined = np.concatenate(pending, axis=1)
            whole = joined.shape[1] // _BLOCK * _BLOCK
            for k in range(0, whole, _BLOCK):
                yield np.ascontiguousarray(joined[:, k : k + _BLOCK])
            pending[:] = [joined[:, whole:]]

    def silence(samples: int) -> Iterator[np.ndarray]:
        for first in range(0, samples, _BLOCK):
            yield from put(np.zeros((channels, min(_BLOCK, samples - first)), np.float32))

    if track <= len(facts.audios):
        for at, block in _decoded(facts, start, total, channels, on_fault, track):
            gap = at - filled
            if gap < 0:
                block = block[:, -gap:]
            elif gap:
                yield from silence(min(at, total) - filled)
            if block.shape[1]:
                yield from put(block)
            if filled >= total:
                break
    yield from silence(total - filled)
    rest = np.concatenate(pending, axis=1) if pending else np.zeros((channels, 0), np.float32)
    if rest.shape[1]:
        yield np.ascontiguousarray(rest)


def _decoded(
    facts: MovieFacts | SoundFacts, start: Fraction, total: int, channels: int, on_fault: Fault, track: int
) -> Iterator[tuple[int, np.ndarray]]:
    """Blocks of sound with the sample, counted from ``start``, at which each lies. Goes on behind what is damaged."""
    zero = facts.zero + start
    with _opened(facts.path, on_fault) as container:
        if container is None:
            return
        stream = container.streams.audio[track - 1]
        if (wrong := _unusable(facts.path, stream)) is not None:
            on_fault(wrong)
            return
        own = stream.codec_context.layout.name
        layout = own if stream.channels == channels > 2 else sound_layout(channels)
        tick = Fraction(stream.time_base or Fraction(1, SOUND_RATE))
        # A second early, so that the decoder has settled by the first sample wanted.
        # At the beginning there is no seeking: it would pass over what primes the decoder.
        if start > 2:
            seek_back(container, int((zero - 1) / tick), stream)
        resampler = av.AudioResampler(format="flt", layout=layout, rate=SOUND_RATE)
        at: int | None = None
        for frame in _frames(container, stream, facts.path, on_fault):
            if frame.pts is not None:
                stated = round((frame.pts * tick - zero) * SOUND_RATE)
                if at is None or abs(stated - at) > _JUMP:
                    at = stated
            frame.pts = None
            for out in resampler.resample(frame):
                block = out.to_ndarray().reshape(-1, channels).T
                yield at or 0, block
                at = (at or 0) + block.shape[1]
        for out in resampler.resample(None):
            block = out.to_ndarray().reshape(-1, channels).T
            yield at or 0, block
            at = (at or 0) + block.shape[1]
        if container.format.name.split(",")[0] in _EXACT and stream.duration:
            stated = round(((stream.start_time or 0) + stream.duration) * tick * SOUND_RATE - zero * SOUND_RATE)
            if (at or 0) < min(stated, total) - _SHORT:
                on_fault(_cut_short(facts.path, at or 0, stated, start))


def _unusable(path: str | os.PathLike[str], stream: AudioStream) -> MediaError | None:
    """What keeps a sound track from being heard, if anything."""
    if stream.codec_context is None:
        what = "its sound is coded in a way that is unknown here"
    elif stream.channels > MOST_CHANNELS:
        what = f"its sound has {stream.channels} channels, more than {MOST_CHANNELS}"
    else:
        return None
    return MediaError(what, file=path, remedy="Export it again")


@contextmanager
def _opened(path: Path, on_fault: Fault) -> Iterator[InputContainer | None]:
    """A movie or sound file for reading; ``None`` where it cannot be opened any more."""
    try:
        container = open_movie(path)
    except EzvarError as error:
        on_fault(error)
        yield None
        return
    with container:
        yield container


def _frames(
    container: InputContainer, stream: AudioStream, path: Path, on_fault: Fault
) -> Iterator[av.AudioFrame]:  # fmt: skip
    """All frames of sound from where a container stands, but for those that are damaged."""
    told = False

    def damaged() -> None:
        nonlocal told
        if not told:
            on_fault(MediaError("its sound is damaged", file=path, remedy="Copy it again"))
        told = True

    packets = packets_of(container, stream)
    while True:
        try:
            packet = next(packets, None)
        except av.error.FFmpegError:
            damaged()
            return  # the container itself goes no further
        if packet is None:
            return
        try:
            with in_decoder(container):
                frames = packet.decode()
        except av.error.FFmpegError:
            damaged()
            continue
        yield from frames


def _cut_short(path: Path, reached: int, stated: int, start: Fraction) -> MediaError:
    there, said = (float(start) + n / SOUND_RATE for n in (reached, stated))
    return MediaError(
        f"its sound is cut short, {there:.1f} of {said:.1f} s are there", file=path, remedy="Copy it again"
    )
