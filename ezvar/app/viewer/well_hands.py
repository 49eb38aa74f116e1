"""What the mouse and keys do in the well."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, Protocol

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent

from ezvar.app.background.desk import Desk
from ezvar.core.framing import (
    Handle,
    Size,
    Window,
    handle_at,
    key_at,
    pane_picture_size,
    placed,
    shifted,
    size_factor,
    turned,
    turned_by,
    with_key,
    zoomed,
)
from ezvar.core.model import Document, Master, Pane, Rect

from .well_places import HANDLE, Look, Places

_STEP_ANGLE = 5.0  # degrees, with Shift
_BOX, _MOVE, _FAR = 0.25, 0.01, 0.05  # of the picture: the box drawn by keys, and how far a key moves it
_LEAST_BOX = 0.015


@dataclass
class _Drag:
    kind: Handle | Literal["pan", "wipe", "draw"]
    start: QPointF
    pane: Pane | None = None
    window: Window | None = None
    gesture: object | None = None


class Surface(Protocol):
    """The well that hands work on."""

    windows: bool
    look: Look
    wipe: float | None
    enlarged: int | None
    versions: bool
    box: QRectF | None

    def active(self) -> dict[int, tuple[Window, Size]]: ...

    def places(self) -> Places: ...

    def shown(self) -> list[tuple[str, Document, Master]]: ...

    def ask(self) -> None: ...

    def update(self) -> None: ...

    def setFocus(self) -> None: ...

    def setCursor(self, cursor: Qt.CursorShape) -> None: ...

    def unsetCursor(self) -> None: ...


class WellHands:
    """Moves, sizes and turns the window, and draws a box around a subject.

    A plain drag changes the whole path, one with Ctrl the present moment only.
    """

    def __init__(self, well: Surface, desk: Desk) -> None:
        self._well = well
        self._desk, self._session = desk, desk.session
        self._drag: _Drag | None = None

    def _grip(self, point: QPointF) -> Handle:
        """What of the present pane's window is under a place."""
        active, places = self._well.active(), self._well.places()
        present = active.get(self._session.at.pane_number)
        if present is None or places.picture.isEmpty():
            return ""  # it shows another shot, whose picture is not here
        window, size = present
        scale = places.picture.width() / size.width
        x, y = places.in_picture(point, (size.width, size.height))
        return handle_at(window, x, y, HANDLE / scale, places.away(window, (size.width, size.height)))

    def press(self, event: QMouseEvent) -> None:
        well = self._well
        if self._session.at.framing is None:
            return
        point, places = event.position(), well.places()
        for k, box in enumerate(places.results):
            if box.contains(point):
                self._press_result(k)
                return
        if event.button() == Qt.MouseButton.MiddleButton:
            self._drag = _Drag("pan", point)
        elif event.button() == Qt.MouseButton.LeftButton and self._well.windows and places.area.contains(point):
            self._drag = self._begin_drag(point, places)
        if self._drag is not None:
            self._well.setCursor(Qt.CursorShape.ClosedHandCursor)

    def _press_result(self, place: int) -> None:
        """A master's result was pressed: it becomes the active one; the active one is enlarged, and back again."""
        if self._well.enlarged is not None:
            self._well.enlarged = None
        elif place and not self._well.versions:
            self._session.at.set_master(self._well.shown()[place][2].id)
            return
        else:
            self._well.enlarged = place
        self._well.ask()

    def _begin_drag(self, point: QPointF, places: Places) -> _Drag | None:
        if self._well.box is not None:
            return _Drag("draw", point)
        edge = places.picture.left() + places.picture.width() * (self._well.wipe or 0.0)
        if self._well.wipe is not None and abs(point.x() - edge) < 6:
            return _Drag("wipe", point)
        at = self._session.at
        present, pane = self._well.active().get(at.pane_number), at.pane
        kind = self._grip(point)
        if present is None or pane is None or (not kind and not places.picture.contains(point)):
            return None
        window, _ = present
        return _Drag(kind or "inside", point, pane, window, object())

    def move(self, event: QMouseEvent) -> None:
        drag, point = self._drag, event.position()
        if drag is None:
            if self._well.windows:
                self._well.setCursor(
                    _CURSORS[self._grip(point)] if self._well.box is None else Qt.CursorShape.CrossCursor
                )
            return
        places = self._well.places()
        if drag.kind == "pan":
            self._well.look = self._well.look.moved(point - drag.start, places.home)
            drag.start = point
            self._well.ask()
        elif drag.kind == "wipe":
            self._well.wipe = min(1.0, max(0.0, (point.x() - places.picture.left()) / places.picture.width()))
            self._well.update()
        elif drag.kind == "draw":
            self._well.box = _fractions(QRectF(drag.start, point).normalized(), places.picture)
            self._well.update()
        else:
            self._drag_window(drag, point, places, event.modifiers())

    def _drag_window(self, drag: _Drag, point: QPointF, places: Places, keys: Qt.KeyboardModifier) -> None:
        session = self._session
        master, shot = session.at.master, session.at.shot
        if master is None or shot is None or drag.pane is None or drag.window is None:
            return
        size = pane_picture_size(session.project.document, shot, drag.pane)
        whole = (size.width, size.height)
        start, now = places.in_picture(drag.start, whole), places.in_picture(point, whole)
        only_here = bool(keys & Qt.KeyboardModifier.ControlModifier)
        steady = bool(keys & Qt.KeyboardModifier.ShiftModifier)
        moment = Pane((key_at(drag.pane, session.at.frame - shot.start),), drag.pane.rect, trim=drag.pane.trim)
        path = moment if only_here else drag.pane
        if drag.kind == "size":
            label, new = "Size window", zoomed(path, master, size, size_factor(drag.window, start, now))
        elif drag.kind == "turn":
            by = turned_by(drag.window, start, now, _STEP_ANGLE if steady else 0.0)
            label, new = "Turn window", turned(path, master, size, by)
        else:
            dx, dy = (now[0] - start[0]) / size.width, (now[1] - start[1]) / size.height
            if steady:
                dx, dy = (dx, 0.0) if abs(point.x() - drag.start.x()) >= abs(point.y() - drag.start.y()) else (0.0, dy)
            label, new = "Shift path", shifted(path, master, size, dx, dy)
        if only_here:
            label, new = "Set window here", with_key(drag.pane, master, size, placed(new.keys[0], new, master, size))
        self._desk.framing_work.put(label, new, drag.gesture)

    def release(self) -> None:
        drawn = self._drag is not None and self._drag.kind == "draw"
        self._drag = None
        self._well.unsetCursor()
        if drawn:
            self.track_box()

    # Drawing a subject

    def begin_drawing(self) -> None:
        """Wait for a box around a subject, by one drag or by keys."""
        self._well.box = QRectF(0.5 - _BOX / 2, 0.5 - _BOX / 2, _BOX, _BOX)
        self._well.setFocus()
        self._well.update()

    def track_box(self) -> None:
        """Track what is in the box."""
        box, self._well.box = self._well.box, None
        self._well.update()
        box = box.intersected(QRectF(0, 0, 1, 1)) if box is not None else QRectF()
        if box.width() < _LEAST_BOX or box.height() < _LEAST_BOX:
            self._session.messages.say("That box is too small for a subject. Press D and draw a larger one.")
            return
        self._desk.framing_work.draw(Rect(box.x(), box.y(), box.width(), box.height()), self._session.at.frame)

    def key(self, event: QKeyEvent) -> bool:
        """Take a key for the box that is being drawn; whether it was one."""
        well = self._well
        box = well.box
        if box is None:
            return False
        key, step = event.key(), _FAR if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else _MOVE
        ways = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.track_box()
        elif key == Qt.Key.Key_Escape:
            self._well.box = None
        elif key in ways:
            x, y = ways[Qt.Key(key)]
            box.translate(x * step, y * step)
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal, Qt.Key.Key_Minus):
            grow = -step if key == Qt.Key.Key_Minus else step
            box.adjust(-grow, -grow, grow, grow)
        self._well.update()
        return True


_CURSORS = {
    "": Qt.CursorShape.ArrowCursor,
    "inside": Qt.CursorShape.OpenHandCursor,
    "size": Qt.CursorShape.SizeAllCursor,
    "turn": Qt.CursorShape.PointingHandCursor,
}


def _fractions(box: QRectF, picture: QRectF) -> QRectF:
    return QRectF(
        (box.left() - picture.left()) / picture.width(), (box.top() - picture.top()) / picture.height(),
        box.width() / picture.width(), box.height() / picture.height(),
    )  # fmt: skip
