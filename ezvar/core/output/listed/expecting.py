"""How large a movie will be and how long it takes to make, told from short trials of this very material."""

from __future__ import annotations

import time
from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from statistics import fmean
from tempfile import TemporaryDirectory

import av

from ezvar.core import compose
from ezvar.core.compose import LockPictures
from ezvar.core.encoding import ImageWriter, SegmentWriter, segment_suffix, sound_suffix, write_sound
from ezvar.core.lock import LockReader, is_deep
from ezvar.core.media import SOUND_RATE
from ezvar.core.model import Document, Row
from ezvar.core.progress import CancelToken, Progress, silent
from ezvar.core.timing import FrameRange

from ..budget import Budget
from ..heard import SoundOfRow, sounds_of
from ..segments import form_of, parted, shown_of

_TRIALS, _LONG = 20, 8  # stretches of a row that are tried, and their frames
_HEARD, _LISTENED = 3, 4.0  # stretches of sound, and their seconds
_CHECKED = 1.25  # times as long as it takes to make, with its check
_EVERY = 250  # frames, after which an encoder begins a group of pictures anyway
_PCM = 24  # bits of a sample
_FILE, _FRAME, _SECOND = 2_000, 14, 400  # bytes that a file takes besides, in all, a frame and a second of sound


@dataclass(frozen=True)
class Expected:
    """What making a row is expected to come to: bytes, and seconds on this machine."""

    size: int
    seconds: float


@dataclass(frozen=True)
class _Trial:
    """Bytes of the first picture and, on average, of each other; seconds that one took to be drawn and coded."""

    first: float
    each: float
    seconds: float


def expected(
    doc: Document, rows: Sequence[Row], progress: Progress = silent, cancel: CancelToken | None = None
) -> dict[str, Expected]:
    """What making rows is expected to come to, each by itself, by their ids. Takes seconds; stretches in even steps
    are made and thrown away.

    What is shared by rows that are made together is not taken off. Raises
    `MediaError` where a lock cannot be read.
    """
    found: dict[str, Expected] = {}
    known: dict[object, list[_Trial]] = {}
    heard: dict[object, float] = {}
    deep = any(row.preset.picture.depth > 8 for row in rows) and is_deep(doc)
    with LockReader(doc, lambda media, error: None, deep) as reader, LockPictures(reader) as pictures:
        for k, row in enumerate(rows):
            alike = row.master, row.start, row.end, row.preset.picture, shown_of(row)
            if alike not in known:
                with TemporaryDirectory(prefix="ezvar-trials-") as folder:
                    known[alike] = _trials(doc, row, pictures, Path(folder), cancel)
            sounds = row.master, row.start, row.end, row.preset.sound, row.heard
            if sounds not in heard:
                heard[sounds] = _sound_rate(doc, row)
            found[row.id] = _told(doc, row, known[alike], heard[sounds])
            progress((k + 1) / len(rows), "Trying out")
    return found


def _trials(doc: Document, row: Row, pictures: LockPictures, folder: Path, cancel: CancelToken | None) -> list[_Trial]:
    frames = row.end - row.start
    form, own = form_of(doc, row, pictures.coding.stated), pictures.in_bits(row.preset.picture.depth)
    if form.coding.rating != "quality":
        budget = Budget(row.preset, frames, doc.lock.rate)
        budget.wants("", frames)
        form = replace(form, bits=budget.rate_of("", frames), peak=budget.peak)
    found = []
    for n, span in enumerate(_stretches(doc, row)):
        if cancel is not None:
            cancel.check()
        path = folder / f"{n}{segment_suffix(form.coding.codec) if form.coding.container != 'images' else ''}"
        images = form.coding.container == "images"
        writer: ImageWriter | SegmentWriter = ImageWriter(path, form) if images else SegmentWriter(path, form)
        master, shown = doc.master(row.master), shown_of(row)
        first = compose.frame(doc, master, span.start, own, shown=shown)  # with the seeking there
        begun = time.monotonic()
        writer.picture(first)
        for frame in range(span.start + 1, span.end):
            writer.picture(compose.frame(doc, master, frame, own, shown=shown))
        writer.close()
        took = (time.monotonic() - begun) / len(span)
        sizes = [f.stat().st_size for f in path.iterdir()] if images else _packets(path)
        found.append(_Trial(sizes[0], fmean(sizes[1:] or sizes), took))
    return found


def _packets(path: Path) -> list[int]:
    with av.open(str(path)) as coded:
        return [packet.size for packet in coded.demux(video=0) if packet.size]


def _stretches(doc: Document, row: Row) -> list[FrameRange]:
    """The stretches that are tried: around even steps of a row, each within a shot."""
    frames = row.end - row.start
    found: dict[int, FrameRange] = {}
    for k in range(_TRIALS):
        middle = row.start + round((k + 0.5) * frames / _TRIALS)
        shot = doc.shot_at(min(middle, row.end - 1))
        first, last = max(shot.start, row.start), min(shot.end, row.end)
        start = max(first, min(middle - _LONG // 2, last - _LONG))
        found[start] = FrameRange(start, min(last, start + _LONG))
    return list(found.values())


def _sound_rate(doc: Document, row: Row) -> float:
    """Bytes a second that the sound of a row takes: what encoders are told is the most that they take."""
    return sum(_rate_of(doc, row, each) for each in sounds_of(doc, row))


def _rate_of(doc: Document, row: Row, heard_of: SoundOfRow) -> float:
    """Bytes a second of one sound track."""
    sound, rate, channels = row.preset.sound, doc.lock.rate, heard_of.channels
    if sound.codec == "pcm":
        return SOUND_RATE * _PCM * channels / 8
    frames, long = row.end - row.start, max(1, round(_LISTENED * float(rate.fraction)))
    taken = heard = 0.0
    with TemporaryDirectory(prefix="ezvar-trials-") as folder:
        for k in range(_HEARD):
            start = row.start + max(0, round((k + 0.5) * frames / _HEARD) - long // 2)
            end = min(row.end, start + long)
            path = Path(folder) / f"{k}{sound_suffix(sound.codec)}"
            write_sound(path, sound, channels, heard_of.blocks(start, end))
            with av.open(str(path)) as coded:
                taken += sum(packet.size for packet in coded.demux(audio=0))
            heard += float(rate.seconds(end - start))
    return taken / heard


def _told(doc: Document, row: Row, trials: Sequence[_Trial], heard: float) -> Expected:
    frames, picture = row.end - row.start, row.preset.picture
    seconds = float(doc.lock.rate.seconds(frames))
    keys = len(parted(doc, row.range)) + sum(row.start < s.start < row.end for s in doc.shots) + frames // _EVERY
    keys = min(frames, keys)
    size = keys * fmean(t.first for t in trials) + (frames - keys) * fmean(t.each for t in trials)
    if picture.rating == "bit rate":
        size = picture.bits * seconds / 8
    passes = picture.passes if picture.rating != "quality" else 1
    took = frames * fmean(t.seconds for t in trials) * passes * _CHECKED
    if picture.rating == "size":
        return Expected(int(picture.megabytes * 1e6), took)
    besides = 0 if picture.container == "images" else _FILE + _FRAME * frames + (_SECOND * seconds if heard else 0)
    return Expected(round(size + heard * seconds + besides), took)
