"""Pictures for the screen, made on threads: the frame at the playhead, small stills, slit scans."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterator, Sequence
from dataclasses import dataclass
from functools import cache

import cv2
import numpy as np
from cachetools import LRUCache
from PyQt6.QtCore import QObject, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QPixmap

from ezvar.app.session.jobs import later
from ezvar.core import compose
from ezvar.core.compose import ALL, Given, LockPictures, Shown
from ezvar.core.errors import EzvarError
from ezvar.core.lock import LockReader, coloured, coloured_proxy
from ezvar.core.media import Picture, Planes, fit_within
from ezvar.core.memory import Memory, Room
from ezvar.core.model import Document, Master
from ezvar.core.progress import Cancelled, CancelToken, Progress
from ezvar.core.threads import Worker
from ezvar.core.viewing import FrameServer, Proxy

STILL = QSize(384, 216)
_THUMB = 144
_PARTS = 16  # of the budget that drawings have one of, wherever some are kept


def image_of(rgb: np.ndarray) -> QImage:
    """An RGB array (height, width, 3) as an image with memory of its own, in the form that is drawn fastest."""
    height, width = rgb.shape[:2]
    memory = rgb.tobytes()  # held until the image has its own
    image = QImage(memory, width, height, width * 3, QImage.Format.Format_RGB888)
    return image.convertToFormat(QImage.Format.Format_RGB32)


def fitted(width: int, height: int, within: QSize) -> tuple[int, int]:
    """The largest size of a shape within another, even, at least 2 × 2 and never enlarged."""
    return fit_within(width, height, within.width(), within.height())


def _bytes_of(pixmap: QPixmap) -> int:
    return pixmap.width() * pixmap.height() * pixmap.depth() // 8


class Kept:
    """Drawings of pictures, kept by what they were made from, since scaling takes its time.

    They have a part of the budget of their own, since they may only go on the interface's thread.
    """

    def __init__(self, memory: Memory) -> None:
        self._pixmaps: LRUCache[Hashable, QPixmap] = LRUCache(memory.set_aside(_PARTS), _bytes_of)

    def get(self, key: Hashable, make: Callable[[], QPixmap]) -> QPixmap:
        pixmap = self._pixmaps.get(key)
        if pixmap is None:
            pixmap = make()
            if _bytes_of(pixmap) <= self._pixmaps.maxsize:
                self._pixmaps[key] = pixmap
        return pixmap

    def scaled(self, image: QImage, size: QSize, ratio: float) -> QPixmap:
        """An image at a size on a screen of a pixel ratio, whatever its own shape."""

        def make() -> QPixmap:
            pixmap = QPixmap.fromImage(image.scaled(size * ratio, transformMode=_SMOOTH))
            pixmap.setDevicePixelRatio(ratio)
            return pixmap

        return self.get((image.cacheKey(), size.width(), size.height(), ratio), make)

    def clear(self) -> None:
        """Let go of all, since what they were drawn from is shown no more."""
        self._pixmaps.clear()


_SMOOTH = Qt.TransformationMode.SmoothTransformation


@dataclass(frozen=True)
class Result:
    """A master's finished picture to be made of a frame, as a document says, at most so large."""

    doc: Document
    master: Master
    size: QSize


@dataclass(frozen=True)
class View:
    """What the viewer is to make of a frame: the picture's size on screen, and results.

    ``quick`` is content with the proxy's picture, as while playing.
    """

    size: QSize
    doc: Document | None = None
    results: tuple[Result, ...] = ()
    quick: bool = False


_OWNER = Shown(mixes=False)


def screen_fit(rgb: np.ndarray, within: QSize) -> tuple[int, int]:
    """The size at which a picture is drawn as it stands, enlarged or not; its own where there is no room."""
    size = QSize(rgb.shape[1], rgb.shape[0])
    if not within.isEmpty():
        size.scale(within, Qt.AspectRatioMode.KeepAspectRatio)
    return max(2, size.width()), max(2, size.height())


def _half_serves(result: Result, picture: Picture) -> bool:
    """Whether a result is so small that a picture of half the size has all that it shows. At its full scale it is what
    is made, to the sample."""
    if result.size.width() >= result.master.width and result.size.height() >= result.master.height:
        return False
    shot = result.doc.shot_at(picture.index)
    framing = result.doc.framing(shot.id, result.master.id)
    tightest = max((k.zoom for pane in framing.panes for k in pane.keys), default=1.0) if framing else 1.0
    return 2 * result.size.height() * max(1.0, tightest) <= picture.height


def _read_alike(doc: Document, seen: Document) -> bool:
    """Whether what is read for pictures is the same in two documents."""
    return all(
        a is b
        for a, b in (
            (doc.shots, seen.shots), (doc.colouring, seen.colouring), (doc.textless, seen.textless),
            (doc.textless_shots, seen.textless_shots),
            *zip(compose.places_depend_on(doc), compose.places_depend_on(seen), strict=True),
        )
    )  # fmt: skip


class Viewer(QObject):
    """Serves the frame at the playhead as images of the size that is shown."""

    shown = pyqtSignal(int, QImage, object)  # frame, picture, the results in a tuple
    failed = pyqtSignal(str)

    def __init__(self, reader: LockReader, proxy: Proxy, memory: Memory) -> None:
        super().__init__()
        self._reader = reader
        self._pictures = LockPictures(reader)
        self.view = View(QSize(640, 360))
        self._proxy = proxy
        self._quickly: int | None = None  # the frame that is shown by the proxy's picture
        self._server = FrameServer(
            reader,
            memory.room(),
            self._serve,
            lambda error: self.failed.emit(str(error)),
            before=self._serve_quickly,
        )

    def request(self, frame: int) -> None:
        self._server.request(frame)

    def close(self) -> None:
        self._server.close()
        self._pictures.close()

    def _serve(self, picture: Picture) -> None:
        view = self.view  # a value, replaced as a whole by the interface's thread
        seen = self._reader.doc
        if view.doc is not None and not _read_alike(view.doc, seen):
            self._reader.show(view.doc)
            self._pictures.show(view.doc)
        doc = view.doc or seen
        shot, raw = doc.shot_at(picture.index), cache(picture.planes)

        def smaller(size: QSize) -> Planes:
            """The picture at a smaller size, at which its colours are changed more quickly."""
            return coloured(doc, shot, raw().glanced(*fitted(picture.width, picture.height, size)))

        planes = cache(lambda: coloured(doc, shot, raw()))
        half = cache(lambda: smaller(QSize(picture.width // 2, 4000)))
        image = image_of(smaller(view.size).rgb())
        results = []
        for r in view.results:
            if self._quickly == picture.index and self._server.disturbed():
                raise Cancelled  # what is shown of it is good enough for a frame that is left again
            half_serves = _half_serves(r, picture)
            results.append(self._result(r, picture.index, half if half_serves else planes, True))
        self.shown.emit(picture.index, image, tuple(results))

    def _serve_quickly(self, frame: int) -> bool | None:
        """The proxy's picture until the frame itself is decoded; whether it is enough, ``None`` where there is none."""
        view, doc = self.view, self.view.doc or self._reader.doc
        own = not doc.is_textless(doc.shot_at(frame).id)  # the proxy shows what is written into the lock
        rgb = self._proxy.picture(frame) if own else None
        self._quickly = None if rgb is None else frame
        if rgb is None:
            return None
        shot = doc.shot_at(frame)
        planes = cache(lambda: coloured_proxy(doc, shot, rgb))
        results = tuple(self._result(r, frame, planes, False) for r in view.results)
        size = screen_fit(rgb, view.size)
        seen = rgb if doc.colouring.plain else planes().rgb()
        self.shown.emit(frame, image_of(cv2.resize(seen, size, interpolation=cv2.INTER_LINEAR)), results)
        return view.quick

    def _result(self, asked: Result, frame: int, planes: Callable[[], Planes], whole: bool) -> QImage | None:
        """A result; the mix of two shots only when ``whole``, the frame's owner alone when in haste."""
        if asked.size.isEmpty():
            return None
        doc, master = asked.doc, asked.master
        width, _ = fitted(master.width, master.height, asked.size)
        given = Given(doc, frame, planes, self._pictures if whole else None, self._pictures)
        return image_of(compose.frame(doc, master, frame, given, width / master.width, ALL if whole else _OWNER).rgb())


class Stills(QObject):
    """Small pictures of frames, fetched in the background, those asked for last first."""

    arrived = pyqtSignal(object, QImage, QImage)  # what it is kept under, still, thumb

    def __init__(self, reader: LockReader, proxy: Proxy, memory: Memory) -> None:
        super().__init__()
        self._source = reader
        self._proxy = proxy
        self._images: Room[tuple[QImage, QImage]] = memory.room()  # each still with its thumb
        self._wanted: list[int] = []
        self._colourings = [reader.doc.colouring]  # the last but one, too, which is shown until the others are there
        self._reader: LockReader | None = None  # its own, so that the viewer never waits for it
        self._last = -100
        later(self.arrived, self._store)
        self._worker = Worker("stills", self._fetch, self._let_go, low=True)

    def get(self, frame: int) -> QImage | None:
        """The still of a frame, or ``None`` while it is being fetched."""
        found = self._of(frame)
        return found[0] if found is not None else None

    def _of(self, frame: int) -> tuple[QImage, QImage] | None:
        """The still and the thumb of a frame, in its former colours while those of now are fetched."""
        colouring = self._source.doc.colouring
        if colouring != self._colourings[-1]:
            self._colourings = [self._colourings[-1], colouring]
        found = self._images.get((frame, colouring))
        if found is None:
            with self._worker.changed:
                if frame in self._wanted:
                    self._wanted.remove(frame)
                self._wanted.append(frame)
            self._worker.wake()
            return self._images.get((frame, self._colourings[0]))
        return found

    def thumb_near(self, start: int, end: int, frame: int) -> QImage | None:
        """As `get_near`, but small, for lists and strips."""
        found = self._of(self._source.quick_frame(start, end, frame))
        return found[1] if found is not None else None

    def get_near(self, start: int, end: int, frame: int) -> QImage | None:
        """As `get`, of a frame close by from ``start`` to ``end`` that is quick to decode."""
        return self.get(self._source.quick_frame(start, end, frame))

    def close(self) -> None:
        self._worker.close()
        self._images.clear()

    def _store(self, key: Hashable, image: QImage, thumb: QImage) -> None:
        self._images.put(key, (image, thumb), image.sizeInBytes() + thumb.sizeInBytes())

    def _fetch(self) -> float | None:
        with self._worker.changed:
            if not self._wanted:
                return None
            # One that the decoder passes anyway comes first, else the one asked for last.
            ahead = [n for n in self._wanted if self._last < n <= self._last + 12]
            frame = self._last = min(ahead) if ahead else self._wanted[-1]
        doc = self._source.doc
        reader = self._reader = self._reader or LockReader(doc)
        if reader.doc is not doc:
            reader.show(doc)
        try:
            image = self._make(reader, max(0, min(frame, reader.count - 1)))
        except EzvarError:
            image = QImage(STILL, QImage.Format.Format_RGB888)
            image.fill(0)
        with self._worker.changed:
            if frame in self._wanted:
                self._wanted.remove(frame)
        self.arrived.emit((frame, doc.colouring), image, image.scaledToWidth(_THUMB, _SMOOTH))
        return 0.0  # others may be wanted

    def _let_go(self) -> None:
        if self._reader is not None:
            self._reader.close()

    def _make(self, reader: LockReader, frame: int) -> QImage:
        rgb, doc = self._proxy.picture(frame), reader.doc
        shot = doc.shot_at(frame)
        if rgb is not None:
            return image_of(rgb if doc.colouring.plain else coloured_proxy(doc, shot, rgb).rgb())
        picture = reader.frame(frame)
        size = fitted(picture.width, picture.height, STILL)
        if doc.colouring.plain:
            return image_of(picture.rgb(*size))
        return image_of(coloured(doc, shot, picture.planes().scaled(*size)).rgb())


def result_pictures(
    doc: Document, proxy: Proxy, master: Master, frames: Sequence[int], size: QSize, progress: Progress,
    cancel: CancelToken,
) -> Iterator[tuple[int, QImage]]:  # fmt: skip
    """Lock frames as a master shows them, at most so large. Long: to be called on a thread."""
    width, _ = fitted(master.width, master.height, size)
    with LockReader(doc) as reader, LockPictures(reader) as pictures:
        for k, frame in enumerate(frames):
            cancel.check()
            progress(k / len(frames), "Drawing the chosen shots")
            shot = doc.shot_at(frame)
            rgb = None if doc.is_textless(shot.id) else proxy.picture(frame)
            planes = coloured_proxy(doc, shot, rgb) if rgb is not None else pictures.of_shot(shot, frame)
            given = Given(doc, frame, lambda planes=planes: planes, pictures)  # type: ignore[misc]
            yield frame, image_of(compose.frame(doc, master, frame, given, width / master.width).rgb())
