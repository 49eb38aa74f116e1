"""Named sets of masters, kept for the user and exchanged as JSON."""

from __future__ import annotations

import json
import os
from collections.abc import Iterable
from dataclasses import dataclass, replace
from pathlib import Path

import platformdirs
from pydantic import TypeAdapter, ValidationError

from ezvar.core.errors import ProjectError, from_os
from ezvar.core.model import Master

from .files import write_atomically

SCHEMA = 1
_LARGEST = 4 * 1024**2


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
        new = MasterSet(name.strip(), tuple(replace(m, ranges=()) for m in masters))
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
    """Where the user's sets are kept; the environment variable EZVAR_CONFIG names another folder."""
    folder = os.environ.get("EZVAR_CONFIG") or platformdirs.user_config_path("ezvar")
    return Path(folder) / "master-sets.json"


def load_sets(path: str | os.PathLike[str]) -> Sets:
    """Read sets; none where there is no such file. Raises `ProjectError` for what cannot be read."""
    remedy = "Export the sets again"
    try:
        if os.path.getsize(path) > _LARGEST:
            raise ProjectError("it is far too large for sets of masters", file=path, remedy=remedy)
        data = json.loads(Path(path).read_bytes())
    except FileNotFoundError:
        return Sets()
    except OSError as error:
        raise from_os(error, "opened", path, ProjectError) from error
    except (ValueError, RecursionError) as error:
        raise ProjectError("it is not whole, or no sets of masters", file=path, remedy=remedy) from error
    if not isinstance(data, dict) or not isinstance(version := data.get("ezvar master sets"), int):
        raise ProjectError("it holds no sets of masters", file=path, remedy="Choose another file")
    if version > SCHEMA:
        raise ProjectError("it was written by a newer Ezvar", file=path, remedy="Read it with that version")
    try:
        return _SETS.validate_python({k: data[k] for k in ("sets", "default")})
    except (ValidationError, KeyError) as error:
        what = str(error.errors()[0]["msg"]) if isinstance(error, ValidationError) else "parts of it are missing"
        raise ProjectError(what.removeprefix("Value error, "), file=path, remedy=remedy) from error


def save_sets(sets: Sets, path: str | os.PathLike[str]) -> None:
    """Write sets, atomically."""
    try:
        Path(path).parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise from_os(error, "made", Path(path).parent, ProjectError) from error
    data = {"ezvar master sets": SCHEMA, **_SETS.dump_python(sets, mode="json")}
    write_atomically(path, lambda file: file.write(json.dumps(data, indent=1).encode()), ProjectError)
