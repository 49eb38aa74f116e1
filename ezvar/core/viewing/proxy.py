"""A proxy: small pictures of every frame, each by itself, so that any is there in a few milliseconds.

For looking only. What is measured, drawn for output or handed to others comes
from the movie itself.
"""

from __future__ import annotations

import os
import threading
from bisect import bisect_right
from collections import OrderedDict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np

from ezvar.core.errors import MediaError
from ezvar.core.media import Picture
from ezvar.core.store import Piece, gaps, piece_name, pieces_in, write_atomically

PROXY_WIDTH, PROXY_HEIGHT = 512, 288
_QUALITY = 82
_MAGIC = b"ezvar-proxy-2"
_SUFFIX = ".proxy"
_MOST_OPEN = 64  # files


@dataclass(frozen=True)
class Span:
    """Frames ``start`` to ``end`` of what is looked at: they show ``strip`` from its picture ``first`` on.

    ``width`` and ``height`` are the pictures', which are black where the strip is empty.
    """

    start: int
    end: int
    strip: str
    first: int
    width: int
    height: int

    @property
    def last(self) -> int:
        """The strip's picture after the last one."""
        return self.first + self.end - self.start


@dataclass(frozen=True)
class _File:
    """An open file of pictures, and where each begins and ends in it."""

    number: int
    offsets: np.ndarray


class Proxy:
    """JPEG pictures of a lock, in files of pieces of the strips that it shows. Safe across threads.

    ``spans`` follow one another from frame 0 on.
    """

    def __init__(self, folder: str | os.PathLike[str], spans: Sequence[Span]) -> None:
        self._folder, self._spans = Path(folder), tuple(spans)
        self._starts = [span.start for span in spans]
        self._lock = threading.Lock()
        self._open: OrderedDict[tuple[str, Piece], _File] = OrderedDict()
        self._closed = False
        self._there: dict[str, list[Piece]] = {}
        self.look_again()

    @property
    def frames(self) -> int:
        return self._spans[-1].end

    @property
    def ready(self) -> bool:
        """Whether every frame is there."""
        with self._lock:
            return not any(span.strip and gaps(span.first, span.last, self._pieces(span.strip)) for span in self._spans)

    def pieces(self, strip: str) -> list[Piece]:
        """What is there of a strip."""
        with self._lock:
            return list(self._pieces(strip))

    def look_again(self) -> None:
        """Take up what others have made meanwhile."""
        with self._lock:
            known = {} if self._closed else pieces_in(self._folder, _SUFFIX)
            for strip in {span.strip for span in self._spans} & known.keys():
                for piece in known[strip]:
                    if piece not in self._pieces(strip):
                        self._take(strip, piece)

    def picture(self, n: int) -> np.ndarray | None:
        """Frame ``n`` as RGB, uint8, at most 512 × 288; ``None`` while it is not made yet."""
        if not 0 <= n < self.frames:
            return None
        span = self._spans[bisect_right(self._starts, n) - 1]
        if not span.strip:
            width, height = proxy_size(span.width, span.height)
            return np.zeros((height, width, 3), np.uint8)
        at = n - span.start + span.first
        with self._lock:
            piece = next((p for p in self._pieces(span.strip) if p[0] <= at < p[1]), None)
            file = None if piece is None else self._take(span.strip, piece)
            if piece is None or file is None:
                return None
            a, b = int(file.offsets[at - piece[0]]), int(file.offsets[at - piece[0] + 1])
            data = os.pread(file.number, b - a, a)
        image = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR) if data else None
        return None if image is None else cv2.cvtColor(image, cv2.COLOR_BGR2RGB)

    def put(self, strip: str, start: int, pictures: Iterable[bytes]) -> None:
        """Keep pictures of a strip from its picture ``start`` on, as `proxy_picture` makes them.

        Raises `MediaError` where the disk refuses.
        """
        data = list(pictures)
        offsets = np.cumsum([0, *map(len, data)], dtype=np.int64)
        piece = start, start + len(data)
        self._folder.mkdir(parents=True, exist_ok=True)
        whole = b"".join([*data, offsets.tobytes(), _MAGIC])
        write_atomically(_path(self._folder, strip, piece), lambda file: file.write(whole), MediaError)
        with self._lock:
            self._take(strip, piece)

    def _pieces(self, strip: str) -> list[Piece]:
        return self._there.get(strip, [])

    def _take(self, strip: str, piece: Piece) -> _File | None:
        """The file of a piece, where it is complete and of the right length."""
        if (known := self._open.get((strip, piece))) is not None:
            self._open.move_to_end((strip, piece))
            return known
        file = None if self._closed else _opened(_path(self._folder, strip, piece), piece)
        if file is not None:
            self._open[strip, piece] = file
            if piece not in (there := self._there.setdefault(strip, [])):
                there.append(piece)
            while len(self._open) > _MOST_OPEN:
                os.close(self._open.popitem(last=False)[1].number)
        elif piece in self._pieces(strip):
            self._there[strip].remove(piece)
        return file

    def close(self) -> None:
        """Let go of the files; nothing is there any more."""
        with self._lock:
            while self._open:
                os.close(self._open.popitem()[1].number)
            self._there.clear()
            self._closed = True


def _path(folder: str | os.PathLike[str], strip: str, piece: Piece) -> Path:
    return Path(folder) / (piece_name(strip, *piece) + _SUFFIX)


def _opened(path: Path, piece: Piece) -> _File | None:
    """The file of a piece, where it is complete and of the right length."""
    tail = (piece[1] - piece[0] + 1) * 8 + len(_MAGIC)
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
            return _File(file, offsets)
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
