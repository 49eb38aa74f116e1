"""The project file: JSON with a schema version, read with suspicion and written atomically."""

from __future__ import annotations

import gc
import hashlib
import os
import re
import secrets
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from pydantic import TypeAdapter, ValidationError

from ezvar.core.errors import ProjectError
from ezvar.core.model import Document, Framing, ReviewNote, Title
from ezvar.core.names import readable
from ezvar.core.way_in import parse_json, read_bytes

from .migrations import SCHEMA, migrated
from .places import beside, found
from .plain_json import dump_plain, parse_plain

_REVISION = re.compile(rb'"revision"\s*:\s*"([0-9a-f]{1,64})"')
_HEAD = 300  # bytes in which a file says what it is
_DOCUMENT = TypeAdapter(Document)
_FRAMING = TypeAdapter(Framing)
_TITLE = TypeAdapter(Title)
_NOTE = TypeAdapter(ReviewNote)


def project_text(doc: Document, path: str | os.PathLike[str]) -> bytes:
    """What a project's file at ``path`` holds, as a revision of its own."""
    with _collector_resting():
        data = _DOCUMENT.dump_python(doc, mode="json")
        beside(data, Path(os.path.realpath(path)).parent)
        return dump_plain({"ezvar": SCHEMA, "revision": secrets.token_hex(8), "document": data}, indent=1)


def dump_project(doc: Document) -> dict[str, Any]:
    """A document as plain JSON values with its schema version, its paths as they are."""
    return {"ezvar": SCHEMA, "document": _DOCUMENT.dump_python(doc, mode="json")}


def load_project(path: str | os.PathLike[str]) -> Document:
    """Read a project.

    Raises `ProjectError` for what is no project, for one of a newer version,
    and for one whose content contradicts itself; names the place.
    """
    return read_project(path)[0]


def read_project(path: str | os.PathLike[str]) -> tuple[Document, str]:
    """Read a project as `load_project` does, with the name of the revision that was read."""
    text = read_bytes(path, ProjectError, "a project")
    with _collector_resting():
        return _parsed(text, path), revision_of(text)


def _parsed(text: bytes, path: str | os.PathLike[str]) -> Document:
    try:
        data = parse_plain(text)
    except ValueError as error:
        line = re.search(r"line \d+", str(error))
        raise ProjectError(
            "it is not whole, or no project", file=path, place=line.group() if line else None,
            remedy="Open a backup of it",
        ) from error  # fmt: skip
    return parse_project(data, path)


@contextmanager
def _collector_resting() -> Iterator[None]:
    """Let the collector rest while many values are made of which none is garbage: it would take half of the time."""
    was = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if was:
            gc.enable()


def revision_of(text: bytes) -> str:
    """The name of a revision of a project: the id that it was saved under, and what stands in its file now."""
    saved = _REVISION.search(text[:_HEAD])
    return f"{saved[1].decode() if saved else ''}-{hashlib.sha256(text).hexdigest()[:16]}"


def parse_project(data: Any, path: str | os.PathLike[str]) -> Document:
    """A document from the values of a project file at ``path``. Raises `ProjectError` as `load_project` does."""
    version = data.get("ezvar") if isinstance(data, dict) and "document" in data else None
    if not isinstance(version, int) or version < 1:
        raise ProjectError("it is no Ezvar project", file=path, remedy="Choose another file")
    if version > SCHEMA:
        raise ProjectError(
            f"it was written by a newer Ezvar (format {version}, this one reads up to {SCHEMA})",
            file=path,
            remedy="Open it with that version",
        )
    try:
        document = migrated(data, version)["document"]
        found(document, Path(os.path.realpath(path)).parent)
        document["lock"]["name"] = readable(document["lock"]["name"])  # a file's bytes, as names of locks once were
        return _with_what_others_say(_DOCUMENT.validate_python(document))
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(p) for p in first["loc"]) or None
        what = str(first["msg"]).removeprefix("Value error, ")
        raise ProjectError(what[:1].lower() + what[1:], file=path, place=place, remedy="Open a backup of it") from error
    except ValueError as error:
        raise ProjectError(f"what it says makes no sense ({error})", file=path, remedy="Open a backup of it") from error
    except (KeyError, TypeError, AttributeError) as error:
        raise ProjectError("parts of it are missing", file=path, remedy="Open a backup of it") from error


def _with_what_others_say(doc: Document) -> Document:
    """The document, where the metadata that it carries of others can be handed out again. Raises `ValueError`."""
    lock = doc.lock
    carried = {lock.carried, *(s.carried for s in doc.shots), *(s.carried for s in lock.sound)}
    for text in {*carried, *(layer.carried for layer in lock.layers)} - {""}:
        if not isinstance(parse_json(text.encode()), dict):
            raise ValueError("metadata of others that is none")
    return doc


def dump_decisions(framing: Framing, briefly: bool = False) -> dict[str, Any]:
    """A framing as plain JSON values, for files that are handed out; ``briefly`` leaves out what is as usual."""
    values: dict[str, Any] = _FRAMING.dump_python(framing, mode="json", exclude_defaults=briefly)
    return values


def framing_schema() -> dict[str, Any]:
    """The JSON Schema (draft 2020-12) of a framing as it is handed out; what is not said is as its default."""
    return _FRAMING.json_schema(mode="validation")


def dump_title(title: Title) -> dict[str, Any]:
    """A title as plain JSON values, for timeline files."""
    values: dict[str, Any] = _TITLE.dump_python(title, mode="json", exclude_defaults=True)
    return values


def dump_note(note: ReviewNote) -> dict[str, Any]:
    """A note as plain JSON values, for files that are handed out."""
    values: dict[str, Any] = _NOTE.dump_python(note, mode="json", exclude_defaults=True)
    return values


def note_schema() -> dict[str, Any]:
    """The JSON Schema (draft 2020-12) of a note as it is handed out; what is not said is as its default."""
    return _NOTE.json_schema(mode="validation")


def parse_note(values: Any) -> ReviewNote:
    """A note from plain JSON values. Raises `ValueError` (pydantic's) with what is wrong."""
    return _NOTE.validate_python(values)


def parse_framing(values: Any) -> Framing:
    """A framing from plain JSON values. Raises `ValueError` (pydantic's) with what is wrong."""
    return _FRAMING.validate_python(values)
