"""Arrangements of panes, kept for the user and exchanged as JSON."""

from __future__ import annotations

import os
from collections.abc import Iterable
from pathlib import Path

from pydantic import TypeAdapter

from ezvar.core.model import Arrangement

from .listing import parsed, read_listing, write_listing
from .user_files import user_file

SCHEMA = 1
_KEY = "ezvar arrangements"
_ARRANGEMENTS = TypeAdapter(tuple[Arrangement, ...])


def arrangements_file() -> Path:
    """Where the user\'s arrangements are kept."""
    return user_file("arrangements.json")


def load_arrangements(path: str | os.PathLike[str]) -> tuple[Arrangement, ...]:
    """Read arrangements; none where there is no such file. Raises `ProjectError` for what cannot be read."""
    data = read_listing(path, _KEY, SCHEMA, "arrangements of panes")
    return () if data is None else parsed(_ARRANGEMENTS, data.get("arrangements"), path)


def save_arrangements(arrangements: Iterable[Arrangement], path: str | os.PathLike[str]) -> None:
    """Write arrangements, atomically; of two with one name the later."""
    named = {a.name: a for a in arrangements}
    values = {"arrangements": _ARRANGEMENTS.dump_python(tuple(named.values()), mode="json")}
    write_listing(path, _KEY, SCHEMA, values)
