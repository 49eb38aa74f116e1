"""The cuts stage: each cut as a pair of pictures, with what lies around it."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from ezvar.app import theme
from ezvar.app.pictures import Kept, Stills
from ezvar.app.session import Session
from ezvar.app.widgets.parts import label, rule
from ezvar.core.model import Shot

from .base import Stage

_AROUND = 5  # frames shown to either side


class CutView(QWidget):
    """The last picture before the cut and the first after it; below, frame by frame, how much each differs."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.stills: Stills | None = None
        self._kept = Kept(300)
        self.setAccessibleName("The pictures around the cut")
        self.setMinimumSize(360, 300)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), theme.WELL)
        shot = self.session.shot
        if shot is None:
            return
        painter.setFont(theme.sans(13))
        painter.setPen(theme.WELL_SOFT)
        if shot.start == 0:
            painter.drawText(
                self.rect(), Qt.AlignmentFlag.AlignCenter, "The lock begins here. Choose a cut at the left, or press N."
            )
            return
        painter.drawText(QRectF(18, 6, 400, 24), Qt.AlignmentFlag.AlignVCenter, "is this a cut?")
        width = (self.width() - 40) / 2
        lock = self.session.document.lock
        height = min(width * lock.height / lock.width, self.height() - 250)
        place = self.session.document.place_of(shot.id)
        for k, frame in enumerate((shot.start - 1, shot.start)):
            box = QRectF(18 + k * (width + 4), 34, width, height)
            self._picture(painter, box, frame)
            words = f"last frame of shot {place}" if k == 0 else f"first frame of shot {place + 1}"
            side = Qt.AlignmentFlag.AlignLeft if k == 0 else Qt.AlignmentFlag.AlignRight
            painter.setPen(theme.WELL_SOFT)
            painter.setFont(theme.sans(12))
            painter.drawText(
                QRectF(box.left(), box.bottom() + 4, width, 22),
                side | Qt.AlignmentFlag.AlignVCenter,
                f"{words}   {self.session.timecode(frame)}",
            )
        self._row(painter, 34 + height + 54, shot)

    def _picture(self, painter: QPainter, box: QRectF, frame: int) -> None:
        image = self.stills.get(frame) if self.stills else None
        painter.fillRect(box, QColor("#232525"))
        if image is not None:
            size = image.size().scaled(box.size().toSize(), Qt.AspectRatioMode.KeepAspectRatio)
            at = QPointF(box.center().x() - size.width() / 2, box.center().y() - size.height() / 2)
            painter.drawPixmap(at, self._kept.scaled(image, size, self.devicePixelRatioF()))

    def _row(self, painter: QPainter, top: float, shot: Shot) -> None:
        """Frame by frame, with a stem for each as high as it differs from the one before."""
        frames = range(shot.start - _AROUND - 1, shot.start + _AROUND)
        each = (self.width() - 36) / len(frames)
        painter.setFont(theme.sans(12))
        painter.setPen(theme.WELL_SOFT)
        painter.drawText(
            QRectF(18, top - 24, self.width(), 20),
            Qt.AlignmentFlag.AlignVCenter,
            "frame by frame around it, and how much each differs from the one before",
        )
        high, base = each * 9 / 16 - 2, top + each * 9 / 16 + 86
        analysis = self.session.analysis
        change = analysis.signals.change if analysis else None
        inside = [n for n in frames if 0 <= n < self.session.document.lock.frames]
        most = max((float(change[n]) for n in inside), default=1.0) if change is not None else 1.0
        painter.fillRect(QRectF(18, base, self.width() - 36, 1), theme.WELL_LINE)
        for k, frame in enumerate(frames):
            if frame not in inside:
                continue
            box = QRectF(18 + k * each, top, each - 3, high)
            self._picture(painter, box, frame)
            beside = frame in (shot.start - 1, shot.start)
            if beside:
                painter.setPen(QPen(QColor("#f0b64d"), 2))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(box)
            if change is not None:
                x, y = box.center().x(), base - 70 * float(change[frame]) / max(most, 4.0)
                colour = QColor("#f0b64d") if frame == shot.start else theme.WELL_SOFT
                painter.setPen(QPen(colour, 2))
                painter.drawLine(QPointF(x, base), QPointF(x, y))
                painter.setBrush(colour)
                painter.drawEllipse(QPointF(x, y), 4.5, 4.5)


class CutsStage(Stage):
    """Settling the cuts."""

    name = "Cuts"

    def __init__(self, session: Session, run: Callable[[str], object]) -> None:
        super().__init__(session, run)
        self.middle = self.view = CutView(session)
        self._title = label("", "title")
        self._what = label("", "soft")
        self._doubt = label("", "doubt")
        self._buttons = [
            self.button("cuts.keep", main=True),
            self.button("cuts.remove"),
            self.button("cuts.earlier", title="One frame earlier"),
            self.button("cuts.later", title="One frame later"),
        ]
        self.card.add(self._title, self._what, self._doubt, *self._buttons, rule())
        self._here = label("", "soft")
        self.card.add(self._here, self.button("cuts.add"), self.button("cuts.find"))
        self.card.column.addStretch(1)

    def set_stills(self, stills: Stills | None) -> None:
        self.view.stills = stills
        if stills is not None:
            stills.arrived.connect(lambda *_: self.view.update())

    def refresh(self) -> None:
        self.view.update()
        session, shot = self.session, self.session.shot
        cut = shot.cut if shot is not None else None
        there = shot is not None and shot.start > 0
        for button in self._buttons:
            button.setEnabled(there)
        self._doubt.setVisible(False)
        if session.doc is None or shot is None:
            self._title.setText("No lock yet")
            self._what.setText("Open a movie in the lock stage.")
            self._here.setText("")
            return
        self._here.setText(f"The playhead stands at {session.timecode(session.frame)}.")
        if not there:
            self._title.setText("The first shot")
            self._what.setText(f"It begins the lock. {len(session.doc.shots) - 1} cuts were found.")
            return
        place = session.document.place_of(shot.id)
        self._title.setText(f"Cut at {session.timecode(shot.start)}")
        if cut is None or cut.settled:
            self._what.setText(f"Between shots {place} and {place + 1}, settled.")
            return
        self._what.setText(f"A hard cut between shots {place} and {place + 1}, strength {cut.strength:.2f}.")
        if session.cut_needs_a_look(shot):
            self._doubt.setText(f"Doubt {cut.doubt:.0f}. {cut.why}")
            self._doubt.setVisible(True)
