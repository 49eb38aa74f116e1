"""A thread that fetches the frame asked for last, and reads ahead when idle."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Protocol

from ezvar.core.errors import EzvarError
from ezvar.core.media import Picture
from ezvar.core.memory import Room
from ezvar.core.progress import Cancelled
from ezvar.core.threads import Worker


class FrameSource(Protocol):
    """What gives pictures by number: a movie, or a lock made of several."""

    @property
    def count(self) -> int: ...

    @property
    def name(self) -> str: ...

    def frame(self, n: int, unwanted: Callable[[], bool] | None = None, /) -> Picture: ...

    def close(self) -> None: ...


_HASTE = 0.15  # seconds between two requests up to which the playhead is on its way
_REST = 0.04  # seconds without a request after which a frame is decoded that something quicker stands for


class FrameServer:
    """Serves pictures of one source to one viewer.

    Only the newest request counts: those that came while another frame was
    being decoded are dropped, as a moving playhead wants. ``on_picture`` and
    ``on_error`` are called on the server's own thread. After a request the
    server decodes ``ahead`` more frames into the cache, until asked again.
    ``before`` is called with a frame that must be decoded first, or while
    requests for other frames come quickly, so that something quicker can be
    shown meanwhile.
    It returns ``None`` where it has nothing, whether that was enough
    otherwise: a frame with enough is not decoded at all, others once the
    requests rest. ``on_picture`` may raise `Cancelled` when `disturbed`.
    """

    def __init__(
        self,
        reader: FrameSource,
        cache: Room[Picture],
        on_picture: Callable[[Picture], None],
        on_error: Callable[[EzvarError], None],
        ahead: int = 12,
        before: Callable[[int], bool | None] | None = None,
    ) -> None:
        self._reader = reader
        self._cache = cache
        self._on_picture = on_picture
        self._on_error = on_error
        self._ahead = ahead
        self._before = before
        self._wanted: int | None = None
        self._asked: tuple[float, int] = (0.0, -1)  # when the last request came, and for which frame
        self._hasty = False
        self._worker = Worker("frames", self._serve)

    def request(self, frame: int) -> None:
        """Ask for a frame; numbers outside the movie give the nearest. Returns at once."""
        frame = max(0, min(frame, self._reader.count - 1))
        with self._worker.changed:
            self._wanted = frame
            now = time.monotonic()
            self._hasty = frame != self._asked[1] and now - self._asked[0] <= _HASTE
            self._asked = now, frame
        self._worker.wake()

    def close(self) -> None:
        """Stop the thread, close the movie and let go of its pictures."""
        self._worker.close()
        self._reader.close()
        self._cache.clear()

    def disturbed(self) -> bool:
        """Whether something else is wanted by now."""
        return self._worker.closing or self._wanted is not None

    def _fetch(self, frame: int) -> Picture:
        picture = self._cache.get((self._reader.name, frame))
        if picture is None:
            picture = self._reader.frame(frame, self.disturbed)
            self._cache.put((self._reader.name, frame), picture, picture.nbytes)
        return picture

    def _shown_quickly(self, frame: int) -> bool | None:
        """As ``before`` says of a frame, where that is called."""
        if self._before is None:
            return None
        if not self._hasty and self._cache.get((self._reader.name, frame)) is not None:
            return None
        return self._before(frame)

    def _serve(self) -> None:
        with self._worker.changed:
            frame, self._wanted = self._wanted, None
        if frame is None:
            return
        try:
            quickly = self._shown_quickly(frame)
            if quickly is None or (not quickly and not self._worker.wait(self.disturbed, _REST)):
                self._on_picture(self._fetch(frame))
                self._read_ahead(frame)
        except Cancelled:
            return  # another frame is wanted by now
        except EzvarError as error:
            self._on_error(error)

    def _read_ahead(self, frame: int) -> None:
        for n in range(frame + 1, min(frame + 1 + self._ahead, self._reader.count)):
            if self.disturbed():
                return
            self._fetch(n)
