"""Segments of rows as tasks: each written into its row's folder of parts, from which the row then goes on."""

from __future__ import annotations

import os
import secrets
import socket
from collections.abc import Iterator, Sequence
from contextlib import ExitStack
from dataclasses import dataclass
from pathlib import Path

import av
from pydantic import TypeAdapter

from ezvar.core import compose
from ezvar.core.compose import LockPictures, Pictures, Shown
from ezvar.core.encoding import ImageWriter, SegmentWriter
from ezvar.core.errors import EzvarError
from ezvar.core.lock import LockReader
from ezvar.core.media import Planes
from ezvar.core.model import Document, Row
from ezvar.core.progress import CancelToken, Progress
from ezvar.core.timing import FrameRange, timecode
from ezvar.core.work import Kind, Surroundings, Task, Travel, register, task

from .job import RowJob, note_damage, part_file, remove_part
from .refused import told
from .segments import form_of, media_seen, shown_of

_ROW = TypeAdapter(Row)


@dataclass(frozen=True)
class MadeSegment:
    """What making a segment of some rows came to: for each the lock frames that show damaged media; and what could not
    be read."""

    damaged: tuple[tuple[int, ...], ...]
    problems: tuple[str, ...] = ()


_MADE = TypeAdapter(MadeSegment)


def segment_tasks(jobs: Sequence[RowJob], deep: bool) -> list[Task]:
    """The segments that rows still want, those of the same lock frames in one task, in the order of the lock.

    Of rows that may spend a certain number of bits none: what each segment
    may spend depends on those before it.
    """
    wanted: dict[tuple[int, int], list[tuple[RowJob, str]]] = {}
    for job in jobs:
        for part in job.parts if job.on and job.budget is None else ():
            if part.segment is None:
                wanted.setdefault((part.span.start, part.span.end), []).append((job, part.name))
    return [
        task(
            "segment", [name for _, name in those], start=start, end=end, deep=deep,
            rows=[_ROW.dump_python(job.order.row, mode="json") for job, _ in those],
            folders=[os.path.abspath(job.folder) for job, _ in those],  # as other programs find it, too
        )
        for (start, end), those in sorted(wanted.items())
    ]  # fmt: skip


def _rows(each: Task) -> list[Row]:
    rows = each["rows"]
    assert isinstance(rows, list)
    return [_ROW.validate_python(row) for row in rows]


def _folders(each: Task) -> list[str]:
    folders = each["folders"]
    assert isinstance(folders, list)
    return [str(folder) for folder in folders]


def _span(each: Task) -> FrameRange:
    return FrameRange(each.number("start"), each.number("end"))


def _segments(
    tasks: Sequence[Task], around: Surroundings, progress: Progress, cancel: CancelToken
) -> Iterator[MadeSegment]:
    """Make segments, one after the other, with one reader."""
    doc, problems = around.doc, dict[str, None]()
    total = sum(len(_span(each)) for each in tasks)
    done = 0

    def missing(media: str, error: EzvarError) -> None:
        if doc.lock.flat:
            raise error
        problems[f"Black where it should show: {error}"] = None

    with ExitStack() as stack:
        reader = stack.enter_context(LockReader(doc, missing, bool(tasks[0]["deep"])))
        pictures = stack.enter_context(LockPictures(reader))
        for each in tasks:
            writing = _Writing(each, doc, pictures)
            try:
                for frame in range(each.number("start"), each.number("end")):
                    cancel.check()
                    writing.add(frame)
                    done += 1
                    progress(done / total, "Making")
                damaged = writing.end()
            except (OSError, av.error.FFmpegError) as error:
                raise told(error, writing.folders[0]) from error
            finally:
                writing.tidy()
            yield MadeSegment(damaged, (*problems, *pictures.problems))


class _Writing:
    """One task under way: a file for each row, under a name of its own until it is whole."""

    def __init__(self, each: Task, doc: Document, pictures: LockPictures) -> None:
        self._doc, self._pictures, self._rows = doc, pictures, _rows(each)
        self._names, self.folders = each.inputs, [Path(folder) for folder in _folders(each)]
        self._forms = [form_of(doc, row, pictures.coding.stated) for row in self._rows]
        mark = f"unfinished-{socket.gethostname()}-{os.getpid()}-{secrets.token_hex(4)}"
        self._files = [
            part_file(folder, name, form)
            for folder, name, form in zip(self.folders, self._names, self._forms, strict=True)
        ]
        self._begun = [file.with_name(f"{mark}-{file.name}") for file in self._files]
        self._damaged: set[int] = set()
        self._writers = [
            ImageWriter(path, form) if form.coding.container == "images" else SegmentWriter(path, form)
            for path, form in zip(self._begun, self._forms, strict=True)
        ]

    def add(self, frame: int) -> None:
        """The next picture, drawn once for rows that show the same."""
        drawn: dict[tuple[str, Shown, Pictures], Planes] = {}
        for row, form, writer in zip(self._rows, self._forms, self._writers, strict=True):
            own, shown = self._pictures.in_bits(form.coding.depth), shown_of(row)
            key = row.master, shown, own
            if key not in drawn:
                drawn[key] = compose.frame(self._doc, self._doc.master(row.master), frame, own, shown=shown)
            writer.picture(drawn[key])
        if frame in self._pictures.damaged:
            self._damaged.add(frame)

    def end(self) -> tuple[tuple[int, ...], ...]:
        """Complete the files, and give them their names."""
        for writer in self._writers:
            writer.close()
        self._writers = []
        for folder, name, begun, file in zip(self.folders, self._names, self._begun, self._files, strict=True):
            if self._damaged:
                note_damage(folder, name, self._damaged)
            if begun.is_dir() and file.exists():
                continue  # another has made the same images meanwhile
            begun.rename(file)
        return tuple(tuple(sorted(self._damaged)) for _ in self._files)

    def tidy(self) -> None:
        """Remove what is not whole."""
        for writer in self._writers:
            writer.abandon()
        for begun in self._begun:
            remove_part(begun)


def _media(each: Task, doc: Document) -> set[str]:
    found: set[str] = set()
    for row in _rows(each):
        found |= media_seen(doc, doc.master(row.master), _span(each), shown_of(row))
    return found


def _name(each: Task, doc: Document) -> str:
    lock = doc.lock
    start, end = (timecode(lock.start + each.number(n), lock.rate, lock.drop) for n in ("start", "end"))
    return f"making {start} to {end}"


def _unpack(each: Task, data: bytes, around: Surroundings) -> MadeSegment:
    made = _MADE.validate_json(data)
    if len(made.damaged) != len(each.inputs):
        raise ValueError("what came back is of other rows")
    return made


SEGMENT = register(Kind("segment", 1, _segments, travel=Travel(_MADE.dump_json, _unpack, _media, _name, _folders)))
