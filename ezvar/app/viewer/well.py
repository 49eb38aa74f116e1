"""The well: the picture with the windows on it, and beside it every master as it will look."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import islice

from PyQt6.QtCore import QEvent, QPointF, QRect, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPolygonF,
    QResizeEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QSizePolicy, QWidget

from ezvar.app.background.desk import Desk
from ezvar.app.kit import theme
from ezvar.app.session.jobs import later
from ezvar.app.session.project_files import Beginning
from ezvar.core import edits
from ezvar.core.framing import (
    Place,
    Size,
    Window,
    enlargement,
    followed,
    framed,
    pane_shot,
    pane_window,
    picture_size,
)
from ezvar.core.model import Document, Master

from . import well_drawing as drawing
from .pictures import Result, View, Viewer, image_of
from .well_hands import WellHands
from .well_places import SIDE, Look, Places, lay_out, screen_size

Shown = tuple[str, Document, Master]
"""A result beside the picture: what it is called, and the document and master that it is made of."""

_MOST = QSize(3840, 2160)
_WHEEL = 1.2


class Well(QWidget):
    """Shows the frame at the playhead. With ``windows`` the active window is moved, sized and turned here.

    What the mouse and keys do is in ``hands``.
    """

    picture_shown = pyqtSignal(int)

    def __init__(self, desk: Desk, windows: bool = True) -> None:
        super().__init__()
        session = desk.session
        self.desk, self.session = desk, desk.session
        self.viewer: Viewer | None = None
        self.windows = windows
        self.look = Look()
        self.guides = False
        self.wipe: float | None = None  # of the picture's width
        self.enlarged: int | None = None
        self.versions = False
        self.box: QRectF | None = None
        """The box that is being drawn around a subject, in fractions of the picture."""
        self.setMinimumSize(360, 200)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)  # what lies beneath is not painted first
        self.setAccessibleName("Picture with crop windows")
        self._image: QImage | None = None
        self._results: tuple[QImage | None, ...] = ()
        self._error = ""
        self._beginning: tuple[str, QImage] | None = None
        self.hands = WellHands(self, desk)
        session.at.frame_changed.connect(lambda _: self.ask(moved=True))
        session.project.changed.connect(lambda: self.ask())
        session.at.master_changed.connect(lambda: self.ask())
        session.at.pane_changed.connect(lambda: self.ask())
        desk.of_shot.ready.connect(self.update)
        later(session.files.beginning, self._show_beginning)

    def set_viewer(self, viewer: Viewer | None) -> None:
        self.viewer = viewer
        self._image, self._results = None, ()
        self._error = ""
        if viewer is not None:
            later(viewer.shown, self._show)
            later(viewer.failed, self._fail)
        self.ask()

    # What is shown

    def shown(self) -> list[Shown]:
        """The results beside the picture, the active one first: all masters, or the versions of the active one."""
        doc, master, shot = self.session.project.doc, self.session.at.master, self.session.at.shot
        if not self.windows or doc is None or master is None or shot is None:
            return []
        framing = doc.framing(shot.id, master.id)
        if self.versions and framing is not None and framing.held:
            made = [("this version", doc, master)]
            for k in range(len(framing.held)):
                made.append((f"version {k + 2}", edits.swap_held(doc, shot.id, master.id, k), master))
            return made
        others = [m for m in doc.masters if m.id != master.id]
        return [(m.name, doc, m) for m in (master, *others)]

    def places(self, shown: Sequence[Shown] | None = None) -> Places:
        """Where the picture and the results stand now; ``shown`` are these, where they are known already."""
        doc, shot = self.session.project.doc, self.session.at.shot
        aspect = picture_size(doc, shot).aspect if doc is not None and shot is not None else 16 / 9
        masters = [m for _, _, m in (self.shown() if shown is None else shown)]
        shapes = [m.width / m.height for m in masters]
        alike = self.versions and len({id(m) for m in masters}) == 1 < len(shapes)
        return lay_out(QRectF(self.rect()), aspect, shapes, self.look, self.enlarged, alike)

    def ask(self, *, moved: bool = False) -> None:
        """Have the frame at the playhead made at the present sizes.

        Where only the playhead has ``moved`` and a picture comes at once, the
        well is drawn when it is there, once.
        """
        session = self.session
        if self.viewer is None or session.project.doc is None or not self.isVisible():
            self.update()
            return
        ratio, shown = self.devicePixelRatioF(), self.shown()
        places = self.places(shown)
        results = tuple(
            Result(doc, master, screen_size(box, ratio, _MOST))
            for (_, doc, master), box in zip(shown, places.results, strict=True)
        )
        self.viewer.view = View(
            screen_size(places.picture, ratio, _MOST), session.project.doc, results, session.at.playing
        )
        self.viewer.request(session.at.frame)
        if not (moved and session.media.proxy is not None and session.media.proxy.ready):
            self.update()

    def _show(self, frame: int, image: QImage, results: tuple[QImage | None, ...]) -> None:
        self._image, self._results, self._error = image, results, ""
        self.update()
        self.picture_shown.emit(frame)

    def _show_beginning(self, found: Beginning | None) -> None:
        """Show the first picture of a movie that is being read through, in place of what is open."""
        self._beginning = None if found is None else (found.name, image_of(found.picture))
        self.update()

    def _fail(self, message: str) -> None:
        self._error = message
        self.update()

    # The view

    def zoom_by(self, factor: float, at: QPointF | None = None) -> None:
        self.look = self.look.closer(factor, self.places().home, at)
        self.ask()

    def fit(self) -> None:
        self.look, self.enlarged = Look(), None
        self.ask()

    def turn_guides(self) -> None:
        self.guides = not self.guides
        self.update()

    def turn_wipe(self) -> None:
        self.wipe = 0.5 if self.wipe is None else None
        self.update()

    def enlarge_next(self) -> None:
        """Let the next result take the whole well, and after the last the picture come back."""
        count = len(self.shown())
        at = 0 if self.enlarged is None else self.enlarged + 1
        self.enlarged = at if at < count else None
        self.ask()

    def show_versions(self) -> None:
        """Show the versions of the present framing in place of the other masters, or these again."""
        self.versions = not self.versions
        self.ask()

    # The active windows

    def active(self) -> dict[int, tuple[Window, Size]]:
        """The windows of the present framing's panes that show this shot, by the panes' numbers, with its size."""
        session = self.session
        shot, master, framing = session.at.shot, session.at.master, session.at.framing
        if shot is None or master is None or framing is None:
            return {}
        doc, size = session.project.document, picture_size(session.project.document, shot)
        return {
            number: (pane_window(pane, master, size, session.at.frame - shot.start), size)
            for number, pane in enumerate(framing.panes)
            if pane_shot(doc, shot, pane) is shot
        }

    # Drawing

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), theme.WELL)
        session = self.session
        if self._beginning is not None:
            drawing.beginning(painter, QRectF(self.rect()), *self._beginning)
            return
        if session.project.doc is None:
            return
        shown, active = self.shown(), self.active()
        places = self.places(shown)
        painter.save()
        painter.setClipRect(places.area.adjusted(-3, -3, 3, 3))
        if self._image is not None and not places.picture.isEmpty():
            drawing.place_image(painter, self._image, places.picture)
        else:
            painter.fillRect(places.picture, theme.WELL_EMPTY)
        if self._error:
            painter.setPen(theme.WELL_INK)
            painter.setFont(theme.sans(13))
            painter.drawText(places.picture, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self._error)
        if self.windows and session.at.shot is not None and not places.picture.isEmpty():
            self._draw_windows(painter, places, active)
        if self.box is not None:
            painter.setPen(theme.line_of(0).pen(2))
            painter.setBrush(QColor(255, 255, 255, 30))
            painter.drawRect(drawing.scaled(self.box, places.picture))
        painter.restore()
        self._draw_results(painter, places, shown)
        self._draw_words(painter, places, self._reaches_out(places, active))
        if self.hasFocus():
            painter.setPen(theme.ACCENT_ON_WELL)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(self.rect()).adjusted(1.5, 1.5, -1.5, -1.5))

    def _draw_windows(self, painter: QPainter, places: Places, active: Mapping[int, tuple[Window, Size]]) -> None:
        session = self.session
        doc, shot = session.project.document, session.at.shot
        assert shot is not None
        named, size = [], picture_size(doc, shot)
        for place, master in enumerate(doc.masters):
            if master.id == session.at.master_id:
                continue
            own = (p for p in framed(doc, shot, master).panes if pane_shot(doc, shot, p) is shot)
            for pane in islice(own, 1):
                window = pane_window(pane, master, size, session.at.frame - shot.start)
                shape = places.on_screen(window.corners(), (size.width, size.height))
                drawing.outline(painter, shape, theme.line_of(place), 1.6)
                named.append((shape.boundingRect().topLeft(), master.name, theme.line_of(place).on_well))
        outlines = {k: places.on_screen(w.corners(), (s.width, s.height)) for k, (w, s) in active.items()}
        first = next(iter(outlines.values()), None)
        if first is not None:
            drawing.dim_outside(painter, places, list(outlines.values()))
            if self.wipe is not None:
                self._draw_wipe(painter, places, first)
        line = theme.line_of(next((k for k, m in enumerate(doc.masters) if m.id == session.at.master_id), 0))
        for k, shape in outlines.items():
            drawing.outline(painter, shape, line, 3 if k == session.at.pane_number or len(outlines) == 1 else 1.8)
        if not session.at.playing:  # playing shows the picture
            self._draw_subjects(painter, places)
        if first is not None and session.at.master is not None:
            if self.guides:
                drawing.guides(painter, outlines.get(session.at.pane_number, first))
            if not session.at.playing and session.at.pane_number in active:
                drawing.handles(painter, places, *active[session.at.pane_number], line)
            named.append((first.boundingRect().topLeft(), session.at.master.name, line.on_well))
        drawing.tags(painter, places, reversed(named))

    def _draw_subjects(self, painter: QPainter, places: Places) -> None:
        session = self.session
        place = session.at.place
        if place is None:
            return
        subjects, frame = self.desk.of_shot.subjects, session.at.frame
        chosen = followed(place, subjects, frame - place.shot.start)
        for s in sorted(subjects, key=lambda s: -s.number):
            if s.number <= 9 and s.there_at(frame):
                left, top, right, foot = s.box_at(frame)
                box = drawing.scaled(QRectF(left, top, right - left, foot - top), places.picture)
                drawing.subject(painter, box, s.number, s in chosen or not chosen)

    def _draw_wipe(self, painter: QPainter, places: Places, shape: QPolygonF) -> None:
        """The result in its window's place, to the right of the wipe's line."""
        image = self._results[0] if self._results else None
        if image is None or self.wipe is None:
            return
        at = places.picture.left() + places.picture.width() * self.wipe
        painter.save()
        right = QRectF(at, places.area.top(), places.area.right() - at, places.area.height())
        painter.setClipRect(right.intersected(places.area))
        painter.fillRect(places.picture, theme.WELL)
        painter.drawImage(shape.boundingRect(), image)
        painter.restore()
        painter.setPen(theme.WELL_INK)
        painter.drawLine(QPointF(at, places.area.top()), QPointF(at, places.area.bottom()))

    def _draw_results(self, painter: QPainter, places: Places, shown: Sequence[Shown]) -> None:
        masters = self.session.project.document.masters
        for k, ((name, _, master), box) in enumerate(zip(shown, places.results, strict=True)):
            if box.isEmpty():
                continue
            image = self._results[k] if k < len(self._results) else None
            if image is not None:
                drawing.place_image(painter, image, box)
            else:
                painter.fillRect(box, theme.WELL_EMPTY)
            if k or self.enlarged is not None:
                drawing.caption(painter, box, name, theme.line_of(masters.index(master)).on_well)

    def out_of_sight(self) -> bool:
        """Whether a window that is worked on reaches past what is seen of the picture's surroundings."""
        return self._reaches_out(self.places(), self.active())

    def _reaches_out(self, places: Places, active: Mapping[int, tuple[Window, Size]]) -> bool:
        shapes = (places.on_screen(w.corners(), (s.width, s.height)) for w, s in active.values())
        seen = places.area.adjusted(-8, -8, 8, 8)
        return self.windows and any(not seen.contains(shape.boundingRect()) for shape in shapes)

    def _draw_words(self, painter: QPainter, places: Places, out: bool) -> None:
        session = self.session
        doc, shot, master = session.project.document, session.at.shot, session.at.master
        if shot is None:
            return
        above = QRect(SIDE, 4, self.width() - 2 * SIDE, theme.px(22))
        below = QRect(SIDE, self.height() - theme.px(29), self.width() - 2 * SIDE, theme.px(24))
        left, right = (
            Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter,
            Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
        )
        painter.setFont(theme.sans(12))
        painter.setPen(theme.WELL_SOFT)
        size = picture_size(doc, shot)
        zoom = "" if self.look == Look() else f" · seen at {self.look.zoom:.0%}".replace("%", " %")
        said = f"shot {doc.place_of(shot.id) + 1} · picture {size.width:g}×{size.height:g}{zoom}"
        if self.box is not None:
            said = "Drag a box around the subject, or move it by the arrow keys, + and −; Enter tracks it, Esc leaves."
        painter.drawText(above, left, said)
        if self.windows and master is not None:
            if self.box is None:
                painter.drawText(above, right, f"{master.name} · {master.width}×{master.height}")
            place = Place(doc, shot, master, session.at.pane_number)
            tall = master.height * place.pane.rect.height
            window = place.window(session.at.frame - shot.start)
            said = f"enlarged {enlargement(window, tall):.0%}".replace("%", " %")
            if out:
                said = f"the window reaches out of sight; go farther from the picture to see it · {said}"
            painter.drawText(below, right, said)
        painter.setFont(theme.mono(14))
        painter.setPen(theme.WELL_INK)
        timecode = session.readings.timecode(session.at.frame)
        painter.drawText(below, left, timecode)
        off = painter.fontMetrics().horizontalAdvance(timecode) + 14
        painter.setFont(theme.sans(12))
        painter.setPen(theme.WELL_SOFT)
        painter.drawText(
            below.adjusted(off, 0, 0, 0), left, f"frame {session.at.frame - shot.start + 1} of {shot.frames}"
        )

    # The mouse and the keyboard

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self.hands.press(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self.hands.move(event)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self.hands.release()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom_by(_WHEEL ** (event.angleDelta().y() / 120), event.position())

    def event(self, event: QEvent | None) -> bool:
        """While a box is drawn its keys are not the window's."""
        if event is not None and event.type() == QEvent.Type.ShortcutOverride and self.box is not None:
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and not self.hands.key(event):
            event.ignore()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self.ask()

    def showEvent(self, event: object) -> None:
        self.ask()
