"""Checking a finished movie as a task."""

from __future__ import annotations

import os
from collections.abc import Iterator, Sequence
from pathlib import Path

from pydantic import TypeAdapter

from ezvar.core.model import Document, Report, Row
from ezvar.core.names import readable
from ezvar.core.progress import CancelToken, Progress, portion
from ezvar.core.timing import FrameRange
from ezvar.core.work import Kind, Surroundings, Task, Travel, register, task

from .checking import check_row
from .orders import Order
from .segments import file_stamp, media_seen, shown_of

_ROW, _REPORT = TypeAdapter(Row), TypeAdapter(Report)


def check_task(order: Order, spans: Sequence[FrameRange] | None = None) -> Task:
    """Checking what was made of a row, as `check_row`."""
    compared = [order.row.range] if spans is None else spans
    return task(
        "check", [file_stamp(order.target)], row=_ROW.dump_python(order.row, mode="json"),
        file=os.path.abspath(order.target), spans=[[span.start, span.end] for span in compared],
    )  # fmt: skip


def _row(each: Task) -> Row:
    return _ROW.validate_python(each["row"])


def _checks(tasks: Sequence[Task], around: Surroundings, progress: Progress, cancel: CancelToken) -> Iterator[Report]:
    for k, each in enumerate(tasks):
        spans = [FrameRange(*span) for span in each["spans"]]  # type: ignore[misc, union-attr]
        order = Order(around.doc, _row(each), Path(str(each["file"])))
        yield check_row(order, spans, portion(progress, k / len(tasks), (k + 1) / len(tasks)), cancel)


def _media(each: Task, doc: Document) -> set[str]:
    row = _row(each)
    heard = {clip.media for clip in doc.lock.sounds}
    return media_seen(doc, doc.master(row.master), row.range, shown_of(row)) | heard


def _name(each: Task, doc: Document) -> str:
    return f"checking {readable(Path(str(each['file'])).name)}"


CHECK = register(
    Kind(
        "check", 1, _checks,
        travel=Travel(
            _REPORT.dump_json, lambda each, data, around: _REPORT.validate_json(data), _media, _name,
            files=lambda each: [str(each["file"])],
        ),
    )
)  # fmt: skip
