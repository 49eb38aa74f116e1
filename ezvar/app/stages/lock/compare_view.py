"""The lock's picture and the reference's, side by side."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QImage, QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from ezvar.app.background.desk import Desk
from ezvar.app.kit import theme
from ezvar.app.viewer.pictures import fitted, image_of
from ezvar.core.lock import LockReader
from ezvar.core.media import MovieReader
from ezvar.core.progress import CancelToken, Progress

_SIZE = QSize(480, 480)


class CompareView(QWidget):
    """Shows one lock frame twice: as the timeline makes it, and as the reference movie has it."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk, self.session = desk, desk.session
        self.setMinimumSize(360, 200)
        self.setAccessibleName("The lock and the reference side by side")
        self._images: tuple[QImage, QImage] | None = None
        self._frame = 0
        self.what = ""

    def show_frame(self, frame: int, what: str) -> None:
        """Fetch both pictures of a lock frame, on a thread."""
        doc, reference = self.session.project.document, self.desk.lock_work.reference
        self._frame, self._images, self.what = frame, None, what
        self.update()

        def work(progress: Progress, cancel: CancelToken) -> tuple[int, QImage, QImage]:
            with LockReader(doc) as lock, MovieReader(reference) as flat:
                ours = lock.frame(frame)
                theirs = flat.frame(min(frame, flat.facts.frames - 1))
                a, b = (image_of(p.rgb(*fitted(p.width, p.height, _SIZE))) for p in (ours, theirs))
            return frame, a, b

        def done(found: tuple[int, QImage, QImage]) -> None:
            if found[0] == self._frame:
                self._images = found[1:]
                self.update()

        self.session.jobs.start("Reading both pictures", work, done, self.session.messages.say_problem)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), theme.WELL)
        painter.setFont(theme.sans(13))
        painter.setPen(theme.WELL_SOFT)
        painter.drawText(QRectF(16, 4, self.width() - 32, 26), Qt.AlignmentFlag.AlignVCenter, self.what)
        each = (self.width() - 36) / 2
        for k, words in enumerate(("the lock", "the reference")):
            left = 16 + k * (each + 4)
            high = min(self.height() - 66, each * 9 / 16)
            box = QRectF(left, 34, each, high)
            if self._images is not None:
                size = self._images[k].size().scaled(box.size().toSize(), Qt.AspectRatioMode.KeepAspectRatio)
                at = QRectF(box.center().x() - size.width() / 2, box.top(), size.width(), size.height())
                painter.drawImage(at, self._images[k])
            where = QRectF(left, 34 + high + 2, each, 24)
            painter.drawText(
                where, Qt.AlignmentFlag.AlignVCenter, f"{words}   {self.session.readings.timecode(self._frame)}"
            )
