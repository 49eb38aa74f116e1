"""Whether a finished movie sounds as the document says: where it should, as loud as it should."""

from __future__ import annotations

import os
from collections.abc import Iterator
from fractions import Fraction

import numpy as np

from ezvar.core.media import SOUND_RATE, Loudness, MovieFacts, loudness_of, probe, sound_blocks
from ezvar.core.model import Check, Document, Flaw, Row
from ezvar.core.timing import can_drop, timecode

from ..heard import SoundOfRow

_WINDOW, _FARTHEST = 4.0, 0.5  # seconds that are compared at a time, and by which sound may be looked for aside
_LESS = 8  # samples of which one is compared
_SILENT = 3e-4  # of full scale, root mean square: -70 dBFS
_ALIKE, _LOUDER = 0.4, 2.0  # correlation, and dB by which the level may differ
_OFF_TARGET = 0.6  # LU; measured and aimed at alike, coding itself changes the level a little


def check_sound(sound: SoundOfRow, path: str | os.PathLike[str], track: int = 1) -> tuple[Check, Loudness]:
    """Compare a sound track of a finished movie with what the document says, at its start, in its middle and at its
    end, and its loudness (EBU R 128), which is given too, with the one that was asked for.

    What is silent in all three places tells nothing.
    """
    facts, row, channels = probe(path), sound.row, sound.channels
    flaws: list[Flaw] = []
    if facts.audios[track - 1].channels != channels:
        flaws.append(Flaw(f"It has {facts.audios[track - 1].channels} channels, not {channels}."))
    for start, end in _windows(sound.doc, row):
        flaws += _compare(sound, facts, start, end, track)
    found = loudness_of(sound_blocks(facts, channels=channels, track=track), channels)
    target = row.preset.sound.loudness
    if target is not None and found.integrated is not None and found.integrated > target + _OFF_TARGET:
        flaws.append(Flaw(f"It is {found.integrated:.1f} LUFS loud, not {target:g}."))
    which = f" of track {track}" if track > 1 else ""
    return Check(f"sound{which} in step, {_said(found)}", tuple(flaws)), found


def _said(found: Loudness) -> str:
    return "silent" if found.integrated is None else f"{found.integrated:.1f} LUFS".replace("-", "\u2212")


def _windows(doc: Document, row: Row) -> list[tuple[int, int]]:
    """Lock frames to be compared: at the start, in the middle and at the end of a row."""
    long = min(row.end - row.start, max(1, round(_WINDOW * float(doc.lock.rate.fraction))))
    middle = (row.start + row.end - long) // 2
    return sorted({(a, a + long) for a in (row.start, middle, row.end - long)})


def _compare(sound: SoundOfRow, facts: MovieFacts, start: int, end: int, track: int) -> Iterator[Flaw]:
    """What is wrong in a stretch: of sound of one or two channels mixed, of more each by itself."""
    doc, row, channels = sound.doc, sound.row, sound.channels
    rate = doc.lock.rate
    first = Fraction(round(rate.seconds(start) * SOUND_RATE) - round(rate.seconds(row.start) * SOUND_RATE), SOUND_RATE)
    compared = channels if channels > 2 else 1
    wanted = _whole(sound.blocks(start, end, compared))
    until = first + Fraction(wanted.shape[1], SOUND_RATE)
    made = _whole(sound_blocks(facts, first, until, compared, track=track))
    for k in range(compared):
        name = "its sound" if compared == 1 else f"its channel {k + 1}"
        yield from _differs(sound, name, wanted[k], made[k], start, end)


def _differs(
    sound: SoundOfRow, name: str, wanted: np.ndarray, made: np.ndarray, start: int, end: int
) -> Iterator[Flaw]:
    doc, row = sound.doc, sound.row
    rate, at = doc.lock.rate, timecode(doc.lock.start + start, doc.lock.rate, doc.lock.drop and can_drop(doc.lock.rate))
    level, loud = (float(np.sqrt(np.mean(each**2))) for each in (wanted, made))
    if level < _SILENT or loud < _SILENT:
        if max(level, loud) > 10 * _SILENT:
            yield Flaw("It is silent" if loud < _SILENT else "It sounds where the lock is silent", start, end)
        return
    lag, alike = _lag(_fewer(wanted), _fewer(made))
    if alike < _ALIKE:
        yield Flaw(f"At {at} {name} is otherwise than the lock's.", start, end)
    elif abs(lag) > rate.seconds(1):
        later = "late" if lag > 0 else "early"
        yield Flaw(f"At {at} {name} is {abs(float(lag)):.3f} s {later}.", start, end)
    elif row.preset.sound.loudness is None and abs(20 * np.log10(loud / level)) > _LOUDER:
        yield Flaw(f"At {at} {name} is {'louder' if loud > level else 'quieter'} than the lock's.", start, end)


def _whole(blocks: Iterator[np.ndarray]) -> np.ndarray:
    return np.concatenate(list(blocks) or [np.zeros((1, 1), np.float32)], axis=1)


def _fewer(sound: np.ndarray) -> np.ndarray:
    whole = sound[: len(sound) // _LESS * _LESS]
    return np.asarray(whole.reshape(-1, _LESS).mean(axis=1))


def _lag(wanted: np.ndarray, made: np.ndarray) -> tuple[Fraction, float]:
    """By how many seconds ``made`` is later, and how alike they are then, up to 1."""
    size = 1 << (len(made) + len(wanted) - 2).bit_length()
    found = np.fft.irfft(np.fft.rfft(made, size) * np.conj(np.fft.rfft(wanted, size)), size)  # lags below 0 at its end
    far = int(_FARTHEST * SOUND_RATE / _LESS)
    lags = np.arange(-min(far, len(wanted) - 1), min(far, len(made) - 1) + 1)
    best = int(lags[np.argmax(found[lags])])
    scale = float(np.sqrt((wanted**2).sum() * (made**2).sum())) or 1.0
    return Fraction(best * _LESS, SOUND_RATE), float(found[best]) / scale
