"""Making a movie as a task."""

from __future__ import annotations

import hashlib
import os
from collections.abc import Iterator, Sequence
from pathlib import Path

from ezvar.core.encoding import DELIVERY, THREADS
from ezvar.core.errors import InputError
from ezvar.core.lock import lock_content
from ezvar.core.model import Document, media_named
from ezvar.core.progress import CancelToken, Progress
from ezvar.core.store.plain_json import dump_plain
from ezvar.core.store.project import dump_project
from ezvar.core.timing import FrameRange
from ezvar.core.work import Kind, Plain, Surroundings, Task, register, task

from .delivery import Delivery, deliveries
from .make import Made, make_delivery


def movie_task(
    doc: Document, delivery: Delivery, folder: str | os.PathLike[str], within: FrameRange | None = None,
    threads: int = THREADS,
) -> Task:  # fmt: skip
    """Making a delivery in a folder, or lock frames ``within`` of it. Comes to a `Made`.

    What it shows and sounds is named by content: the lock's pictures, and a
    digest of all that the document says.
    """
    said = hashlib.sha256(dump_plain(dump_project(doc))).hexdigest()
    return task(
        "movie", [lock_content(doc), said, *sorted(media_named(doc))],
        delivery=delivery.key, folder=str(Path(folder)), threads=threads, encoder=dict(DELIVERY.video),
        within=[within.start, within.end] if within else None,
    )  # fmt: skip


def _movie(tasks: Sequence[Task], around: Surroundings, progress: Progress, cancel: CancelToken) -> Iterator[Made]:
    known = {d.key: d for m in around.doc.masters for d in (Delivery(m), *deliveries(m))}
    for each in tasks:
        delivery = known.get(str(each["delivery"]))
        if delivery is None:
            raise InputError("the master to be made is not there", remedy="Choose one of the project's masters")
        yield make_delivery(
            around.doc, delivery, str(each["folder"]), within=_range(each["within"]),
            threads=each.number("threads"), progress=progress, cancel=cancel,
        )  # fmt: skip


def _range(said: Plain) -> FrameRange | None:
    if not isinstance(said, list):
        return None
    start, end = said
    assert isinstance(start, int)
    assert isinstance(end, int)
    return FrameRange(start, end)


MOVIE = register(Kind("movie", 1, _movie))
