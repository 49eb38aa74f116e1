"""Loose clips, opened together in an order as a small lock."""

from __future__ import annotations

import os
from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path

from ezvar.core.errors import InputError
from ezvar.core.media import STILL_SUFFIXES, fingerprint, probe, read_still
from ezvar.core.model import Cut, Document, Lock, Media, Shot, SoundClip, Source, new_id
from ezvar.core.names import readable
from ezvar.core.timing import Rate

_STILL_SECONDS = 4


@dataclass(frozen=True)
class LooseClip:
    """A movie or a still with its in and out, in its own frames, of a still in the lock's; ``None`` is its end."""

    path: str | os.PathLike[str]
    start: int = 0
    end: int | None = None


def lock_from_clips(clips: Sequence[LooseClip], rate: Rate | None = None) -> Document:
    """Clips one after the other as a lock, at the first movie's rate where none is given, in its size.

    Raises `InputError` where there is none, or an in does not lie before its
    out, and `MediaError` for what cannot be read.
    """
    if not clips:
        raise InputError("there is no clip", remedy="Choose at least one")
    known: dict[str, Media] = {}
    for clip in clips:
        where = os.path.realpath(clip.path)
        if where not in known:
            known[where] = _media(where, len(known) + 1)
    first = next((m for m in known.values() if m.kind == "movie"), next(iter(known.values())))
    lock_rate = rate or first.rate
    shots: list[Shot] = []
    sounds: list[SoundClip] = []
    at = 0
    for clip in clips:
        media = known[os.path.realpath(clip.path)]
        still = media.kind == "still"
        length = _STILL_SECONDS * lock_rate.nominal if still else media.frames
        end = clip.end if clip.end is not None else length
        if not 0 <= clip.start < end or (not still and end > media.frames):
            raise InputError(
                f"its in {clip.start} and out {end} do not fit its {length} frames",
                file=media.path,
                remedy="Put the in before the out",
            )
        step = Fraction(0) if still else media.rate.fraction / lock_rate.fraction
        frames = end - clip.start if still else max(1, round((end - clip.start) / step))
        cut = Cut("cut", at, at, settled=True) if at else None
        source = Source(media.id, Fraction(0 if still else clip.start), step)
        shots.append(Shot(new_id(), at, at + frames, source, cut=cut))
        if media.has_sound:
            sounds.append(SoundClip(media.id, at, at + frames, media.rate.seconds(clip.start)))
        at += frames
    begins = readable(Path(clips[0].path).stem)
    name = begins if len(clips) == 1 else f"{begins} and {len(clips) - 1} more"
    lock = Lock(
        name, lock_rate, at, first.width, first.height, media=tuple(known.values()),
        file=str(Path(os.path.realpath(clips[0].path)).parent / name), sound=tuple(sounds),
    )  # fmt: skip
    return Document(lock, tuple(shots), project=new_id())


def _media(path: str, number: int) -> Media:
    if Path(path).suffix.lower() in STILL_SUFFIXES:
        still = read_still(path)
        found = Media("", path, still.width, still.height, Rate(25), 1, kind="still")
    else:
        facts = probe(path)
        found = Media(
            "", path, facts.width, facts.height, facts.rate, facts.frames, facts.start, facts.audio is not None,
            turned=facts.rotation,
        )  # fmt: skip
    return replace(found, id=f"m{number}", content=fingerprint(path), name=Path(path).name)
