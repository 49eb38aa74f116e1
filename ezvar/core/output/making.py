"""Making rows: all that share pictures in one pass over them, each in segments, which are joined and checked."""

from __future__ import annotations

import hashlib
import os
import shutil
from collections.abc import Iterator, Sequence
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass, replace
from pathlib import Path
from tempfile import TemporaryDirectory

import av

from ezvar.core import compose
from ezvar.core.compose import ALL, LockPictures, Shown
from ezvar.core.encoding import (
    ImageWriter,
    Pass,
    PictureForm,
    Segment,
    SegmentWriter,
    join,
    join_images,
    segment_suffix,
    stem_of,
    wrong_with,
)
from ezvar.core.errors import EzvarError, OutputError
from ezvar.core.lock import LockReader
from ezvar.core.media import Planes
from ezvar.core.model import Codec, Document, MadePart
from ezvar.core.progress import Cancelled, CancelToken, Progress, portion, silent
from ezvar.core.threads import ahead
from ezvar.core.timing import FrameRange, can_drop, timecode

from .budget import Budget, coded_bits
from .captions import embedded_in, write_beside
from .check import Expected, check_made
from .naming import may_write
from .orders import Made, OnPart, Order, nobody
from .refused import folder_in_its_place, in_its_place, told
from .segments import file_stamp, parted, segment_name
from .sounds import Sounds

_AHEAD = 2  # lock frames that are drawn before they are coded
_FIRST_PASS: dict[Codec, float] = {"h264": 23, "h265": 26}  # the quality at which segments are weighed
_TRIES = 3  # to come below a size that one pass has missed
_PASS, _JOIN = 0.9, 0.98  # of all the work, up to the end of the pass and of joining


def make_rows(
    orders: Sequence[Order], progress: Progress = silent, cancel: CancelToken | None = None, on_part: OnPart = nobody,
) -> list[Made]:  # fmt: skip
    """Make rows of one document, each to its own file, in a single pass over the pictures that they share.

    A row is made in segments under names by content, in a hidden folder
    beside its target, from which an unfinished one goes on; segments that a
    finished movie of it has are taken from there. They are joined without
    coding again, moved to the final name, and checked. What goes wrong with
    one row is told in its `Made` and costs no other; `Cancelled` is raised
    when all are told to stop. Raises `MediaError` for a flat lock that cannot
    be read.
    """
    if not orders:
        return []
    doc = orders[0].doc
    missing: list[str] = []

    def note_missing(media: str, error: EzvarError) -> None:
        if doc.lock.flat:
            raise error
        missing.append(f"Black where it should show: {error}")

    with ExitStack() as stack:
        reader = stack.enter_context(LockReader(doc, note_missing))
        pictures = stack.enter_context(LockPictures(reader))
        jobs = [_Job(order, pictures, on_part) for order in orders]
        for job in jobs:
            stack.callback(job.tidy)
        sounds = Sounds([(job.order, job.folder) for job in jobs if job.on])
        stack.callback(sounds.close)
        at = _first_passes(doc, jobs, pictures, progress, cancel, stack)
        _pass(doc, jobs, pictures, portion(progress, at, _PASS), cancel)
        for job in jobs:
            if job.budget is not None and (heard := sounds.of(job.order)) is not None:
                job.budget.heard(heard.bits)
        for _ in range(_TRIES):
            if over := [job for job in jobs if job.make_again_smaller()]:
                _pass(doc, over, pictures, portion(progress, _PASS, _PASS), cancel)
        stated = not doc.lock.flat or ((facts := reader.facts) is not None and facts.timecode_stated)
        missing += pictures.problems
        found = []
        for k, job in enumerate(jobs):
            share = portion(progress, *(_PASS + (1 - _PASS) * n / len(jobs) for n in (k, k + 1)))
            found.append(_finished(job, sounds, stated, tuple(missing), share, cancel))
        for job, made in zip(jobs, found, strict=True):
            job.finished = bool(made.parts)
        return found


def _parts_folder(target: Path) -> Path:
    """Where parts of a movie are kept until it is whole: hidden, beside it, by a name that no disk finds too long."""
    return target.parent / f".ezvar-{hashlib.sha256(os.fsencode(target.name)).hexdigest()[:16]}.parts"


def _remove(path: Path) -> None:
    """Remove a part that is not whole, a file or a folder of images."""
    if path.is_dir():
        shutil.rmtree(path)
    else:
        path.unlink(missing_ok=True)


@dataclass
class _Part:
    """A segment of a row: what it shows, and where it is; a ``segment`` that is ``None`` is still to be made."""

    span: FrameRange
    name: str
    segment: Segment | None = None


class _Job:
    """A row under way."""

    def __init__(self, order: Order, pictures: LockPictures, on_part: OnPart) -> None:
        doc, row, master = order.doc, order.row, order.master
        self.order, self.master, self._on_part = order, master, on_part
        self.shown = ALL if row.preset.captions == "burnt in" else Shown(captions=False)
        self.form = PictureForm(row.preset.picture, master.width, master.height, doc.lock.rate, pictures.coding.stated)
        self.folder = _parts_folder(order.target)
        self.parts: list[_Part] = []
        self.error: EzvarError | None = None
        self.stopped = self.finished = False
        self._writer: SegmentWriter | ImageWriter | None = None
        self._part: _Part | None = None
        self._notes: Path | None = None  # a folder, while a row is made in two passes
        self._first_pass = False
        coding = row.preset.picture
        self.budget = Budget(row.preset, len(row.range), doc.lock.rate) if coding.rating != "quality" else None
        self.two_passes = self.budget is not None and coding.passes == 2
        with self._guarded():
            may_write(doc, order.target)
            if wrong := wrong_with(row.preset):
                raise OutputError(
                    f"the preset {row.preset.name} cannot be used: {' '.join(wrong)}",
                    remedy="Change it, or choose another",
                )
            self.parts = [_Part(s, segment_name(doc, master, s, self.form, self.shown)) for s in parted(doc, row.range)]
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
        for left in self.folder.glob("unfinished-*"):  # by a program that was killed
            _remove(left)
        before, whole = self.order.before, {}
        if before is not None and before.file and before.stamp == file_stamp(before.file):
            first = min((p.start for p in before.parts), default=0)
            begins = first - 1 if self.images else first  # images of a finished folder are numbered from 1
            whole = {p.name: Segment(Path(before.file), p.end - p.start, p.start - begins) for p in before.parts}
        for part in self.parts:
            path = self._path(part)
            if path.exists():
                part.segment = Segment(path, len(part.span))
            else:
                part.segment = whole.get(part.name)
            if part.segment is not None:
                self._tell(part, "made")
            if self.budget is not None and part.segment is not None:
                self.budget.spent(part.name, coded_bits(part.segment, self.form.rate))
            elif self.budget is not None:
                self.budget.wants(part.name, len(part.span))

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

    def _path(self, part: _Part) -> Path:
        return self.folder / (part.name if self.images else f"{part.name}{segment_suffix(self.form.coding.codec)}")

    def _tell(self, part: _Part, doing: str) -> None:
        self._on_part(self.order.row.id, part.span.start, part.span.end, doing)  # type: ignore[arg-type]

    def wants(self) -> list[FrameRange]:
        """The lock frames that are still to be made."""
        return [part.span for part in self.parts if part.segment is None] if self.on else []

    def add(self, frame: int, planes: Planes) -> None:
        """The next picture of a segment that is to be made."""
        with self._guarded():
            if self._writer is None:
                self._part = next(p for p in self.parts if p.span.start == frame)
                self._tell(self._part, "under way")
                self._writer = self._begun(self._part)
            self._writer.picture(planes)
            assert self._part is not None
            if frame + 1 == self._part.span.end:
                self._end(self._part)

    def _begun(self, part: _Part) -> SegmentWriter | ImageWriter:
        path, form = self._temporary(part), self.form
        if self.images:
            return ImageWriter(path, form)
        if self._first_pass:  # at one quality, so that segments can be weighed against each other
            even = replace(form.coding, rating="quality", quality=_FIRST_PASS[form.coding.codec])
            return SegmentWriter(path, replace(form, coding=even), Pass(1, self._noted(part)))
        if self.budget is not None:
            form = replace(form, bits=self.budget.rate_of(part.name, len(part.span)), peak=self.budget.peak)
        return SegmentWriter(path, form, Pass(2, self._noted(part)) if self.two_passes else None)

    def _noted(self, part: _Part) -> str:
        assert self._notes is not None
        return str(self._notes / part.name)

    def _temporary(self, part: _Part) -> Path:
        path = self._path(part)
        return path.with_name(f"unfinished-{path.name}")

    def _end(self, part: _Part) -> None:
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
        made.path.rename(self._path(part))
        part.segment = Segment(self._path(part), len(part.span))
        self._tell(part, "made")

    def abandon(self) -> None:
        """Leave off in the middle of a segment."""
        if self._writer is not None and self._part is not None:
            self._writer.abandon()
            self._writer = None
            _remove(self._temporary(self._part))

    def tidy(self) -> None:
        """Remove the folder of parts, of a row that is finished, or where nothing whole is in it."""
        if self.finished or not any(self.folder.glob("*")):
            shutil.rmtree(self.folder, ignore_errors=True)  # what a disk will not remove is in nobody's way

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


def _first_passes(
    doc: Document, jobs: Sequence[_Job], pictures: LockPictures, progress: Progress, cancel: CancelToken | None,
    stack: ExitStack,
) -> float:  # fmt: skip
    """Look at the pictures of rows that are made in two passes. Returns how far all the work is then."""
    those = [job for job in jobs if job.on and job.two_passes]
    if not those:
        return 0.0
    for job in those:
        job.begin_first_pass(Path(stack.enter_context(TemporaryDirectory(prefix="ezvar-passes-"))))
    _pass(doc, those, pictures, portion(progress, 0, _PASS / 2), cancel)
    for job in those:
        job.end_first_pass()
    return _PASS / 2


def _pass(
    doc: Document, jobs: Sequence[_Job], pictures: LockPictures, progress: Progress, cancel: CancelToken | None
) -> None:
    """Draw every picture that is wanted, once for all rows that show it, and give it to each."""
    wants = [(job, job.wants()) for job in jobs]
    frames = sorted({frame for _, spans in wants for span in spans for frame in range(span.start, span.end)})
    drawn = ahead(_drawn(doc, wants, frames, pictures), _AHEAD)
    try:
        for n, (frame, made) in enumerate(drawn):
            if cancel is not None:
                cancel.check()
            for job, planes in made:
                if job.on:
                    job.add(frame, planes)
            progress((n + 1) / len(frames), "Making")
            if not any(job.on for job in jobs):
                return
    finally:
        drawn.close()
        for job in jobs:
            job.abandon()


def _drawn(
    doc: Document, wants: Sequence[tuple[_Job, list[FrameRange]]], frames: Sequence[int], pictures: LockPictures
) -> Iterator[tuple[int, list[tuple[_Job, Planes]]]]:
    """Every wanted picture with the rows that want it; those that show the same get the same."""
    for frame in frames:
        done: dict[tuple[str, Shown], Planes] = {}
        made = []
        for job, spans in wants:
            while spans and spans[0].end <= frame:
                spans.pop(0)
            if spans and spans[0].start <= frame:
                key = job.master.id, job.shown
                if key not in done:
                    done[key] = compose.frame(doc, job.master, frame, pictures, shown=job.shown)
                made.append((job, done[key]))
        yield frame, made


def _finished(
    job: _Job, sounds: Sounds, stated: bool, missing: tuple[str, ...], progress: Progress, cancel: CancelToken | None
) -> Made:
    """A row whose segments are all there, joined and checked; else what became of it."""
    order, doc, span = job.order, job.order.doc, job.order.row.range
    if not job.on:
        return Made(order.target, 0, error=job.error, stopped=job.stopped)
    label = timecode(doc.lock.start + span.start, doc.lock.rate, doc.lock.drop and can_drop(doc.lock.rate))
    sound = sounds.of(order)
    if sound is not None and sound.error is not None:
        return Made(order.target, 0, error=sound.error)
    heard = [sound.file] if sound is not None and sound.file is not None else []

    def on_frame(count: int) -> None:
        progress(_JOIN * count / len(span), "Joining")
        for token in (cancel, order.cancel):
            if token is not None:
                token.check()

    try:
        segments = [part.segment for part in job.parts if part.segment]
        captions = embedded_in(order)
        if job.images:
            with folder_in_its_place(order.target) as temp:
                join_images(segments, temp, stem_of(order.target), job.form.coding.codec, on_frame)
        else:
            with in_its_place(order.target) as temp:
                join(segments, temp, job.form, heard, captions, label if stated else None, on_frame)
        write_beside(order)
    except Cancelled:
        if cancel is not None and cancel.cancelled:
            raise
        return Made(order.target, 0, stopped=True)
    except EzvarError as error:
        return Made(order.target, 0, error=error)
    coding = job.form.coding
    largest = int(coding.megabytes * 1e6) if coding.rating == "size" else None
    expected = Expected(
        job.master.width, job.master.height, doc.lock.rate, len(span), bool(heard), largest, len(captions)
    )
    progress(_JOIN, "Checking what was made")
    parts = tuple(MadePart(p.span.start, p.span.end, p.name) for p in job.parts)
    said = (*missing, *(sound.said if sound is not None else ()), *check_made(order.target, expected))
    return Made(order.target, len(span), said, parts, sound.name if sound is not None else "")
