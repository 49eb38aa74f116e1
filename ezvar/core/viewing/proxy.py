"""A proxy: small pictures of every frame, each by itself, so that any is there in a few milliseconds.

For looking only. What is measured, drawn for output or handed to others comes
from the movie itself.
"""

from __future__ import annotations

import os
import threading
from collections.abc import Iterable
from pathlib import Path

import cv2
import numpy as np

from ezvar.core.errors import MediaError, from_os
from ezvar.core.media import Picture
from ezvar.core.progress import Cancelled, CancelToken, Progress, silent
from ezvar.core.store import part_beside, remove_leftovers

PROXY_WIDTH, PROXY_HEIGHT = 512, 288
_QUALITY = 82
_MAGIC = b"ezvar-proxy-1"


class Proxy:
    """JPEG pictures in one file, with an index at its end once it is complete. Safe across threads."""

    def __init__(self, folder: str | os.PathLike[str], content: str, frames: int) -> None:
        self.path = Path(folder) / f"{content}.proxy"
        self.frames = frames
        self._offsets = np.zeros(frames + 1, np.int64)
        self._count = 0
        self._file: int | None = None
        self._lock = threading.Lock()
        self._building = False
        self._open_complete()

    @property
    def ready(self) -> bool:
        """Whether every frame is there."""
        return self._count == self.frames

    def picture(self, n: int) -> np.ndarray | None:
        """Frame ``n`` as RGB, uint8, at most 512 × 288; ``None`` while it is not made yet."""
        with self._lock:
            if self._file is None or not 0 <= n < self._count:
                return None
            start, end = int(self._offsets[n]), int(self._offsets[n + 1])
            data = os.pread(self._file, end - start, start)
        image = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR) if data else None
        return None if image is None else cv2.cvtColor(image, cv2.COLOR_BGR2RGB)

    def build(
        self, pictures: Iterable[Picture], progress: Progress = silent, cancel: CancelToken | None = None
    ) -> None:
        """Make what is missing, from the first frame on. Frames can be asked for while this goes on.

        Raises `MediaError` where the disk refuses; what was made until then stays usable.
        """
        if self.ready:
            return
        temp = part_beside(self.path)
        try:
            self.path.parent.mkdir(parents=True, exist_ok=True)
            remove_leftovers(self.path.parent)
            handle = os.open(temp, os.O_RDWR | os.O_CREAT | os.O_TRUNC, 0o644)
        except OSError as error:
            raise from_os(error, "kept", self.path, MediaError) from error
        with self._lock:
            self._file, self._count, self._building = handle, 0, True
        try:
            self._fill(pictures, handle, progress, cancel)
            os.write(handle, self._offsets.tobytes() + _MAGIC)
            os.replace(temp, self.path)
        except OSError as error:
            raise from_os(error, "kept", self.path, MediaError) from error
        finally:
            temp.unlink(missing_ok=True)
            with self._lock:
                self._building = False
                if self._file is None:  # closed meanwhile
                    os.close(handle)

    def _fill(self, pictures: Iterable[Picture], handle: int, progress: Progress, cancel: CancelToken | None) -> None:
        for picture in pictures:
            if cancel is not None:
                cancel.check()
            rgb = picture.rgb(*proxy_size(picture.width, picture.height))
            fine, data = cv2.imencode(".jpg", rgb[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, _QUALITY])
            if not fine:
                raise MediaError("a proxy picture could not be made", file=self.path)
            os.write(handle, data.tobytes())
            with self._lock:
                if self._file is None:
                    raise Cancelled
                self._offsets[picture.index + 1] = self._offsets[picture.index] + len(data)
                self._count = picture.index + 1
            progress(self._count / self.frames, "Making the proxy")

    def _open_complete(self) -> None:
        """Take up a complete file of the right length; anything else is made anew."""
        tail = self._offsets.nbytes + len(_MAGIC)
        try:
            handle = os.open(self.path, os.O_RDONLY)
        except OSError:
            return
        size = os.fstat(handle).st_size
        data = os.pread(handle, tail, max(0, size - tail))
        if len(data) == tail and data.endswith(_MAGIC):
            offsets = np.frombuffer(data[: -len(_MAGIC)], np.int64)
            if offsets[0] == 0 and offsets[-1] == size - tail and (np.diff(offsets) > 0).all():
                self._offsets, self._count, self._file = offsets.copy(), self.frames, handle
                os.utime(self.path)
                return
        os.close(handle)

    def close(self) -> None:
        """Let go of the file; a making under way ends by itself."""
        with self._lock:
            if self._file is not None and not self._building:
                os.close(self._file)
            self._file, self._count = None, 0


def proxy_size(width: int, height: int) -> tuple[int, int]:
    """The size of a picture's proxy: even, in its shape, at most 512 × 288 or 288 × 512."""
    scale = min(1.0, PROXY_WIDTH / max(width, height), PROXY_HEIGHT / min(width, height))
    return max(2, round(width * scale / 2) * 2), max(2, round(height * scale / 2) * 2)
