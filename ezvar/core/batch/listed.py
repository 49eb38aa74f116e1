"""The list of a night's work, a TOML file: which locks, in which shapes, made how."""

from __future__ import annotations

import os
import tomllib
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ezvar.core.encoding import preset_named
from ezvar.core.errors import EzvarError, InputError
from ezvar.core.model import Master, Preset, master_from_text
from ezvar.core.names import readable
from ezvar.core.timing import Rate
from ezvar.core.way_in import read_bytes

_KNOWN = {"lock", "project", "name", "masters", "presets", "rate", "media"}
_MOST = 10_000


@dataclass(frozen=True)
class Job:
    """One lock of the list: a ``lock`` to be planned, or a ``project`` that is there already; what its results are
    called, its masters and presets, the default ones where none are said, and where its media may be."""

    name: str
    lock: Path | None
    project: Path | None
    masters: tuple[Master, ...]
    presets: tuple[Preset, ...]
    rate: Rate | None = None
    media: tuple[Path, ...] = ()


def read_batch(path: str | os.PathLike[str]) -> tuple[Job, ...]:
    """The jobs of a list.

    Paths in it are seen from its own folder; what stands before the first
    ``[[lock]]`` holds for all. Raises `InputError`, with the lock it is about,
    for what cannot be understood.

        masters = ["9:16", "square=1080x1080"]
        presets = ["delivery"]

        [[lock]]
        lock = "episode-01.otio"

        [[lock]]
        project = "episode-02.ezvar"
        masters = ["4:5"]
    """
    try:
        data = tomllib.loads(read_bytes(path, InputError, "a list").decode())
    except (tomllib.TOMLDecodeError, UnicodeDecodeError) as error:
        raise InputError(f"it is no list in TOML ({error})", file=path, remedy="Mend it there") from error
    listed = data.pop("lock", [])
    if not isinstance(listed, list) or not listed or len(listed) > _MOST:
        raise InputError("it lists no locks", file=path, remedy="Give each one a part of its own: [[lock]]")
    names: set[str] = set()
    jobs = []
    for number, own in enumerate(listed, 1):
        place = f"lock {number}"
        if not isinstance(own, dict):
            raise InputError("it is no part of a list", file=path, place=place, remedy="Write [[lock]] above it")
        try:
            job = _job({**data, **own}, Path(os.path.abspath(path)).parent)
        except (EzvarError, ValueError) as error:
            said = error.what if isinstance(error, EzvarError) else str(error)
            remedy = error.remedy if isinstance(error, EzvarError) else None
            raise InputError(said, file=path, place=place, remedy=remedy) from error
        if job.name in names:
            raise InputError(
                f"two are called {job.name}", file=path, place=place, remedy="Give one of them another name"
            )
        names.add(job.name)
        jobs.append(job)
    return tuple(jobs)


def _job(said: dict[str, Any], folder: Path) -> Job:
    if unknown := sorted(set(said) - _KNOWN):
        raise InputError(
            f"nothing is known of “{readable(unknown[0])}”", remedy=f"Known are: {', '.join(sorted(_KNOWN))}"
        )
    paths = {key: folder / _text(said, key) for key in ("lock", "project") if key in said}
    if len(paths) != 1:
        raise InputError("it names no lock, or two", remedy="Write either lock = or project =")
    ((_, path),) = paths.items()
    name = _text(said, "name") if "name" in said else path.stem
    if not name or name != Path(name).name or name.startswith("."):
        raise InputError(f"“{readable(name)}” cannot be the name of a folder", remedy="Choose another")
    masters = tuple(master_from_text(text) for text in _texts(said, "masters"))
    if "lock" in paths and not masters:
        raise InputError("it has no masters", remedy='Write masters = ["9:16"]')
    if len({master.name for master in masters}) < len(masters):
        raise InputError("two masters have the same name", remedy="Write NAME=WxH to tell them apart")
    rate = Rate.parse(_text(said, "rate")) if "rate" in said else None
    presets = tuple(preset_named(text) for text in _texts(said, "presets"))
    media = tuple(folder / text for text in _texts(said, "media"))
    return Job(name, paths.get("lock"), paths.get("project"), masters, presets, rate, media)


def _text(said: dict[str, Any], key: str) -> str:
    value = said[key]
    if not isinstance(value, str) or not value or "\0" in value:
        raise InputError(f"{key} is no text", remedy="Write it in quotes")
    return value


def _texts(said: dict[str, Any], key: str) -> Iterator[str]:
    values = said.get(key, [])
    if not isinstance(values, list):
        raise InputError(f"{key} is no list of texts", remedy=f'Write {key} = ["…"]')
    for value in values:
        yield _text({key: value}, key)
