"""Whether rows, and what was made of them, are as a receiver of masters takes them."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

from ezvar.core.errors import EzvarError
from ezvar.core.media import Loudness
from ezvar.core.model import Check, Document, Flaw, Receiving, Row
from ezvar.core.store import NamedList

RECEIVERS: tuple[Receiving, ...] = (
    Receiving(
        "upright screens in a hall", ("9:16",), 720, 1920, 60.0, 120.0, ("h264", "h265"), ("mp4",), ("aac", "none"),
        ("24", "25", "30", "30000/1001", "50"), (-20.0, -14.0), ("burnt in", "none"),
    ),
    Receiving(
        "a square window display", ("1:1",), 600, 1080, 30.0, 60.0, ("h264",), ("mp4",), ("none", "aac"), ("25", "30"),
        None, ("burnt in", "none"),
    ),
    Receiving(
        "a film archive", (), None, None, None, None, ("prores", "dnxhr", "ffv1"), ("mov", "mkv"), ("pcm",), (), None,
        ("beside", "embedded", "none"),
    ),
)  # fmt: skip
"""Profiles that come with the program, of no receiver that there is."""
RECEIVERS_KEPT = NamedList(Receiving, "ezvar receiving", "profiles", "receiving profiles", "receiving.json")
_SAME = 0.01  # by which a shape may be off


def known_receivers() -> tuple[Receiving, ...]:
    """All receiving profiles, the user's own last, in place of shipped ones of their names.

    Raises `ProjectError` where the user's cannot be read.
    """
    own = RECEIVERS_KEPT.load()
    names = {each.name for each in own}
    return (*(each for each in RECEIVERS if each.name not in names), *own)


def not_taken(doc: Document, row: Row, receiver: Receiving) -> list[str]:
    """Why a receiver would not take a row, as far as that is known before it is made; in sentences."""
    master, rate, preset, said = doc.master(row.master), doc.lock.rate, row.preset, []
    shape = master.width / master.height
    if receiver.shapes and all(abs(shape / _aspect(text) - 1) > _SAME for text in receiver.shapes):
        said.append(f"It takes {_listed(receiver.shapes)}, not {master.width} × {master.height}.")
    shorter, longer = sorted((master.width, master.height))
    if receiver.smallest is not None and shorter < receiver.smallest:
        said.append(f"The shorter side has at least {receiver.smallest} pixels there.")
    if receiver.largest is not None and longer > receiver.largest:
        said.append(f"The longer side has at most {receiver.largest} pixels there.")
    seconds = float(rate.seconds(row.end - row.start))
    if receiver.seconds is not None and seconds > receiver.seconds:
        said.append(f"It takes at most {receiver.seconds:g} s, this lasts {seconds:.4g} s.")
    if receiver.rates and rate.fraction not in [Fraction(text) for text in receiver.rates]:
        said.append(f"It takes {_listed(receiver.rates)} frames a second, not {rate}.")
    for allowed, have, what in (
        (receiver.pictures, preset.picture.codec, "pictures"), (receiver.containers, preset.picture.container, "files"),
        (receiver.sounds, preset.sound.codec if doc.lock.has_sound else "none", "sound"),
        (receiver.captions, preset.captions if doc.tracks else "none", "captions"),
    ):  # fmt: skip
        if allowed and have not in allowed:
            said.append(f"It takes {what} as {_listed(tuple(allowed))}, not {have}.")
    most = preset.picture.megabytes if preset.picture.rating == "size" else 0
    if receiver.megabytes is not None and most > receiver.megabytes:
        said.append(f"It takes at most {receiver.megabytes:g} MB, the preset goes to {most:g}.")
    return said


def check_receiver(doc: Document, row: Row, path: Path, receiver: Receiving, loudness: Loudness | None) -> Check:
    """Whether a finished movie is as its receiver takes it; ``loudness`` is what was measured of it."""
    said = not_taken(doc, row, receiver)
    try:
        size = sum(f.stat().st_size for f in path.iterdir()) if path.is_dir() else path.stat().st_size
    except OSError as error:
        raise EzvarError(f"it cannot be read ({error.strerror})", file=path) from error
    if receiver.megabytes is not None and size > receiver.megabytes * 1e6:
        said.append(f"It takes at most {receiver.megabytes:g} MB, this has {size / 1e6:.1f}.")
    if receiver.loudness is not None and loudness is not None and loudness.integrated is not None:
        low, high = receiver.loudness
        if not low <= loudness.integrated <= high:
            said.append(f"It takes {low:g} to {high:g} LUFS, this has {loudness.integrated:.1f}.")
    return Check(f"as {receiver.name} takes it", tuple(Flaw(each) for each in said))


def _aspect(text: str) -> float:
    wide, _, high = text.partition(":")
    return float(wide) / float(high or 1)


def _listed(words: tuple[str, ...]) -> str:
    return " or ".join(words)
