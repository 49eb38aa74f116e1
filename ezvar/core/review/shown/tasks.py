"""Making review movies as tasks, a movie each."""

from __future__ import annotations

import os
import secrets
from base64 import b64decode, b64encode
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from pydantic import TypeAdapter

from ezvar.core.lock import lock_content
from ezvar.core.model import Document, Master, Shot
from ezvar.core.progress import CancelToken, Progress, portion
from ezvar.core.work import Kind, Surroundings, Task, Travel, register, task

from .movies import Looks, ReviewMovie, make_review_movies


@dataclass(frozen=True)
class _Asked:
    """A review movie, and what it looks like at one glance: its ``name``, of which master, by its id, if of one; and
    of which masters and shots, by theirs."""

    name: str
    master: str
    together: bool
    burnt: bool
    masters: tuple[str, ...]
    shots: tuple[str, ...]
    sound: bool
    folder: str


_ASKED = TypeAdapter(_Asked)
_LOOKS = TypeAdapter(tuple[str, dict[str, list[str]]])  # in base 64


def review_tasks(
    doc: Document, wanted: Mapping[str, ReviewMovie], masters: Sequence[Master], shots: Sequence[Shot], sound: bool,
    folder: Path,
) -> list[Task]:  # fmt: skip
    """Making movies, by their names, in a folder. Each comes to its `Looks`, which are the same for all."""
    ids = tuple(m.id for m in masters), tuple(s.id for s in shots)
    tasks = []
    for name, each in wanted.items():
        master = each.master.id if each.master else ""
        asked = _Asked(name, master, each.together, each.burnt, *ids, sound, os.path.abspath(folder))
        values: dict[str, Any] = _ASKED.dump_python(asked, mode="json")
        tasks.append(task("review", [lock_content(doc)], **values))
    return tasks


def _asked(each: Task) -> _Asked:
    return _ASKED.validate_python(dict(each.parameters))


def _movies(tasks: Sequence[Task], around: Surroundings, progress: Progress, cancel: CancelToken) -> Iterator[Looks]:
    doc = around.doc
    for k, each in enumerate(tasks):
        asked = _asked(each)
        path = Path(asked.folder) / f"{Path(asked.name).name}.mp4"
        begun = path.with_name(f"unfinished-{os.getpid()}-{secrets.token_hex(4)}.mp4")
        movie = ReviewMovie(begun, doc.master(asked.master) if asked.master else None, asked.together, asked.burnt)
        masters, shots = [doc.master(id) for id in asked.masters], [doc.shot(id) for id in asked.shots]
        within = portion(progress, k / len(tasks), (k + 1) / len(tasks))
        try:
            looks = make_review_movies(
                doc, [movie], masters, shots, sound=asked.sound, progress=within, cancel=cancel
            )  # fmt: skip
            begun.rename(path)
        finally:
            begun.unlink(missing_ok=True)
        yield looks


def _pack(looks: Looks) -> bytes:
    sheets = {id: [b64encode(each).decode() for each in those] for id, those in looks.sheets.items()}
    return _LOOKS.dump_json((b64encode(looks.poster).decode(), sheets))


def _unpack(each: Task, data: bytes, around: Surroundings) -> Looks:
    poster, sheets = _LOOKS.validate_json(data)
    return Looks(b64decode(poster), {id: [b64decode(sheet) for sheet in those] for id, those in sheets.items()})


def _media(each: Task, doc: Document) -> set[str]:
    _asked(each)
    return {media.id for media in doc.lock.media}


REVIEW = register(
    Kind(
        "review", 1, _movies,
        travel=Travel(
            _pack, _unpack, _media,
            lambda each, doc: f"making the review movie {_asked(each).name}", lambda each: [str(each["folder"])],
        ),
    )
)  # fmt: skip
