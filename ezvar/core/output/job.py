"""One row under way: its segments, those that are there already, and the one that is being coded."""

from __future__ import annotations

import fcntl
import hashlib
import json
import os
import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field, replace
from pathlib import Path

import av

from ezvar.core.compose import LockPictures
from ezvar.core.encoding import (
    ImageWriter,
    Pass,
    PictureForm,
    Segment,
    SegmentWriter,
    segment_suffix,
    wrong_with,
)
from ezvar.core.errors import EzvarError, OutputError
from ezvar.core.media import Planes
from ezvar.core.model import Codec
from ezvar.core.timing import FrameRange

from .budget import Budget, coded_bits
from .naming import may_write
from .orders import Doing, OnPart, Order
from .refused import told
from .segments import file_stamp, form_of, named_parts, shown_of

_FIRST_PASS: dict[Codec, float] = {"h264": 23, "h265": 26}  # the quality at which segments are weighed


def _parts_folder(target: Path) -> Path:
    """Where parts of a movie are kept until it is whole: hidden, beside it, by a name that no disk finds too long."""
    return target.parent / f".ezvar-{hashlib.sha256(os.fsencode(target.name)).hexdigest()[:16]}.parts"


def forget_parts(target: Path) -> None:
    """Remove what is kept of an unfinished movie, unless somebody is making it."""
    folder = _parts_folder(target)
    try:
        handle = os.open(folder, os.O_RDONLY | os.O_CLOEXEC)
    except OSError:
        return  # there is nothing
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        shutil.rmtree(folder, ignore_errors=True)  # what a disk will not remove is in nobody's way
    except BlockingIOError:
        return
    finally:
        os.close(handle)


def remove_part(path: Path) -> None:
    """Remove a part that is not whole, a file or a folder of images."""
    if path.is_dir():
        shutil.rmtree(path)
    else:
        path.unlink(missing_ok=True)


def part_file(folder: Path, name: str, form: PictureForm) -> Path:
    """Where a segment of that name is in a row's folder of parts: a file, or a folder of images."""
    return folder / (name if form.coding.container == "images" else f"{name}{segment_suffix(form.coding.codec)}")


def _damage_file(folder: Path, name: str) -> Path:
    """Where it is noted which frames of a part show damaged media, for whoever goes on with it."""
    return folder / f"damaged-{name}.json"


def note_damage(folder: Path, name: str, damaged: set[int]) -> None:
    """Note which lock frames of a part show damaged media."""
    _damage_file(folder, name).write_text(json.dumps(sorted(damaged)))


@dataclass
class Part:
    """A segment of a row: what it shows, and where it is; a ``segment`` that is ``None`` is still to be made."""

    span: FrameRange
    name: str
    segment: Segment | None = None
    checked: bool = False  # with the movie that it is taken from
    damaged: set[int] = field(default_factory=set)  # lock frames that show damaged media


class RowJob:
    """A row under way."""

    def __init__(self, order: Order, pictures: LockPictures, on_part: OnPart) -> None:
        doc, row = order.doc, order.row
        self.order, self.master, self._on_part = order, order.master, on_part
        self.shown = shown_of(row)
        self.form = form_of(doc, row, pictures.coding.stated)
        self.folder = _parts_folder(order.target)
        self.parts: list[Part] = []
        self.error: EzvarError | None = None
        self.stopped = self.finished = False
        self._writer: SegmentWriter | ImageWriter | None = None
        self._part: Part | None = None
        self._handle: int | None = None  # the folder, held
        self._notes: Path | None = None  # a folder, while a row is made in two passes
        self._first_pass = False
        coding = row.preset.picture
        self.budget = Budget(row.preset, len(row.range), doc.lock.rate) if coding.rating != "quality" else None
        self.two_passes = self.budget is not None and coding.passes == 2
        with self._guarded():
            may_write(doc, row, order.target)
            if wrong := wrong_with(row.preset):
                raise OutputError(
                    f"the preset {row.preset.name} cannot be used: {' '.join(wrong)}",
                    remedy="Change it, or choose another",
                )
            named = named_parts(doc, row, self.form.tags)
            self.parts = [Part(FrameRange(part.start, part.end), part.name) for part in named]
            self._take_over()

    @property
    def on(self) -> bool:
        """Whether it goes on: nothing went wrong, and nobody stopped it."""
        if self.order.cancel.cancelled and self.error is None and not self.stopped:
            self.abandon()
            self.stopped = True
        return self.error is None and not self.stopped

    def _take_over(self) -> None:
        """Find the segments that are there already: of an unfinished making, or in the finished movie."""
        self.folder.mkdir(parents=True, exist_ok=True)
        self._hold()
        for left in self.folder.glob("unfinished-*"):  # by a program that was killed
            remove_part(left)
        before, whole, hurt = self.order.before, {}, {}
        if before is not None and before.stamp == file_stamp(before.file):
            first = min((p.start for p in before.parts), default=0)
            begins = first - 1 if self.images else first  # images of a finished folder are numbered from 1
            hurt = {p.name: p.damaged for p in before.parts}
            whole = {p.name: Segment(Path(before.file), p.end - p.start, p.start - begins) for p in before.parts}
        for part in self.parts:
            if not self._found(part):
                part.segment, part.damaged = whole.get(part.name), set(hurt.get(part.name, ()))
                part.checked = part.segment is not None and before is not None and before.checked
            self._tell(part, "to be made" if part.segment is None else "made")
            if self.budget is not None and part.segment is not None:
                self.budget.spent(part.name, coded_bits(part.segment, self.form.rate))
            elif self.budget is not None:
                self.budget.wants(part.name, len(part.span))

    def _found(self, part: Part) -> bool:
        """Take up a segment that is there; whether it is."""
        path = self._path(part)
        if path.exists():
            part.segment, part.damaged = Segment(path, len(part.span)), self._damaged_in(part)
        return path.exists()

    def take_up(self, span: FrameRange) -> None:
        """Take up the segment of a span that was made elsewhere meanwhile."""
        for part in self.parts:
            if part.span == span and part.segment is None and self._found(part):
                self._tell(part, "made")

    def _hold(self) -> None:
        """Keep other programs from making the same movie, until `tidy`."""
        handle = os.open(self.folder, os.O_RDONLY | os.O_CLOEXEC)
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            os.close(handle)
            raise OutputError(
                "another program is making it", file=self.order.target, remedy="Wait for it, or choose another folder"
            ) from None
        except OSError:
            pass  # a shared disk that knows no locks
        self._handle = handle
        if not os.path.samestat(os.fstat(handle), os.stat(self.folder)):  # it was finished, and the folder removed
            raise OutputError("another program has just made it", file=self.order.target, remedy="Make it again")

    def begin_first_pass(self, notes: Path) -> None:
        """From now on segments are only looked at, and noted in a folder, until `end_first_pass`."""
        self._notes, self._first_pass = notes, True

    def end_first_pass(self) -> None:
        self._first_pass = False

    def make_again_smaller(self) -> bool:
        """Whether the row is larger than its size allows; then what was made now is to be made again."""
        if not self.on or self.budget is None or not self.budget.over:
            return False
        made = [p for p in self.parts if p.segment is not None and p.segment.path == self._path(p)]
        took = {p.name: (len(p.span), coded_bits(p.segment, self.form.rate)) for p in made if p.segment is not None}
        self.budget.again(took)
        for part in made:
            self._path(part).unlink()
            part.segment = None
        return bool(made)

    @property
    def images(self) -> bool:
        """Whether it is made as images, in a folder."""
        return self.form.coding.container == "images"

    def _path(self, part: Part) -> Path:
        return part_file(self.folder, part.name, self.form)

    def _tell(self, part: Part, doing: Doing) -> None:
        self._on_part(self.order.row.id, part.span.start, part.span.end, doing)

    @property
    def unchecked(self) -> list[FrameRange]:
        """The lock frames to be compared with the document: of what was checked with an earlier movie, those alone at
        which parts begin."""
        return [FrameRange(p.span.start, p.span.start + 1) if p.checked else p.span for p in self.parts]

    def wants(self) -> list[FrameRange]:
        """The lock frames that are still to be made."""
        return [part.span for part in self.parts if part.segment is None] if self.on else []

    def add(self, frame: int, planes: Planes, damaged: bool = False) -> None:
        """The next picture of a segment that is to be made; ``damaged`` where its media are."""
        with self._guarded():
            if self._writer is None:
                self._part = next(p for p in self.parts if p.span.start == frame)
                self._tell(self._part, "under way")
                self._writer = self._begun(self._part)
            self._writer.picture(planes)
            assert self._part is not None
            if damaged:
                self._part.damaged.add(frame)
            if frame + 1 == self._part.span.end:
                self._end(self._part)

    def _begun(self, part: Part) -> SegmentWriter | ImageWriter:
        path, form = self._temporary(part), self.form
        if self.images:
            return ImageWriter(path, form)
        if self._first_pass:  # at one quality, so that segments can be weighed against each other
            even = replace(form.coding, rating="quality", quality=_FIRST_PASS[form.coding.codec])
            return SegmentWriter(path, replace(form, coding=even), Pass(1, self._noted(part)))
        if self.budget is not None:
            form = replace(form, bits=self.budget.rate_of(part.name, len(part.span)), peak=self.budget.peak)
        return SegmentWriter(path, form, Pass(2, self._noted(part)) if self.two_passes else None)

    def _noted(self, part: Part) -> str:
        assert self._notes is not None
        return str(self._notes / part.name)

    def _temporary(self, part: Part) -> Path:
        path = self._path(part)
        return path.with_name(f"unfinished-{path.name}")

    def _end(self, part: Part) -> None:
        assert self._writer is not None
        self._writer.close()
        self._writer = None
        made = Segment(self._temporary(part), len(part.span))
        bits = coded_bits(made, self.form.rate) if self.budget is not None else 0
        if self._first_pass:
            assert self.budget is not None
            self.budget.wants(part.name, len(part.span), bits)
            made.path.unlink()
            return
        if self.budget is not None:
            self.budget.spent(part.name, bits)
        if part.damaged:
            note_damage(self.folder, part.name, part.damaged)
        made.path.rename(self._path(part))
        part.segment = Segment(self._path(part), len(part.span))
        self._tell(part, "made")

    def _damaged_in(self, part: Part) -> set[int]:
        try:
            noted = json.loads(_damage_file(self.folder, part.name).read_text())
            return {frame for frame in noted if frame in part.span}
        except FileNotFoundError:
            return set()
        except (OSError, ValueError, TypeError):
            return set(range(part.span.start, part.span.end))  # some of it is

    def abandon(self) -> None:
        """Leave off in the middle of a segment."""
        if self._writer is not None and self._part is not None:
            self._writer.abandon()
            self._writer = None
            remove_part(self._temporary(self._part))

    def tidy(self) -> None:
        """Remove the folder of parts, of a row that is finished, or where nothing whole is in it."""
        for left in self.folder.glob("unfinished-*") if self._handle is not None else ():
            remove_part(left)  # an encoder that refused to begin has left it
        if self._handle is not None and (self.finished or not any(self.folder.glob("*"))):
            shutil.rmtree(self.folder, ignore_errors=True)  # what a disk will not remove is in nobody's way
        if self._handle is not None:
            os.close(self._handle)

    @contextmanager
    def _guarded(self) -> Iterator[None]:
        """What goes wrong with this row is its own."""
        try:
            yield
        except EzvarError as error:
            self.error = error
        except (OSError, av.error.FFmpegError) as error:
            self.error = told(error, self.order.target)
        if self.error is not None:
            self.abandon()
