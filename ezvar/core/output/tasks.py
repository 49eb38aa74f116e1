"""Making rows as tasks."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator, Sequence
from pathlib import Path

from pydantic import TypeAdapter

from ezvar.core.lock import lock_content
from ezvar.core.model import Document, Making, Row, media_named
from ezvar.core.progress import CancelToken, Progress
from ezvar.core.store.plain_json import dump_plain
from ezvar.core.store.project import dump_project
from ezvar.core.work import Kind, Surroundings, Task, register, task

from .making import made_rows
from .orders import Doing, Made, Order

_ROW = TypeAdapter(Row)
_MAKING = TypeAdapter(Making)


def row_tasks(doc: Document, orders: Sequence[Order]) -> list[Task]:
    """Making rows of a document, all in one pass over what they share. Each comes to a `Made`.

    What they show and sound is named by content: the lock's pictures, and a
    digest of all that the document says.
    """
    said = hashlib.sha256(dump_plain(dump_project(doc))).hexdigest()
    named = [lock_content(doc), said, *sorted(media_named(doc))]
    return [
        task(
            "movie", named, row=_ROW.dump_python(order.row, mode="json"), target=str(order.target),
            before=_MAKING.dump_python(order.before, mode="json") if order.before else None,
        )
        for order in orders
    ]  # fmt: skip


def _movies(tasks: Sequence[Task], around: Surroundings, progress: Progress, cancel: CancelToken) -> Iterator[Made]:
    orders = [
        Order(
            around.doc, _ROW.validate_python(each["row"]), Path(str(each["target"])),
            _MAKING.validate_python(each["before"]) if each["before"] else None, around.cancel_of(each),
        )
        for each in tasks
    ]  # fmt: skip
    by_row = {order.row.id: each for order, each in zip(orders, tasks, strict=True)}

    def on_part(row: str, start: int, end: int, doing: Doing) -> None:
        around.on_event(by_row[row], [start, end, doing])

    others = around.others
    if others is None:
        yield from made_rows(orders, progress, cancel, on_part)
    else:
        yield from made_rows(orders, progress, cancel, on_part, lambda those, p, c: others(those, around, p, c))


MOVIE = register(Kind("movie", 1, _movies))
