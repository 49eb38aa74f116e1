"""The cache of computed arrays, by key. Losing it costs time, never work."""

from __future__ import annotations

import io
import os
import struct
import zipfile
import zlib
from contextlib import suppress
from pathlib import Path

import numpy as np
import platformdirs

from ezvar.core.errors import ProjectError

from .files import write_atomically
from .pieces import Piece, pieces_in

_BUDGET = 4 * 1024**3
_NOT_WHOLE = (
    OSError, ValueError, EOFError, MemoryError, AttributeError, RuntimeError, LookupError, TypeError, OverflowError,
    SyntaxError, zipfile.BadZipFile, zlib.error, struct.error,
)  # fmt: skip
"""What the library raises for damaged arrays."""


class Cache:
    """A folder of array files. Oldest ones go when it grows beyond ``budget`` bytes.

    ``shipped`` is another, of files that came with the application: read where the first has none, never written.
    """

    def __init__(
        self, folder: str | os.PathLike[str], budget: int = _BUDGET, shipped: str | os.PathLike[str] | None = None
    ) -> None:
        self.folder = Path(folder)
        self.budget = budget
        self._shipped = None if shipped is None else Cache(shipped)

    def arrays(self, key: str) -> dict[str, np.ndarray] | None:
        """The arrays kept under a key; ``None`` where there are none or they are damaged."""
        found = self.look_up(key)
        if found is None:
            return None if self._shipped is None else self._shipped.look_up(key)
        with suppress(OSError):
            os.utime(self._path(key))
        return found

    def pieces(self) -> dict[str, list[Piece]]:
        """The pieces that are kept, by what they are of, as `pieces_in`."""
        found = {} if self._shipped is None else self._shipped.pieces()
        for name, pieces in pieces_in(self.folder, ".npz").items():
            found[name] = sorted({*found.get(name, ()), *pieces})
        return found

    def look_up(self, key: str) -> dict[str, np.ndarray] | None:
        """As `arrays`, without noting that it was used."""
        try:
            with np.load(self._path(key), allow_pickle=False) as stored:
                return {name: stored[name] for name in stored.files}
        except _NOT_WHOLE:
            return None

    def put_arrays(self, key: str, arrays: dict[str, np.ndarray]) -> bool:
        """Keep arrays under a key. ``False`` where the disk has no room or gives no access."""
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
            write_atomically(self._path(key), lambda file: np.savez(file, **arrays))  # type: ignore[arg-type]
            self._trim()
        except (OSError, ProjectError):
            return False
        return True

    def _path(self, key: str) -> Path:
        return self.folder / f"{key}.npz"

    def _trim(self) -> None:
        files = [*self.folder.glob("*.npz"), *self.folder.glob("*.proxy")]
        known = sorted(((f.stat(), f) for f in files), key=lambda each: each[0].st_mtime, reverse=True)
        used = 0
        for stat, file in known:
            used += stat.st_size
            if used > self.budget:
                file.unlink(missing_ok=True)


def pack_arrays(arrays: dict[str, np.ndarray]) -> bytes:
    """Arrays as bytes, as a cache keeps them."""
    with io.BytesIO() as file:
        np.savez(file, **arrays)  # type: ignore[arg-type]
        return file.getvalue()


def unpack_arrays(data: bytes) -> dict[str, np.ndarray]:
    """What `pack_arrays` made. Raises `ValueError` for what is not whole, or is no arrays."""
    try:
        with np.load(io.BytesIO(data), allow_pickle=False) as stored:
            return {name: stored[name] for name in stored.files}
    except _NOT_WHOLE as error:
        raise ValueError("these are no arrays") from error


def default_cache(shipped: str | os.PathLike[str] | None = None) -> Cache:
    """The user's cache; the environment variable EZVAR_CACHE names another folder. With what is ``shipped``."""
    return Cache(os.environ.get("EZVAR_CACHE") or platformdirs.user_cache_path("ezvar"), shipped=shipped)
