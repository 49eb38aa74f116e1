"""Making a master: decode, draw, encode, put in place, check."""

from __future__ import annotations

import errno
import os
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av

from ezvar.core import compose
from ezvar.core.compose import LockPictures, master_sound
from ezvar.core.encoding import THREADS, MovieWriter
from ezvar.core.errors import EzvarError, InputError, OutputError, from_os
from ezvar.core.lock import LockReader, Silence, silences
from ezvar.core.model import Document, Lock, Master
from ezvar.core.progress import CancelToken, Progress, silent
from ezvar.core.store import in_place_of
from ezvar.core.timing import FrameRange, can_drop, frame_of, timecode

from .check import Expected, check_made
from .delivery import Delivery, output_path


@dataclass(frozen=True)
class Made:
    """A finished movie, and what its check found wrong with it."""

    path: Path
    frames: int
    problems: tuple[str, ...]


def parse_range(text: str, lock: Lock) -> FrameRange:
    """A range "IN-OUT" in timecodes of the lock or in its frames; OUT is the first frame left out."""
    first, dash, last = text.partition("-")
    try:
        if not dash:
            raise ValueError("it is not written IN-OUT")
        start, end = (_frame_in(lock, part.strip()) for part in (first, last))
        if not 0 <= start < end <= lock.frames:
            raise ValueError("it lies outside the lock")
    except ValueError as error:
        remedy = f"Write it like 0-{lock.frames}, or with timecodes"
        raise InputError(f"the range {text}: {error}", remedy=remedy) from error
    return FrameRange(start, end)


def _frame_in(lock: Lock, text: str) -> int:
    return int(text) if text.isdigit() else frame_of(text, lock.rate) - lock.start


def make_delivery(
    doc: Document,
    delivery: Delivery,
    folder: str | os.PathLike[str],
    *,
    within: FrameRange | None = None,
    threads: int = THREADS,
    progress: Progress = silent,
    cancel: CancelToken | None = None,
) -> Made:
    """Make one movie in a folder, which is made where it is not there.

    The movie is written under a hidden temporary name, moved to its final
    name when complete, then opened again and checked. ``within`` makes
    these frames of the lock only, whatever the delivery's own range;
    ``threads`` are the encoder's. Raises
    `OutputError` for what the disk refuses or must not be replaced,
    `MediaError` for a source that cannot be read, `Cancelled` when told to
    stop; in each case nothing is left behind.
    """
    whole = FrameRange(0, doc.lock.frames)
    master, named = delivery.master, delivery.named
    span = within or (FrameRange(named.start, named.end) if named else whole)
    if not len(span) or span.start < 0 or span.end > whole.end:
        raise InputError("the range lies outside the lock", remedy=f"Choose frames from 0 to {whole.end}")
    target = output_path(doc, delivery, folder)
    missing: list[str] = []

    def note_missing(media: str, error: EzvarError) -> None:
        if doc.lock.flat:
            raise error
        missing.append(f"Black where it should show: {error}")

    unheard: list[Silence] = [] if doc.lock.has_sound else silences(doc, span.start, span.end)
    with _in_place_of(target) as temp, LockReader(doc, note_missing) as reader, LockPictures(reader) as pictures:
        _write(doc, master, reader, pictures, temp, span, threads, unheard.append, progress, cancel)
        missing += pictures.problems
    missing += dict.fromkeys(silence.said(doc.lock) for silence in unheard)
    expected = Expected(master.width, master.height, doc.lock.rate, len(span), doc.lock.has_sound)
    progress(1.0, "Checking what was made")
    return Made(target, len(span), (*missing, *check_made(target, expected)))


def _write(
    doc: Document, master: Master, reader: LockReader, pictures: LockPictures, temp: Path, span: FrameRange,
    threads: int, on_silence: Callable[[Silence], object], progress: Progress, cancel: CancelToken | None,
) -> None:  # fmt: skip
    rate, sound = doc.lock.rate, doc.lock.has_sound
    label = timecode(doc.lock.start + span.start, rate, doc.lock.drop and can_drop(rate))
    stated = not doc.lock.flat or ((facts := reader.facts) is not None and facts.timecode_stated)
    writer = MovieWriter(
        temp, master.width, master.height, rate, pictures.coding.stated, sound, label if stated else None, threads
    )
    blocks = master_sound(doc, master, span.start, span.end, 2, on_silence) if sound else iter(())
    heard = Fraction(0)
    try:
        for n, frame in enumerate(range(span.start, span.end)):
            if cancel is not None:
                cancel.check()
            writer.picture(compose.frame(doc, master, frame, pictures))
            # Sound goes in step with the picture, so that the file interleaves well.
            while heard <= rate.seconds(n + 1) and (block := next(blocks, None)) is not None:
                writer.sound(block)
                heard += Fraction(block.shape[1], 48_000)
            progress((n + 1) / len(span), f"Making {master.name}")
        for block in blocks:
            writer.sound(block)
        writer.close()
    except BaseException:
        writer.abandon()
        raise


@contextmanager
def _in_place_of(target: Path) -> Iterator[Path]:
    """As `in_place_of`, in a folder that is made where it is not there; what an encoder says of the disk counts too."""
    try:
        target.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise from_os(error, "written", target, OutputError) from error
    with in_place_of(target, OutputError, "written") as part:
        try:
            yield part
        except av.error.FFmpegError as error:
            code = error.errno if isinstance(error.errno, int) and error.errno > 0 else errno.EIO
            raise OSError(code, os.strerror(code)) from error
