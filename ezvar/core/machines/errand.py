"""What is sent to another machine: tasks of a kind that follow one another, and what they need there.

All of it is plain values, and read there as all outside data are.
"""

from __future__ import annotations

import hashlib
import zlib
from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Any

from pydantic import TypeAdapter, ValidationError

from ezvar.core.model import Document
from ezvar.core.store import dump_plain, parse_plain
from ezvar.core.store.project import dump_project
from ezvar.core.work import Task

from .ways import Way

_MOST = 256 * 1024**2  # bytes of an errand, or of a document, that are read


@dataclass(frozen=True)
class Needed:
    """A file that must be the same there: its path as it is called here, and the fingerprint of its content."""

    path: str
    content: str


@dataclass(frozen=True)
class Folder:
    """A folder that must be the same there: its path as it is called here, and what stands in its `TOKEN` file."""

    path: str
    token: str


@dataclass(frozen=True)
class SentTask:
    """A task as it travels: its kind is the errand's."""

    inputs: tuple[str, ...]
    parameters: tuple[tuple[str, Any], ...]


@dataclass(frozen=True)
class Errand:
    """Tasks of one kind, to be done one after the other.

    ``made_by`` says which programs the results must come from; ``document``
    is the name of the document by content; the first of the ``folders`` is
    the cache.
    """

    made_by: dict[str, str]
    kind: str
    version: int
    sent: tuple[SentTask, ...]
    document: str
    files: tuple[Needed, ...] = ()
    folders: tuple[Folder, ...] = ()
    ways: tuple[Way, ...] = field(default=())

    @property
    def tasks(self) -> tuple[Task, ...]:
        """What is to be done."""
        return tuple(Task(self.kind, each.inputs, each.parameters) for each in self.sent)


def as_sent(tasks: Iterable[Task]) -> tuple[SentTask, ...]:
    """Tasks as they travel."""
    return tuple(SentTask(each.inputs, each.parameters) for each in tasks)


_ERRAND = TypeAdapter(Errand)


def errand_text(errand: Errand) -> bytes:
    """An errand as it travels."""
    return dump_plain(_ERRAND.dump_python(errand, mode="json"))


def read_errand(text: bytes) -> Errand:
    """An errand that has come. Raises `ValueError` for what is none."""
    if len(text) > _MOST:
        raise ValueError("what was sent is too large")
    try:
        return _ERRAND.validate_python(parse_plain(text))
    except ValidationError as error:
        raise ValueError("what was sent is no errand") from error


@dataclass(frozen=True)
class SentDocument:
    """A document as it travels: packed, and its name by content."""

    name: str
    packed: bytes


def sent(doc: Document) -> SentDocument:
    """A document, packed."""
    text = dump_plain(dump_project(doc))
    return SentDocument(hashlib.sha256(text).hexdigest(), zlib.compress(text, 1))


def document_values(packed: bytes, name: str) -> dict[str, Any]:
    """The plain values of a document that has come. Raises `ValueError` for what is not the document of that name."""
    opened = zlib.decompressobj()
    try:
        text = opened.decompress(packed, _MOST)
    except zlib.error as error:
        raise ValueError("what was sent is no document") from error
    if opened.unconsumed_tail or hashlib.sha256(text).hexdigest() != name:
        raise ValueError("what was sent is another document")
    values = parse_plain(text)
    if not isinstance(values, dict):
        raise ValueError("what was sent is no document")
    return values
