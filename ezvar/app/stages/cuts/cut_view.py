"""The view of a cut: it is shown as a pair of pictures, with what lies around it."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from ezvar.app.kit import theme
from ezvar.app.session.session import Session
from ezvar.app.viewer.pictures import Kept, Stills
from ezvar.core.model import CutPlace

_AROUND = 5  # frames shown to either side
_AMBER = QColor("#f0b64d")
_BAND = QColor("#3f5a60")


class CutView(QWidget):
    """The last picture before the cut and the first after it; below, frame by frame, how much each differs."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.stills: Stills | None = None
        self._kept = Kept(session.memory)
        self._next: list[tuple[QRectF, int]] = []
        self.setAccessibleName("The pictures around the cut")
        self.setMinimumSize(360, 300)

    def set_stills(self, stills: Stills | None) -> None:
        """Draw the pictures of another lock."""
        self.stills = stills
        self._kept.clear()
        if stills is not None:
            stills.arrived.connect(lambda *_: self.update())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), theme.WELL)
        self._next = []
        place = self.session.readings.cut_place
        painter.setPen(theme.WELL_SOFT)
        painter.setFont(theme.sans(13))
        if place is None:
            words = "Open a lock to see its cuts."
            if self.session.project.doc is not None:
                words = "The lock begins here. Choose a cut at the left, or press N."
            painter.drawText(QRectF(self.rect()), Qt.AlignmentFlag.AlignCenter, words)
            return
        painter.drawText(QRectF(18, 6, 500, 24), Qt.AlignmentFlag.AlignVCenter, _question(place))
        foot = self._pair(painter, place)
        foot = self._row(painter, foot + 50, place)
        self._others(painter, foot + 18)

    def _pair(self, painter: QPainter, place: CutPlace) -> float:
        width = (self.width() - 40) / 2
        lock, mix = self.session.project.document.lock, place.cut.end > place.cut.start
        height = min(width * lock.height / lock.width, self.height() - 300)
        ends = (place.cut.start - 1, place.cut.end) if mix else (place.frame - 1, place.frame)
        words = ("last frame before", "first frame after") if mix else ("last frame before", "first frame")
        for k, frame in enumerate(ends):
            box = QRectF(18 + k * (width + 4), 34, width, height)
            self._picture(painter, box, frame)
            side = Qt.AlignmentFlag.AlignLeft if k == 0 else Qt.AlignmentFlag.AlignRight
            painter.setPen(theme.WELL_SOFT)
            painter.setFont(theme.sans(12))
            where = QRectF(box.left(), box.bottom() + 4, width, 22)
            said = f"{words[k]}   {self.session.readings.timecode(max(0, frame))}"
            painter.drawText(where, side | Qt.AlignmentFlag.AlignVCenter, said)
        return 34 + height

    def _picture(self, painter: QPainter, box: QRectF, frame: int) -> None:
        inside = 0 <= frame < self.session.project.document.lock.frames
        image = self.stills.get(frame) if self.stills and inside else None
        painter.fillRect(box, theme.WELL_EMPTY)
        if image is not None:
            size = image.size().scaled(box.size().toSize(), Qt.AspectRatioMode.KeepAspectRatio)
            at = QPointF(box.center().x() - size.width() / 2, box.center().y() - size.height() / 2)
            painter.drawPixmap(at, self._kept.scaled(image, size, self.devicePixelRatioF()))

    def _row(self, painter: QPainter, top: float, place: CutPlace) -> float:
        """Frame by frame, with a stem for each as high as it differs, over the band of what is to be expected."""
        step = max(1, round((place.cut.end - place.cut.start) / (2 * _AROUND - 4)))
        frames = [place.frame + k * step for k in range(-_AROUND - 1, _AROUND)]
        each = (self.width() - 36) / len(frames)
        painter.setFont(theme.sans(12))
        painter.setPen(theme.WELL_SOFT)
        every = "frame by frame" if step == 1 else f"every {step} frames"
        said = f"{every} around it, and how much each differs from the one before"
        line = QRectF(18, top - 24, self.width() - 36, 20)
        painter.drawText(line, Qt.AlignmentFlag.AlignVCenter, said)
        swatch = QRectF(18 + painter.fontMetrics().horizontalAdvance(said) + 16, top - 19, 14, 10)
        painter.fillRect(swatch, _BAND)
        painter.setPen(QColor("#9cc3cc"))
        painter.drawText(
            QRectF(swatch.right() + 6, top - 24, 200, 20), Qt.AlignmentFlag.AlignVCenter, "to be expected here"
        )
        high = each * 9 / 16 - 2
        tall = max(40.0, min(110.0, self.height() - top - high - 140))
        base = top + high + tall + 14
        inside = [n for n in frames if 0 <= n < self.session.project.document.lock.frames]
        self._stems(painter, {n: 18 + (frames.index(n) + 0.5) * each for n in inside}, place, base, tall)
        for k, frame in enumerate(frames):
            box = QRectF(18 + k * each, top, each - 3, high)
            self._picture(painter, box, frame)
            if _belongs(place, frame, step):
                painter.setPen(QPen(_AMBER, 2))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(box)
        return base

    def _stems(self, painter: QPainter, middles: dict[int, float], place: CutPlace, base: float, high: float) -> None:
        analysis = self.session.media.analysis
        painter.fillRect(QRectF(18, base, self.width() - 36, 1), theme.WELL_LINE)
        if analysis is None or not middles:
            return
        first = min(middles)
        change, usual = analysis.changes(first, max(middles) + 1)
        most = max(4.0, float(change.max()), float(usual.max()))
        band = QPainterPath(QPointF(min(middles.values()), base))
        for n, x in middles.items():
            band.lineTo(x, base - high * usual[n - first] / most)
        band.lineTo(max(middles.values()), base)
        painter.fillPath(band, _BAND)
        for n, x in middles.items():
            y = base - high * float(change[n - first]) / most
            colour = _AMBER if n == place.frame else theme.WELL_SOFT
            painter.setPen(QPen(colour, 2))
            painter.drawLine(QPointF(x, base), QPointF(x, y))
            painter.setBrush(colour)
            painter.drawEllipse(QPointF(x, y), 4.0, 4.0)

    def _others(self, painter: QPainter, top: float) -> None:
        """The next places that wait, each as a small pair, to be clicked."""
        session = self.session
        present = session.readings.cut_place
        waiting = [p for p in session.readings.cut_places if p.waits and p != present]
        after = [p for p in waiting if present is None or p.frame > present.frame]
        chosen = [*after, *(p for p in waiting if p not in after)][:3]
        room = self.height() - top - 26
        if not chosen or room < 40:
            return
        painter.fillRect(QRectF(18, top - 8, self.width() - 36, 1), theme.WELL_LINE)
        each = (self.width() - 36 - 28) / 3
        lock = session.project.document.lock
        high = min(room, (each / 2 - 1) * lock.height / lock.width)
        for k, place in enumerate(chosen):
            left = 18 + k * (each + 14)
            for side, frame in enumerate((place.cut.start - 1, place.cut.end)):
                self._picture(painter, QRectF(left + side * each / 2, top, each / 2 - 2, high), frame)
            painter.setPen(theme.WELL_SOFT)
            painter.setFont(theme.sans(12))
            said = f"{session.readings.timecode(place.frame)}   {place.cut.kind}, {place.cut.doubt:.0f}"
            painter.drawText(QRectF(left, top + high + 3, each, 20), Qt.AlignmentFlag.AlignVCenter, said)
            self._next.append((QRectF(left, top, each, high + 22), place.frame))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            for box, frame in self._next:
                if box.contains(event.position()):
                    self.session.at.go(frame)
                    return


def _question(place: CutPlace) -> str:
    kind = {"cut": "a cut", "dissolve": "a dissolve", "fade": "a fade", "wipe": "a wipe"}[place.cut.kind]
    if place.cut.settled:
        return "settled"
    return f"is this {kind}?" if place.shot else f"passed over: is this {kind} after all?"


def _belongs(place: CutPlace, frame: int, step: int) -> bool:
    """Whether a frame of the row is one of the pair, or lies in the mix."""
    if place.cut.end > place.cut.start:
        return place.cut.start <= frame < place.cut.end
    return frame in (place.frame - 1, place.frame)
