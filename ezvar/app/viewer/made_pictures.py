"""Small pictures of masters as they will look, drawn in the background by the one drawing there is."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import dataclass

from PyQt6.QtCore import QObject, QSize, pyqtSignal
from PyQt6.QtGui import QImage

from ezvar.app.session.jobs import later
from ezvar.app.session.session import Session
from ezvar.core import compose
from ezvar.core.compose import Given, LockPictures
from ezvar.core.errors import EzvarError
from ezvar.core.lock import LockReader, coloured_proxy
from ezvar.core.memory import Memory, Room
from ezvar.core.model import Document, Master
from ezvar.core.text import asked_of, shown_at, titles_at
from ezvar.core.threads import Worker
from ezvar.core.viewing import Proxy

from .pictures import fitted, image_of

_MOST_WANTED = 200  # those asked for longest ago are let go: they are out of sight


@dataclass(frozen=True)
class Wanted:
    """A picture of a master at a lock frame, at most so large on screen; ``key`` names all that it depends on."""

    key: Hashable
    doc: Document
    master: Master
    frame: int
    size: QSize


def wanted_picture(doc: Document, master: Master, frame: int, size: QSize) -> Wanted:
    """A picture of a master at a lock frame, at most so large, named by all that it shows."""
    shot, titles = doc.shot_at(frame), tuple(titles_at(doc, master, frame))
    depends = (
        frame, (master.width, master.height), master.backdrop, doc.framing(shot.id, master.id), shot.uses,
        doc.is_textless(shot.id), titles, doc.placed, doc.anchorings,
        doc.titles if doc.anchorings or any(t.beside is not None for t in titles) else (),
        tuple(asked_of(doc, track, caption, master) for track, caption in shown_at(doc, master, frame)),
        size.width(), size.height(), doc.colouring,
    )  # fmt: skip
    return Wanted(depends, doc, master, frame, size)


def made_pictures(session: Session) -> MadePictures | None:
    """Pictures of the open lock; ``None`` while there are none to be drawn from."""
    proxy = session.media.proxy
    return None if proxy is None else MadePictures(session.project.document, proxy, session.memory)


class MadePictures(QObject):
    """Draws what is asked for, what was asked for last first, from the proxy's pictures where there are some."""

    arrived = pyqtSignal(object, QImage)

    def __init__(self, doc: Document, proxy: Proxy, memory: Memory) -> None:
        super().__init__()
        self._doc, self._proxy = doc, proxy
        self._images: Room[QImage] = memory.room()
        self._wanted: dict[Hashable, Wanted] = {}
        self._reader: LockReader | None = None
        self._pictures: LockPictures | None = None
        later(self.arrived, self._store)
        self._worker = Worker("masters' pictures", self._make_one, self._let_go, low=True)

    def get(self, wanted: Wanted) -> QImage | None:
        """The picture, or ``None`` while it is being drawn."""
        found = self._images.get(wanted.key)
        if found is None:
            with self._worker.changed:
                self._wanted.pop(wanted.key, None)
                self._wanted[wanted.key] = wanted
                while len(self._wanted) > _MOST_WANTED:
                    self._wanted.pop(next(iter(self._wanted)))
            self._worker.wake()
        return found

    def close(self) -> None:
        self._worker.close()
        self._images.clear()

    def _store(self, key: Hashable, image: QImage) -> None:
        self._images.put(key, image, image.sizeInBytes())

    def _make_one(self) -> float | None:
        with self._worker.changed:
            if not self._wanted:
                return None
            wanted = next(reversed(self._wanted.values()))
        try:
            image = self._made(wanted)
        except EzvarError:  # what cannot be read is told where the lock is shown
            image = QImage(wanted.size, QImage.Format.Format_RGB32)
            image.fill(0)
        with self._worker.changed:
            self._wanted.pop(wanted.key, None)
        self.arrived.emit(wanted.key, image)
        return 0.0

    def _made(self, wanted: Wanted) -> QImage:
        doc, frame = wanted.doc, wanted.frame
        if self._reader is None or self._pictures is None:
            self._reader = LockReader(doc, lambda media, error: None)
            self._pictures = LockPictures(self._reader)
        elif self._doc is not doc:
            self._reader.show(doc)
            self._pictures.show(doc)
        self._doc = doc
        shot = doc.shot_at(frame)
        rgb = None if doc.is_textless(shot.id) else self._proxy.picture(frame)  # it shows what the lock has written
        planes = coloured_proxy(doc, shot, rgb) if rgb is not None else self._pictures.of_shot(shot, frame)
        width, _ = fitted(wanted.master.width, wanted.master.height, wanted.size)
        given = Given(doc, frame, lambda: planes, None, self._pictures)
        return image_of(compose.frame(doc, wanted.master, frame, given, width / wanted.master.width).rgb())

    def _let_go(self) -> None:
        if self._pictures is not None:
            self._pictures.close()
        if self._reader is not None:
            self._reader.close()
