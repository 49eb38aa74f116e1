"""Named sets of masters, kept for the user and exchanged as JSON."""

from __future__ import annotations

import os
from collections.abc import Iterable
from dataclasses import dataclass, replace
from pathlib import Path

from pydantic import TypeAdapter

from ezvar.core.model import Master

from .listing import parsed, read_listing, write_listing
from .user_files import user_file

SCHEMA = 1


@dataclass(frozen=True)
class MasterSet:
    """Masters under a name, without ranges: those belong to one lock."""

    name: str
    masters: tuple[Master, ...]

    def __post_init__(self) -> None:
        if not self.name.strip() or not self.masters:
            raise ValueError("a set has a name and at least one master")


@dataclass(frozen=True)
class Sets:
    """All named sets; ``default`` names the one that a new lock begins with, if any."""

    sets: tuple[MasterSet, ...] = ()
    default: str = ""

    def put(self, name: str, masters: Iterable[Master]) -> Sets:
        """With a set added, or replaced where its name is taken."""
        new = MasterSet(name.strip(), tuple(replace(m, ranges=(), poster=None) for m in masters))
        return replace(self, sets=(*(s for s in self.sets if s.name != new.name), new))

    def without(self, name: str) -> Sets:
        """With a set removed."""
        default = "" if self.default == name else self.default
        return Sets(tuple(s for s in self.sets if s.name != name), default)

    @property
    def first(self) -> MasterSet | None:
        """The default set."""
        return next((s for s in self.sets if s.name == self.default), None)


_SETS = TypeAdapter(Sets)


def sets_file() -> Path:
    """Where the user\'s sets are kept."""
    return user_file("master-sets.json")


def load_sets(path: str | os.PathLike[str]) -> Sets:
    """Read sets; none where there is no such file. Raises `ProjectError` for what cannot be read."""
    data = read_listing(path, "ezvar master sets", SCHEMA, "sets of masters")
    return Sets() if data is None else parsed(_SETS, {k: data.get(k) for k in ("sets", "default")}, path)


def save_sets(sets: Sets, path: str | os.PathLike[str]) -> None:
    """Write sets, atomically."""
    write_listing(path, "ezvar master sets", SCHEMA, _SETS.dump_python(sets, mode="json"))
