"""Lists of named things that users keep and exchange as JSON: styles, designs, profiles."""

from __future__ import annotations

import os
from collections.abc import Iterable
from pathlib import Path
from typing import Generic, Protocol, TypeVar

from pydantic import TypeAdapter

from .listing import parsed, read_listing, write_listing
from .user_files import user_file


class Named(Protocol):
    """Something with a name."""

    @property
    def name(self) -> str: ...


T = TypeVar("T", bound=Named)


class NamedList(Generic[T]):
    """A kind of list: ``key`` is the word that its files begin with, ``field`` what holds the list in them, ``what``
    what is said of its content, ``file_name`` what the user's own is called."""

    def __init__(self, kind: type[T], key: str, field: str, what: str, file_name: str, schema: int = 1) -> None:
        self._adapter: TypeAdapter[tuple[T, ...]] = TypeAdapter(tuple[kind, ...])  # type: ignore[valid-type]
        self._key, self._field, self._what, self._file, self._schema = key, field, what, file_name, schema

    @property
    def own_file(self) -> Path:
        """Where the user's own are kept."""
        return user_file(self._file)

    def load(self, path: str | os.PathLike[str] | None = None) -> tuple[T, ...]:
        """Those of a file, the user's own where none is named; none where there is no such file.

        Raises `ProjectError` for what cannot be read.
        """
        place = self.own_file if path is None else path
        data = read_listing(place, self._key, self._schema, self._what)
        return () if data is None else parsed(self._adapter, data.get(self._field), place)

    def save(self, things: Iterable[T], path: str | os.PathLike[str] | None = None) -> None:
        """Write things, atomically; of two with one name the later."""
        named = {thing.name: thing for thing in things}
        values = {self._field: self._adapter.dump_python(tuple(named.values()), mode="json")}
        write_listing(self.own_file if path is None else path, self._key, self._schema, values)

    def keep(self, *things: T) -> None:
        """Keep things for the user, in place of others of their names."""
        self.save((*self.load(), *things))
