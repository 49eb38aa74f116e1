"""Opening a finished movie again and comparing it with what it should be."""

from __future__ import annotations

import os
from collections.abc import Iterable
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av

from ezvar.core.errors import EzvarError
from ezvar.core.media import MovieReader, probe, read_still
from ezvar.core.model import Check, Flaw, Report
from ezvar.core.timing import Rate


@dataclass(frozen=True)
class Expected:
    """What a finished movie must be."""

    width: int
    height: int
    rate: Rate
    frames: int
    sound: bool
    largest: int | None = None  # bytes that it may have


def check_facts(path: str | os.PathLike[str], expected: Expected) -> Report:
    """Whether a finished movie is what it should be.

    Compares size, rate, number of frames, duration and the length of the
    sound (within one frame), and decodes the first and the last picture.
    """
    if Path(path).is_dir():
        return _check_images(Path(path), expected)
    try:
        facts = probe(path)
        with MovieReader(path, facts) as reader:
            reader.frame(0)
            reader.frame(facts.frames - 1)
        sound = _sound_seconds(path) if facts.audio else None
    except EzvarError as error:
        return Report((Check("opens", (Flaw(str(error)),)),))
    wrong: list[str] = []
    if (facts.width, facts.height) != (expected.width, expected.height):
        wrong.append(f"It is {facts.width} × {facts.height}, not {expected.width} × {expected.height}.")
    if facts.rate != expected.rate:
        wrong.append(f"It has {facts.rate} frames a second, not {expected.rate}.")
    if facts.frames != expected.frames:
        wrong.append(f"It has {facts.frames} frames, not {expected.frames}.")
    seconds, frame = expected.rate.seconds(expected.frames), expected.rate.seconds(1)
    if abs(facts.seconds - seconds) > frame:
        wrong.append(f"It lasts {float(facts.seconds):.3f} s, not {float(seconds):.3f} s.")
    size = Path(path).stat().st_size
    if expected.largest is not None and size > expected.largest:
        wrong.append(f"It has {size / 1e6:.1f} MB, more than {expected.largest / 1e6:.1f} MB.")
    checks = [_check(f"size, rate, {expected.frames} frames", wrong)]
    if expected.sound != (sound is not None):
        said = "Its sound is missing." if expected.sound else "It has sound that the lock has not."
        checks.append(_check("sound", [said]))
    elif sound is not None:
        apart = abs(sound - seconds) > max(frame, Fraction(1024, 48_000))
        said = f"Its sound lasts {float(sound):.3f} s, the picture {float(seconds):.3f} s."
        checks.append(_check("sound as long", [said] if apart else []))
    return Report(tuple(checks))


def _check(what: str, wrong: Iterable[str]) -> Check:
    return Check(what, tuple(Flaw(said) for said in wrong))


def _check_images(folder: Path, expected: Expected) -> Report:
    """The same of a folder of numbered images: their count, and the size of the first and the last."""
    images = sorted(folder.iterdir())
    wrong = [] if len(images) == expected.frames else [f"It has {len(images)} images, not {expected.frames}."]
    try:
        sizes = {(p.width, p.height) for p in (read_still(image).picture for image in {*images[:1], *images[-1:]})}
    except EzvarError as error:
        return Report((_check("opens", [*wrong, str(error)]),))
    for width, height in sizes - {(expected.width, expected.height)}:
        wrong.append(f"It is {width} × {height}, not {expected.width} × {expected.height}.")
    return Report((_check(f"size, {expected.frames} images", wrong),))


def _sound_seconds(path: str | os.PathLike[str]) -> Fraction:
    with av.open(f"file:{os.fspath(path)}") as container:
        samples, rate = 0, 1
        for frame in container.decode(audio=0):
            samples, rate = samples + frame.samples, frame.sample_rate
    return Fraction(samples, rate)
