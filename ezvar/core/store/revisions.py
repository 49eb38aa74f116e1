"""Documents as they were when movies were ordered, packed into the project; and what became of movies of a project that
was no longer open."""

from __future__ import annotations

import base64
import binascii
import hashlib
import os
import zlib
from dataclasses import replace
from pathlib import Path

from pydantic import TypeAdapter, ValidationError

from ezvar.core.errors import ProjectError
from ezvar.core.model import Document, Makings, Revision
from ezvar.core.way_in import LARGEST, read_bytes

from .files import write_atomically
from .plain_json import dump_plain, parse_plain
from .project import dump_project, parse_project

_MAKINGS = TypeAdapter(Makings)


def packed(doc: Document) -> Revision:
    """A document as movies are made from it: without what is kept in it of the past, of reviews and of makings."""
    bare = replace(
        doc, makings=Makings(), past=(), versions=(), notes=(), exchanged=(), aside=(), played=(), earlier=(),
        returns=(), listed=(), unlisted=(), shared="",
    )  # fmt: skip
    text = dump_plain(dump_project(bare))
    name = hashlib.sha256(text).hexdigest()[:16]
    return Revision(name, base64.b85encode(zlib.compress(text)).decode())


def unpacked(revision: Revision, now: Document) -> Document:
    """The document of a revision, its media where those of the document ``now`` are.

    Raises `ProjectError` for what is damaged.
    """
    try:
        inflating = zlib.decompressobj()
        text = inflating.decompress(base64.b85decode(revision.packed), LARGEST["a project"])
        if not inflating.eof:
            raise ValueError("it is not whole")
        values = parse_plain(text)
    except (ValueError, zlib.error, binascii.Error) as error:
        remedy = "Make it again from the project as it is now"
        raise ProjectError("the kept state of the project is damaged", remedy=remedy) from error
    doc = parse_project(values, "")
    there = {(m.id, m.content): m.path for m in now.lock.media}
    media = tuple(replace(m, path=there.get((m.id, m.content), m.path)) for m in doc.lock.media)
    return replace(doc, lock=replace(doc.lock, media=media))


def _later_file(folder: str | os.PathLike[str], project: str) -> Path:
    return Path(folder) / "made" / f"{hashlib.sha256(project.encode()).hexdigest()[:16]}.json"


def keep_later(folder: str | os.PathLike[str], project: str, later: Makings) -> None:
    """Keep what became of rows of a project, by its id, that is not open any more, until it is opened and saved."""
    file = _later_file(folder, project)
    try:
        file.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise ProjectError(f"it cannot be kept ({error.strerror})", file=file) from error
    text = dump_plain(_MAKINGS.dump_python(later_of(folder, project).with_later(later), mode="json"))
    write_atomically(file, lambda out: out.write(text), ProjectError)


def later_of(folder: str | os.PathLike[str], project: str) -> Makings:
    """What `keep_later` has kept of a project; nothing where there is none, or it is damaged."""
    file = _later_file(folder, project)
    try:
        return _MAKINGS.validate_python(parse_plain(read_bytes(file, ProjectError, "a list of movies")))
    except (ProjectError, ValidationError, ValueError):
        return Makings()


def forget_later(folder: str | os.PathLike[str], project: str) -> None:
    """The project was saved with it."""
    _later_file(folder, project).unlink(missing_ok=True)
