"""From what a timeline says to a lock with its shots; media come later."""

from __future__ import annotations

import os
from collections import defaultdict
from dataclasses import replace
from fractions import Fraction
from functools import lru_cache
from itertools import pairwise

from ezvar.core.errors import TimelineError
from ezvar.core.model import BLACK, WIPES, Cut, Document, Layer, Lock, Media, Shot, SoundClip, Source, Wipe, new_id
from ezvar.core.timelines import MediaHint, Mix, Piece, Reading
from ezvar.core.timing import Rate, can_drop

_ASSUMED = (1920, 1080)


def assembled(reading: Reading, file: str | os.PathLike[str]) -> Document:
    """The document of a timeline, with all its media still to be looked for.

    A mix is split in its middle: the outgoing shot shows its source up to
    there and the incoming one from there on, whatever the timeline's join.
    """
    pieces = _without_gaps(reading.pieces)
    if not pieces:
        raise TimelineError("there is no picture in it", file=file, remedy="Export the edit with its picture track")
    frames = pieces[-1].end
    used: dict[str, list[Piece]] = defaultdict(list)
    for piece in (*pieces, *reading.sounds, *reading.upper):
        used[piece.key].append(piece)
    media = tuple(_assumed(reading, hint, used[hint.key]) for hint in reading.media.values())
    if any(not p.key for p in pieces):
        width, height = reading.size or _ASSUMED
        media = (*media, Media(BLACK, "", width, height, reading.rate, frames, kind="black", name="black"))
    width, height = reading.size or _ASSUMED
    lock = Lock(
        reading.name, reading.rate, frames, width, height, reading.start, reading.drop and can_drop(reading.rate),
        media, str(file),
    )  # fmt: skip
    known = {m.id: m for m in media}
    shots = _shots(pieces, reading.mixes, known, reading)
    lock = replace(
        lock,
        sound=tuple(
            SoundClip(p.key, p.start, p.end, p.source - known[p.key].origin, p.speed, p.track, p.carried)
            for p in reading.sounds
            if p.key
        ),
        layers=tuple(_layer(p, known, reading) for p in sorted(reading.upper, key=lambda p: (p.track, p.start))),
        notes=tuple(n for n in sorted(reading.notes, key=lambda n: n.start) if n.start < frames),
        left_out=tuple(reading.left_out),
        carried=reading.carried,
    )
    return Document(lock, shots, project=new_id())


def _without_gaps(pieces: list[Piece]) -> list[Piece]:
    """Clips in order with black where there is nothing, the lock's first frame at 0."""
    filled: list[Piece] = []
    at = 0
    for piece in sorted(pieces, key=lambda p: p.start):
        if piece.start > at:
            filled.append(Piece(at, piece.start, name="black"))
        filled.append(piece)
        at = piece.end
    while filled and not filled[-1].key:
        filled.pop()
    return filled


def _assumed(reading: Reading, hint: MediaHint, used: list[Piece]) -> Media:
    """A media as far as the timeline tells of it."""
    rate = hint.rate or reading.rate
    origin = hint.start if hint.start is not None else Fraction(0)
    length = hint.length if hint.length is not None else _needed(origin, used, reading)
    width, height = hint.size or reading.size or _ASSUMED
    return Media(
        hint.key, hint.path, width, height, rate, max(1, round(length * rate.fraction)),
        round(origin * rate.fraction), name=hint.name, reel=hint.reel, kind="sequence" if hint.sequence else "movie",
    )  # fmt: skip


def _needed(origin: Fraction, used: list[Piece], reading: Reading) -> Fraction:
    """The seconds from the media's start to the last that is used."""
    ends = [max(p.source, p.source + reading.rate.seconds(p.end - p.start) * p.speed) for p in used]
    return max(ends, default=origin) - origin


def _source(piece: Piece, known: dict[str, Media], reading: Reading) -> Source:
    if not piece.key:
        return Source(BLACK, Fraction(0), Fraction(0))
    media = known[piece.key]
    start = (piece.source - media.origin) * media.rate.fraction
    return Source(piece.key, start, _step(piece.speed, media.rate, reading.rate))


@lru_cache(1000)
def _step(speed: Fraction, media: Rate, lock: Rate) -> Fraction:
    return speed * media.fraction / lock.fraction


def _shots(pieces: list[Piece], mixes: list[Mix], known: dict[str, Media], reading: Reading) -> tuple[Shot, ...]:
    by_join = {m.join: m for m in mixes}
    starts: list[int] = [0]
    cuts: list[Cut | None] = [None]
    for before, piece in pairwise(pieces):
        mix = by_join.get(piece.start)
        if mix is None:
            starts.append(piece.start)
            cuts.append(Cut("cut", piece.start, piece.start, settled=True))
            continue
        start, end = max(mix.start, before.start), min(mix.end, piece.end)
        middle = min(max((start + end) // 2, before.start + 1, starts[-1] + 1), piece.end - 1)
        _tell_of_pattern(mix.wipe, reading)
        kind = "fade" if mix.kind == "dissolve" and not (before.key and piece.key) else mix.kind
        starts.append(middle)
        cuts.append(Cut(kind, start, end, settled=True, wipe=mix.wipe, carried=mix.carried))
    ends = [*starts[1:], pieces[-1].end]
    shots = []
    for piece, start, end, cut in zip(pieces, starts, ends, cuts, strict=True):
        if start < end:
            by = start - piece.start
            source = _source(piece, known, reading).later(by)
            shots.append(Shot(new_id(), start, end, source, piece.placement.later(by), cut=cut, carried=piece.carried))
    return tuple(shots)


def _tell_of_pattern(wipe: Wipe | None, reading: Reading) -> None:
    if wipe is not None and wipe.pattern not in WIPES:
        said = f"The wipe with the pattern {wipe.pattern} is drawn with a straight edge."
        if said not in reading.left_out:
            reading.left_out.append(said)


def _layer(piece: Piece, known: dict[str, Media], reading: Reading) -> Layer:
    source = _source(piece, known, reading) if piece.key else Source("", Fraction(0), Fraction(0))
    for wipe in (piece.comes_by, piece.goes_by):
        _tell_of_pattern(wipe, reading)
    return Layer(
        piece.name or "graphic", piece.start, piece.end, source, piece.track, piece.placement, piece.opacity,
        piece.comes, piece.goes, piece.comes_by, piece.goes_by, piece.carried,
    )  # fmt: skip
