"""What a machine proves before it works: that its programs are the same, and that it sees the same files."""

from __future__ import annotations

import os
import platform
import secrets
import socket
import threading
from collections.abc import Iterable
from functools import cache
from importlib import metadata
from pathlib import Path

import av

from ezvar import __version__
from ezvar.core.errors import EzvarError, MachineError, MediaError, from_os
from ezvar.core.media import fingerprint
from ezvar.core.names import readable
from ezvar.core.store import write_atomically
from ezvar.core.way_in import read_bytes

from .errand import Folder, Needed
from .ways import Way, path_there

TOKEN = ".ezvar-machines"
"""The file by which a folder is known again."""
_COUNT = ("opencv-contrib-python-headless", "onnxruntime", "numpy", "scipy", "skia-python")


@cache
def programs() -> dict[str, str]:
    """What results depend on besides what is read, each with its version: Ezvar, the encoders, and what computes.

    Where two machines say the same here, and have the same kind of processor,
    results are equal to the last bit.
    """
    codecs = {name: ".".join(map(str, av.library_versions[name])) for name in ("libavcodec", "libswscale")}
    return {"Ezvar": __version__, **codecs, **{name: metadata.version(name) for name in _COUNT}}


def other_programs(wanted: dict[str, str]) -> str:
    """How this machine's programs differ from those that are wanted, in words; empty where they do not."""
    own = programs()
    for name in {**own, **wanted}:
        if own.get(name) != wanted.get(name):
            return f"it has {name} {own.get(name, 'not at all')}, where {wanted.get(name, 'none')} is wanted"
    return ""


def machine_name() -> str:
    """What this machine calls itself."""
    return socket.gethostname() or platform.node() or "machine"


def token_in(folder: str | os.PathLike[str]) -> Folder:
    """Have a folder known again by other machines that see it. Raises `MachineError` where it cannot be written to."""
    path = Path(os.path.abspath(folder))  # by the name that a map of paths knows
    try:
        path.mkdir(parents=True, exist_ok=True)
        token = _token_of(path)
        if not token:
            token = secrets.token_hex(16)
            write_atomically(path / TOKEN, lambda file: file.write(token.encode()))
    except OSError as error:
        raise from_os(error, "shared with other machines", path, MachineError) from error
    return Folder(str(path), token)


def _token_of(folder: Path) -> str:
    try:
        return read_bytes(folder / TOKEN, MachineError, "the mark of a folder").decode("ascii", "replace")
    except EzvarError:
        return ""


class Seen:
    """What this machine has found to be the same as elsewhere; files are looked at again when they change. Safe across
    threads."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._found: dict[tuple[str, int, int], str] = {}

    def check(self, files: Iterable[Needed], folders: Iterable[Folder], ways: Iterable[Way]) -> None:
        """Raise `MachineError` for the first that is not here, or not the same; in words for whoever sent it."""
        host, known = machine_name(), tuple(ways)
        for folder in folders:
            path = path_there(folder.path, known, host)
            if _token_of(Path(path)) != folder.token:
                raise MachineError(
                    f"the folder {readable(path)} is not the one that is meant, or not there",
                    remedy="Let all machines see it, or map its path",
                )
        for file in files:
            path = path_there(file.path, known, host)
            try:
                content = self._content(path)
            except EzvarError as error:
                raise MachineError(
                    f"{readable(path)} cannot be read: {error.what}", remedy="Let all machines see it, or map its path"
                ) from error
            if content != file.content:
                raise MachineError(f"{readable(path)} is another file", remedy="Copy it again, or map its path")

    def _content(self, path: str) -> str:
        try:
            facts = os.stat(path)
        except OSError as error:
            raise from_os(error, "read", path, MediaError) from error
        key = path, facts.st_size, facts.st_mtime_ns
        with self._lock:
            found = self._found.get(key)
        if found is None:
            found = fingerprint(path)
            with self._lock:
                self._found[key] = found
        return found
