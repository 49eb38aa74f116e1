"""Opening a finished movie again and comparing it with what it should be."""

from __future__ import annotations

import os
from collections.abc import Iterable
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

from ezvar.core.errors import EzvarError
from ezvar.core.media import ColourTags, MovieReader, open_movie, probe, read_still
from ezvar.core.model import Check, Flaw, Report
from ezvar.core.timing import Rate


@dataclass(frozen=True)
class Expected:
    """What a finished movie must be."""

    width: int
    height: int
    rate: Rate
    frames: int
    sounds: int  # sound tracks
    largest: int | None = None  # bytes that it may have
    tags: ColourTags | None = None  # of which those are looked for that are said
    lit: bool = False  # whether it must say on what light it was graded


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
        sounds = [_sound_seconds(path, k) for k in range(len(facts.audios))]
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
    if expected.tags is not None:
        checks.append(_check("colours as tagged", _untagged(facts.tags, expected.tags, expected.lit)))
    if expected.sounds != len(sounds):
        said = f"It has {len(sounds)} sound tracks, not {expected.sounds}."
        if not expected.sounds or not sounds:
            said = "Its sound is missing." if expected.sounds else "It has sound that the lock has not."
        checks.append(_check("sound", [said]))
    elif sounds:
        apart = [sound for sound in sounds if abs(sound - seconds) > max(frame, Fraction(1024, 48_000))]
        wrong = [f"Its sound lasts {float(sound):.3f} s, the picture {float(seconds):.3f} s." for sound in apart]
        checks.append(_check("sound as long", wrong))
    return Report(tuple(checks))


_UNSAID = {"primaries": 2, "transfer": 2, "matrix": 2, "range": 0}


def _untagged(found: ColourTags, wanted: ColourTags, lit: bool) -> list[str]:
    """What a file says of its colours other than it should."""
    pairs = zip(_UNSAID, _codes(found), _codes(wanted), strict=True)
    wrong = [
        f"Its {name} of colour {'is' if name != 'primaries' else 'are'} tagged {one}, not {other}."
        for name, one, other in pairs
        if other not in (one, _UNSAID[name])
    ]
    if lit and wanted.light is not None and not wanted.light.like(found.light):
        wrong.append("It does not say the light that it was graded on.")
    return wrong


def _codes(tags: ColourTags) -> tuple[int, int, int, int]:
    return tags.primaries, tags.transfer, tags.matrix, tags.range


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


def _sound_seconds(path: str | os.PathLike[str], track: int) -> Fraction:
    with open_movie(path) as container:
        samples, rate = 0, 1
        for frame in container.decode(audio=track):
            samples, rate = samples + frame.samples, frame.sample_rate
    return Fraction(samples, rate)
