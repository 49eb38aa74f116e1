"""Small JSON files that users keep and exchange: what they are, a version, and a list of things."""

from __future__ import annotations

import json
import os
from pathlib import Path
from typing import Any, TypeVar

from pydantic import TypeAdapter, ValidationError

from ezvar.core.errors import ProjectError, from_os
from ezvar.core.way_in import open_regular, parse_json, read_bytes

from .files import write_atomically

_T = TypeVar("_T")


def read_listing(path: str | os.PathLike[str], key: str, schema: int, what: str) -> dict[str, Any] | None:
    """The values of a file whose ``key`` gives its version; ``None`` where there is no such file.

    Raises `ProjectError`, which calls the file's content ``what``, for one
    that is too large, broken, of another kind or of a newer version.
    """
    if not os.path.lexists(path):
        return None
    try:
        data = parse_json(read_bytes(path, ProjectError, "a list"))
    except ValueError as error:
        raise ProjectError(f"it is not whole, or no {what}", file=path, remedy="Export it again") from error
    if not isinstance(data, dict) or not isinstance(version := data.get(key), int):
        raise ProjectError(f"it holds no {what}", file=path, remedy="Choose another file")
    if version > schema:
        raise ProjectError("it was written by a newer Ezvar", file=path, remedy="Read it with that version")
    return data


def parsed(kind: TypeAdapter[_T], values: Any, path: str | os.PathLike[str]) -> _T:
    """Values from a file as what they stand for. Raises `ProjectError` with what is wrong."""
    try:
        return kind.validate_python(values)
    except ValidationError as error:
        what = str(error.errors()[0]["msg"]).removeprefix("Value error, ")
        raise ProjectError(what, file=path, remedy="Export it again") from error


def _may_replace(path: str | os.PathLike[str], key: str) -> bool:
    """Whether nothing is at ``path``, or a file of this kind by its first words; what is no file is refused later."""
    if not os.path.isfile(path):
        return True
    try:
        with open_regular(path, ProjectError, "a list") as file:
            head = b"".join(file.read(len(key) + 64).split())
    except OSError as error:
        raise from_os(error, "saved", path, ProjectError) from error
    return not head or head.startswith(b"".join(f'{{"{key}":'.encode().split()))


def write_listing(path: str | os.PathLike[str], key: str, schema: int, values: dict[str, Any]) -> None:
    """Write a file of this kind, atomically. Raises `ProjectError` where one of another kind is there, which stays."""
    try:
        Path(path).parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise from_os(error, "made", Path(path).parent, ProjectError) from error
    if not _may_replace(path, key):
        raise ProjectError(
            "it is there already and something else, so it stays", file=path, remedy="Choose another name"
        )
    data = json.dumps({key: schema, **values}, indent=1)
    write_atomically(path, lambda file: file.write(data.encode()), ProjectError)
