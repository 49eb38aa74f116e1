"""A proxy: small pictures of every frame, each by itself, so that any is there in a few milliseconds.

For looking only. What is measured, drawn for output or handed to others comes
from the movie itself.
"""

from __future__ import annotations

import os
import threading
from collections import OrderedDict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np

from ezvar.core.errors import MediaError
from ezvar.core.media import Picture
from ezvar.core.store import write_atomically

PROXY_WIDTH, PROXY_HEIGHT = 512, 288
_QUALITY = 82
_MAGIC = b"ezvar-proxy-2"
_MOST_OPEN = 64  # files


@dataclass(frozen=True)
class _Part:
    """An open file of pictures, frame ``start`` the first, and where each begins and ends in it."""

    start: int
    file: int
    offsets: np.ndarray


class Proxy:
    """JPEG pictures of a lock, in a file for each stretch of frames. Safe across threads.

    ``content`` names what is shown, ``bounds`` are the stretches: the first
    frame of each, and after the last the number of frames in all.
    """

    def __init__(self, folder: str | os.PathLike[str], content: str, bounds: Sequence[int]) -> None:
        self._folder, self._content = Path(folder), content
        self._bounds = tuple(bounds)
        self._lock = threading.Lock()
        self._open: OrderedDict[int, _Part] = OrderedDict()
        self._closed = False
        self._there: set[int] = set()
        self.look_again()

    @property
    def frames(self) -> int:
        return self._bounds[-1]

    @property
    def ready(self) -> bool:
        """Whether every frame is there."""
        return len(self._there) == len(self._bounds) - 1

    def has(self, start: int) -> bool:
        """Whether the stretch that begins at a frame is there."""
        return start in self._there

    def look_again(self) -> None:
        """Take up what others have made meanwhile."""
        with self._lock:
            for start in self._bounds[:-1]:
                if start not in self._there:
                    self._take(start)

    def picture(self, n: int) -> np.ndarray | None:
        """Frame ``n`` as RGB, uint8, at most 512 × 288; ``None`` while it is not made yet."""
        if not 0 <= n < self.frames:
            return None
        start = self._bounds[int(np.searchsorted(self._bounds, n, "right")) - 1]
        with self._lock:
            part = self._take(start)
            if part is None:
                return None
            a, b = int(part.offsets[n - start]), int(part.offsets[n - start + 1])
            data = os.pread(part.file, b - a, a)
        image = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR) if data else None
        return None if image is None else cv2.cvtColor(image, cv2.COLOR_BGR2RGB)

    def put(self, start: int, pictures: Iterable[bytes]) -> None:
        """Keep the pictures of the stretch that begins at a frame, as `proxy_picture` makes them.

        Raises `MediaError` where the disk refuses.
        """
        data = list(pictures)
        offsets = np.cumsum([0, *map(len, data)], dtype=np.int64)
        self._folder.mkdir(parents=True, exist_ok=True)
        whole = b"".join([*data, offsets.tobytes(), _MAGIC])
        write_atomically(_path(self._folder, self._content, start), lambda file: file.write(whole), MediaError)
        with self._lock:
            self._take(start)

    def _take(self, start: int) -> _Part | None:
        """The file of a stretch, where it is complete and of the right length."""
        if (known := self._open.get(start)) is not None:
            self._open.move_to_end(start)
            return known
        end = self._bounds[self._bounds.index(start) + 1]
        part = None if self._closed else _opened(_path(self._folder, self._content, start), start, end)
        if part is not None:
            self._open[start] = part
            self._there.add(start)
            while len(self._open) > _MOST_OPEN:
                os.close(self._open.popitem(last=False)[1].file)
        return part

    def close(self) -> None:
        """Let go of the files; nothing is there any more."""
        with self._lock:
            while self._open:
                os.close(self._open.popitem()[1].file)
            self._there.clear()
            self._closed = True


def proxy_kept(folder: str | os.PathLike[str], content: str, start: int, end: int) -> bool:
    """Whether the pictures of a stretch are there."""
    part = _opened(_path(folder, content, start), start, end)
    if part is not None:
        os.close(part.file)
    return part is not None


def _path(folder: str | os.PathLike[str], content: str, start: int) -> Path:
    return Path(folder) / f"{content}-{start:08d}.proxy"


def _opened(path: Path, start: int, end: int) -> _Part | None:
    """The file of a stretch, where it is complete and of the right length."""
    tail = (end - start + 1) * 8 + len(_MAGIC)
    try:
        file = os.open(path, os.O_RDONLY)
    except OSError:
        return None
    size = os.fstat(file).st_size
    data = os.pread(file, tail, max(0, size - tail))
    if len(data) == tail and data.endswith(_MAGIC):
        offsets = np.frombuffer(data[: -len(_MAGIC)], np.int64)
        if offsets[0] == 0 and offsets[-1] == size - tail and (np.diff(offsets) > 0).all():
            os.utime(path)
            return _Part(start, file, offsets)
    os.close(file)
    return None


def proxy_picture(picture: Picture) -> bytes:
    """A picture's proxy, as JPEG. Raises `MediaError` where it cannot be made."""
    rgb = picture.planes().glanced(*proxy_size(picture.width, picture.height)).rgb()
    fine, data = cv2.imencode(".jpg", cv2.cvtColor(rgb, cv2.COLOR_RGB2BGR), [cv2.IMWRITE_JPEG_QUALITY, _QUALITY])
    if not fine:
        raise MediaError("a proxy picture could not be made")
    return data.tobytes()


def proxy_size(width: int, height: int) -> tuple[int, int]:
    """The size of a picture's proxy: even, in its shape, at most 512 × 288 or 288 × 512."""
    scale = min(1.0, PROXY_WIDTH / max(width, height), PROXY_HEIGHT / min(width, height))
    return max(2, round(width * scale / 2) * 2), max(2, round(height * scale / 2) * 2)
