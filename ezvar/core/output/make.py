"""Making a master: decode, draw, encode, put in place, check."""

from __future__ import annotations

import errno
import os
import re
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path

import av

from ezvar.core.compose import Sources, draw_layers, master_sound
from ezvar.core.errors import EzvarError, InputError, OutputError, from_os
from ezvar.core.lock import LockReader
from ezvar.core.model import Document, Lock, Master, NamedRange
from ezvar.core.progress import CancelToken, Progress, silent
from ezvar.core.timing import FrameRange, can_drop, frame_of, timecode

from .check import Expected, check_made
from .encode import MovieWriter


@dataclass(frozen=True)
class Made:
    """A finished movie, and what its check found wrong with it."""

    path: Path
    frames: int
    problems: tuple[str, ...]


@dataclass(frozen=True)
class Delivery:
    """A movie to be made: a master from end to end, or one of its named ranges."""

    master: Master
    part: NamedRange | None = None

    @property
    def name(self) -> str:
        return f"{self.master.name} {self.part.name}" if self.part else self.master.name

    @property
    def key(self) -> str:
        """What tells it from all others of a document."""
        return f"{self.master.id}/{self.master.ranges.index(self.part)}" if self.part else self.master.id


def deliveries(master: Master) -> tuple[Delivery, ...]:
    """What is made of a master: its named ranges where it has any, else the whole."""
    return tuple(Delivery(master, part) for part in master.ranges) or (Delivery(master),)


def output_name(doc: Document, delivery: Delivery) -> str:
    """The file name of a delivery: the lock's name, the master's and the range's, safe on any disk.

    A shape 9:16 is written 9x16.
    """
    name = f"{doc.lock.name} {delivery.name.replace(':', 'x')}"
    return re.sub(r'[\x00-\x1f/\\?*"<>|:]', "-", name).strip(". ") + ".mp4"


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
    progress: Progress = silent,
    cancel: CancelToken | None = None,
) -> Made:
    """Make one movie in a folder, which is made where it is not there.

    The movie is written under a hidden temporary name, moved to its final
    name when complete, then opened again and checked. ``within`` makes
    these frames of the lock only, whatever the delivery's own range. Raises `OutputError` for what the disk refuses,
    `MediaError` for a source that cannot be read, `Cancelled` when told to
    stop; in each case nothing is left behind.
    """
    whole = FrameRange(0, doc.lock.frames)
    master, part = delivery.master, delivery.part
    span = within or (FrameRange(part.start, part.end) if part else whole)
    if not len(span) or span.start < 0 or span.end > whole.end:
        raise InputError("the range lies outside the lock", remedy=f"Choose frames from 0 to {whole.end}")
    target = Path(folder) / output_name(doc, delivery)
    if any(_same_file(target, media.path) for media in doc.lock.media):
        raise OutputError("it is the lock itself, which is never changed", file=target, remedy="Choose another folder")
    missing: list[str] = []

    def note_missing(media: str, error: EzvarError) -> None:
        if doc.lock.flat:
            raise error
        missing.append(f"Black where it should show: {error}")

    with _in_place_of(target) as temp, LockReader(doc, note_missing) as reader, Sources(doc) as sources:
        _write(doc, master, reader, sources, temp, span, progress, cancel)
        missing += sources.problems
    expected = Expected(master.width, master.height, doc.lock.rate, len(span), doc.lock.has_sound)
    progress(1.0, "Checking what was made")
    return Made(target, len(span), (*missing, *check_made(target, expected)))


def _same_file(target: Path, other: str) -> bool:
    return bool(other) and target.exists() and os.path.exists(other) and os.path.samefile(target, other)


def _write(
    doc: Document, master: Master, reader: LockReader, sources: Sources, temp: Path, span: FrameRange,
    progress: Progress, cancel: CancelToken | None,
) -> None:  # fmt: skip
    rate, sound = doc.lock.rate, doc.lock.has_sound
    first = reader.frame(span.start)
    tags = first.tags
    if tags.matrix == 2 and tags.primaries == 2 and tags.transfer == 2:
        # A player decides for unsaid colours by size, and the size changes: say what the lock's size meant.
        tags = replace(tags, matrix=tags.matrix_for(first.height))
    label = timecode(doc.lock.start + span.start, rate, doc.lock.drop and can_drop(rate))
    stated = not doc.lock.flat or ((facts := reader.facts) is not None and facts.timecode_stated)
    writer = MovieWriter(temp, master.width, master.height, rate, tags, sound, label if stated else None)
    blocks = master_sound(doc, master, span.start, span.end) if sound else iter(())
    heard = Fraction(0)
    try:
        for n, frame in enumerate(range(span.start, span.end)):
            if cancel is not None:
                cancel.check()
            drawn = draw_layers(doc, master, frame, reader.layers(frame), 1.0, sources)
            # Media of a timeline may be coded otherwise than the first, whose tags the movie has.
            writer.picture(replace(drawn.recoded(tags.matrix_for(first.height), tags.range == 2), tags=tags))
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
    """A temporary path beside a target, moved to it when all went well and removed when not."""
    try:
        target.parent.mkdir(parents=True, exist_ok=True)
        _remove_leftovers(target)
        handle, name = tempfile.mkstemp(prefix=f".{target.stem}.{os.getpid()}.", suffix=".part", dir=target.parent)
        os.close(handle)
    except OSError as error:
        raise from_os(error, "written", target, OutputError) from error
    temp = Path(name)
    try:
        yield temp
        with temp.open("rb+") as file:
            os.fsync(file.fileno())
        temp.chmod(0o644)
        os.replace(temp, target)
    except (av.error.FFmpegError, OSError) as error:
        code = error.errno if isinstance(error.errno, int) and error.errno > 0 else errno.EIO
        raise from_os(OSError(code, os.strerror(code)), "written", target, OutputError) from error
    finally:
        temp.unlink(missing_ok=True)


def _remove_leftovers(target: Path) -> None:
    """Remove what a killed process left of this movie; those of living ones stay."""
    for old in target.parent.glob(f".{_escaped(target.stem)}.*.part"):
        number = old.name.removeprefix(f".{target.stem}.").split(".")[0]
        if number.isdigit() and not Path(f"/proc/{number}").exists():
            old.unlink(missing_ok=True)


def _escaped(name: str) -> str:
    return re.sub(r"([\[*?])", r"[\1]", name)
