"""A folder of files for others, with a list of what was written, so that nothing else is ever written over."""

from __future__ import annotations

import hashlib
import os
import shutil
from collections.abc import Mapping
from pathlib import Path
from typing import Any, BinaryIO

from ezvar.core.errors import OutputError, ProjectError, from_os
from ezvar.core.store import read_listing, write_atomically, write_listing

LIST = "ezvar-handoff.json"
_KEY, _SCHEMA = "ezvar handoff", 1


def write_files(folder: str | os.PathLike[str], files: Mapping[str, bytes | Path]) -> list[Path]:
    """Write files into a folder, made where it is not there; returns their paths.

    Each is given as what it holds, or as a file that holds it; a name may lie in a folder of the folder.

    A file that is there already is replaced only where it is just as it was
    written here before. Raises `OutputError`, before anything is written,
    where one is not, and for what the disk refuses.
    """
    target = Path(folder)
    try:
        target.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise from_os(error, "made", target, OutputError) from error
    written = _written(target)
    _refuse_others(target, files, written)
    new = {name: digest_of(data) for name, data in files.items()}
    # Both may be there until all is written, whenever this is stopped.
    _note(target, written | {name: [*written.get(name, []), said] for name, said in new.items()})
    for name, data in files.items():
        try:
            (target / name).parent.mkdir(exist_ok=True)
        except OSError as error:
            raise from_os(error, "made", (target / name).parent, OutputError) from error
        write_atomically(target / name, lambda file, data=data: _put(data, file), OutputError)  # type: ignore[misc]
    _note(target, written | {name: [said] for name, said in new.items()})
    return [target / name for name in files]


def digest_of(data: bytes | Path) -> str:
    """The SHA-256 of what a file holds, given as such or as a file."""
    if isinstance(data, bytes):
        return hashlib.sha256(data).hexdigest()
    with data.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def _put(data: bytes | Path, file: BinaryIO) -> None:
    if isinstance(data, bytes):
        file.write(data)
        return
    with data.open("rb") as made:
        shutil.copyfileobj(made, file)


def _written(folder: Path) -> dict[str, list[str]]:
    """The digests of what was written into a folder, by name."""
    try:
        data = read_listing(folder / LIST, _KEY, _SCHEMA, "list of a handoff")
    except ProjectError as error:
        raise OutputError(error.what, file=folder / LIST, remedy="Choose another folder, or remove it") from error
    files: Any = (data or {}).get("files")
    if not isinstance(files, dict):
        return {}
    return {str(k): [str(d) for d in v] for k, v in files.items() if isinstance(v, list)}


def _refuse_others(folder: Path, files: Mapping[str, bytes | Path], written: Mapping[str, list[str]]) -> None:
    others = []
    for name in files:
        try:
            if os.path.lexists(folder / name) and _digest(folder / name) not in written.get(name, ()):
                others.append(name)
        except OSError as error:
            raise from_os(error, "written", folder / name, OutputError) from error
    if others:
        said = "it is there and not as it was written here" if len(others) == 1 else "they are there and not as written"
        listed = ", ".join(others[:3]) + (f" and {len(others) - 3} more" if len(others) > 3 else "")
        raise OutputError(f"{said}: {listed}", file=folder, remedy="Choose another folder, or move them away")


def _digest(path: Path) -> str:
    """The digest of a regular file; nothing's for anything else."""
    return digest_of(path) if path.is_file() else ""


def _note(folder: Path, files: Mapping[str, list[str]]) -> None:
    try:
        write_listing(folder / LIST, _KEY, _SCHEMA, {"files": dict(sorted(files.items()))})
    except ProjectError as error:
        raise OutputError(error.what, file=error.file, remedy=error.remedy) from error
