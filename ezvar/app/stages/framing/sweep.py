"""The sweep chart: time to the right, the picture's width upwards, the window as a band over a slit scan."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QRectF, QSize, Qt, QTimer
from PyQt6.QtGui import QImage, QMouseEvent, QPainter, QPaintEvent, QPixmap, QWheelEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from ezvar.app.background.desk import Desk
from ezvar.app.kit import theme
from ezvar.app.session.jobs import Job
from ezvar.app.viewer.pictures import image_of
from ezvar.core.framing import band, framed, pane_picture_size, picture_size
from ezvar.core.lock import sweep_task
from ezvar.core.model import Pane, Shot

from . import chart_drawing as drawing
from .chart_hands import ChartHands
from .chart_places import FOOT, LEFT, RIGHT, TOP, Chart, Span

_WHEEL = 1.25


class SweepChart(QWidget):
    """One shot's window path against what moves in it.

    Dragging the band shifts the path and dragging a bead moves a keyframe; a
    double click sets one, a drag with Alt bends the curve, one with Shift
    chooses beads; a click elsewhere seeks.
    """

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        session = desk.session
        self.desk, self.session = desk, desk.session
        self.span = Span()
        self.snapping = True
        self.snaps = {"cuts", "keyframes", "playhead"}
        """What moved keyframes snap to while snapping is on."""
        self.other_way = False
        """Whether the chart shows the direction in which the window moves least."""
        self.box: QRectF | None = None
        self.setMinimumHeight(150)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)  # what lies beneath is not painted first
        self.setAccessibleName("Sweep chart of the shot")
        self._hands = ChartHands(self, desk)
        self._scans: dict[tuple[int, int, bool], QImage] = {}
        self._job: Job | None = None
        self._asked: tuple[int, int, bool] | None = None
        self._shot = ""
        self._behind, self._drawn = _Layers(), _Layers()
        self._rest = QTimer(self)  # a shot that is only passed by is not scanned
        self._rest.setSingleShot(True)
        self._rest.setInterval(180)
        self._rest.timeout.connect(self._scan)
        session.at.frame_changed.connect(lambda _: self._move_playhead())
        desk.exchange.differs_changed.connect(self.update)
        self._playhead = 0
        session.project.changed.connect(self._changed)
        session.at.shot_changed.connect(self._changed)
        session.at.master_changed.connect(self._changed)
        session.at.pane_changed.connect(self._changed)
        desk.of_shot.ready.connect(self.update)
        self._just_opened = False
        session.files.opened.connect(self._opened)

    def _opened(self) -> None:
        self._scans.clear()
        self._just_opened = True

    def sizeHint(self) -> QSize:
        return QSize(600, 208)

    @property
    def along_y(self) -> bool:
        """Whether the chart shows height: where the window moves up and down, or where the other way is asked for."""
        shot, master = self.session.at.shot, self.session.at.master
        if shot is None or master is None:
            return False
        tall = master.width / master.height > picture_size(self.session.project.document, shot).aspect
        return tall != self.other_way

    @property
    def chart(self) -> Chart | None:
        """The chart of the present shot."""
        shot = self.session.at.shot
        if shot is None:
            return None
        left, top = theme.px(LEFT), theme.px(TOP)
        area = QRectF(left, top, max(10, self.width() - left - RIGHT), max(10, self.height() - top - FOOT))
        return Chart(area, shot.frames, self.along_y, self.span)

    def _move_playhead(self) -> None:
        """Draw again only where the playhead was and where it is."""
        chart, shot = self.chart, self.session.at.shot
        if chart is None or shot is None:
            self.update()
            return
        was, self._playhead = self._playhead, round(chart.x(self.session.at.frame - shot.start))
        for x in (was, self._playhead):
            self.update(x - 4, 0, 9, self.height())

    # The view

    def zoom_by(self, factor: float, at: float | None = None) -> None:
        """Closer in time by a factor, about a part of what is shown (0..1), the playhead where none is given."""
        chart, shot = self.chart, self.session.at.shot
        if chart is None or shot is None:
            return
        if at is None:
            at = (chart.x(self.session.at.frame - shot.start) - chart.area.left()) / chart.area.width()
        self.span = self.span.closer(factor, min(1.0, max(0.0, at)))
        self.update()

    def turn_snapping(self) -> None:
        self.snapping = not self.snapping
        self.session.messages.say(f"Snapping is {'on' if self.snapping else 'off'}.")

    def turn_snap(self, kind: str) -> None:
        """Let keyframes snap to one kind of thing, or no more."""
        self.snaps ^= {kind}
        self.session.messages.say(f"Keyframes snap to {', '.join(sorted(self.snaps)) or 'nothing'}.")

    def turn_height(self) -> None:
        self.other_way = not self.other_way
        self._changed()

    def _changed(self) -> None:
        shot = self.session.at.shot
        if shot is not None and shot.id != self._shot:
            self._shot, self.span = shot.id, Span()
        self._rest.start()
        self.update()

    # The slit scan

    def _key(self, shot: Shot) -> tuple[int, int, bool]:
        return shot.start, shot.end, self.along_y

    def _scan(self) -> None:
        """Have the slit scan of the present shot made, unless it is there or on its way."""
        session, shot = self.session, self.session.at.shot
        if shot is None or session.media.reader is None or not self.isVisible():
            return
        key, task = self._key(shot), sweep_task(session.project.document, *self._key(shot))
        if key in self._scans or key == self._asked:
            return
        session.jobs.stop(self._job)
        self._asked = key

        def done(rgb: np.ndarray) -> None:
            self._scans[key] = image_of(rgb)
            if len(self._scans) > 400:
                self._scans.pop(next(iter(self._scans)))
            self._asked = None
            self.update()

        self._job = session.jobs.run(
            "Drawing the sweep chart", lambda: task, session.around, done, session.messages.say_problem
        )

    def showEvent(self, event: object) -> None:
        self._scan()

    # Drawing

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        session, shot, chart = self.session, self.session.at.shot, self.chart
        if shot is None or chart is None or self._just_opened:
            painter.fillRect(self.rect(), theme.WELL)
            if self._just_opened:  # all else is drawn for the first time in this turn
                self._just_opened = False
                QTimer.singleShot(0, self.update)
            return
        painter.drawPixmap(0, 0, self._still_part(chart, shot))
        drawing.stretch(painter, chart, self.desk.framing_work.stretch)
        drawing.playhead(painter, chart, session.at.frame - shot.start)
        if self.box is not None:
            drawing.choosing(painter, self.box)
        if self.hasFocus():
            painter.setPen(theme.ACCENT_ON_WELL)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(self.rect()).adjusted(1.5, 1.5, -1.5, -1.5))

    def _still_part(self, chart: Chart, shot: Shot) -> QPixmap:
        """All that stays as it is while the playhead moves, drawn once: what lies behind the active band, and on it
        the band."""
        session, work, known = self.session, self.desk.framing_work, self.desk.of_shot.known
        scan = self._scans.get(self._key(shot))
        others = tuple(
            session.project.document.framing(shot.id, m.id)
            for m in session.project.document.masters
            if m.id != session.at.master_id
        )
        behind = (
            chart, shot, scan.cacheKey() if scan else 0, others, session.at.master_id, known.subjects, known.ghost,
            self.size(), self.devicePixelRatioF(),
        )  # fmt: skip
        below = self._behind.get(behind, lambda: self._layer(None, lambda p: self._draw_behind(p, chart, shot, scan)))
        key = (
            behind,
            session.at.framing,
            self.desk.exchange.theirs,
            known.lost,
            work.chosen_keys,
            session.at.pane_number,
            self.snapping,
        )
        return self._drawn.get(key, lambda: self._layer(below, lambda p: self._draw_path(p, chart, shot)))

    def _layer(self, below: QPixmap | None, draw: Callable[[QPainter], None]) -> QPixmap:
        """A picture of the whole chart, drawn over another."""
        ratio = self.devicePixelRatioF()
        pixmap = QPixmap(self.size() * ratio) if below is None else QPixmap(below)
        if below is None:
            pixmap.setDevicePixelRatio(ratio)
            pixmap.fill(theme.WELL)
        painter = QPainter(pixmap)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        draw(painter)
        painter.end()
        return pixmap

    def _draw_behind(self, painter: QPainter, chart: Chart, shot: Shot, scan: QImage | None) -> None:
        """The slit scan, the other masters' bands, the subjects, and the solved path behind one by hand."""
        painter.fillRect(0, 0, self.width(), 1, theme.WELL_LINE)
        drawing.ground(painter, chart, scan)
        session = self.session
        doc, active, known = session.project.document, session.at.master, self.desk.of_shot.known
        painter.setClipRect(chart.area.adjusted(-8, -2, 8, 2))
        frames = chart.samples()
        for place, master in enumerate(doc.masters):
            if active is not None and master.id != active.id:
                pane = framed(doc, shot, master).panes[0]
                reach = band(pane, master, pane_picture_size(doc, shot, pane), frames)
                drawing.faint_band(painter, chart, frames, reach, theme.line_of(place))
        drawing.subjects(painter, chart, shot.start, frames, known.subjects)
        if active is not None and known.ghost is not None:
            reach = band(known.ghost, active, pane_picture_size(doc, shot, known.ghost), frames)
            drawing.ghost(painter, chart, frames, reach, theme.line_of(doc.masters.index(active)))

    def _draw_path(self, painter: QPainter, chart: Chart, shot: Shot) -> None:
        """The active band with its beads, and the other panes' edges."""
        session, work = self.session, self.desk.framing_work
        doc, active, framing, lost = (
            session.project.document,
            session.at.master,
            session.at.framing,
            self.desk.of_shot.known.lost,
        )
        drawing.words(painter, chart, doc.place_of(shot.id) + 1, lost, self.snapping)
        if active is None or framing is None:
            return
        painter.setClipRect(chart.area.adjusted(-8, -2, 8, 2))
        frames, line = chart.samples(), theme.line_of(doc.masters.index(active))
        for number, pane in enumerate(framing.panes):
            reach = band(pane, active, pane_picture_size(doc, shot, pane), frames)
            if number != session.at.pane_number:
                drawing.faint_band(painter, chart, frames, reach, line)
                continue
            drawing.filled_band(painter, chart, frames, reach, line)
            drawing.lost(painter, chart, frames, reach, lost)
            drawing.beads(painter, chart, self.beads(pane), work.chosen_keys, line)
        returned = self.desk.exchange.theirs
        for pane in returned.panes if returned is not None else ():
            drawing.theirs(painter, chart, frames, band(pane, active, pane_picture_size(doc, shot, pane), frames))

    def beads(self, pane: Pane) -> list[tuple[int, float]]:
        """The keyframes of a pane as frames of the shot and the middles of their windows; none for one that rests
        as solved."""
        shot, master, chart = self.session.at.shot, self.session.at.master, self.chart
        if shot is None or master is None or chart is None or (len(pane.keys) < 2 and not pane.by_hand):
            return []
        frames = [k.frame for k in pane.keys]
        size = pane_picture_size(self.session.project.document, shot, pane)

        low, high = chart.axis(band(pane, master, size, np.array(frames)))
        return [(f, float(a + b) / 2) for f, a, b in zip(frames, low, high, strict=True)]

    # The mouse

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self._hands.press(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self._hands.move(event)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self._hands.release(event)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self._hands.double_click(event)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        chart = self.chart
        if event is None or chart is None:
            return
        turns = event.angleDelta().y() / 120
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom_by(_WHEEL**turns, (event.position().x() - chart.area.left()) / chart.area.width())
        else:
            self.span = self.span.moved(-turns * self.span.length / 8)
            self.update()


class _Layers:
    """Drawings of the last few charts by what they show, so that a playhead that goes to and fro finds them again."""

    _MOST = 12

    def __init__(self) -> None:
        self._made: list[tuple[tuple[object, ...], QPixmap]] = []

    def get(self, key: tuple[object, ...], make: Callable[[], QPixmap]) -> QPixmap:
        found = next((made for made in self._made if made[0] == key), None)
        if found is None:
            found = key, make()
        else:
            self._made.remove(found)
        self._made = [found, *self._made[: self._MOST - 1]]
        return found[1]
