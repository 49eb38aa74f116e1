"""Driving the window as its users do: keys, clicks, drags, and waiting until it rests."""

from PyQt6.QtCore import QEvent, QPointF, Qt
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QAbstractButton, QApplication

from ezvar.core.framing import pane_window, picture_size

LEFT = Qt.MouseButton.LeftButton
PLAIN = Qt.KeyboardModifier.NoModifier
CTRL = Qt.KeyboardModifier.ControlModifier
ALT = Qt.KeyboardModifier.AltModifier
SHIFT = Qt.KeyboardModifier.ShiftModifier


def rest(qtbot, window):
    """Wait until no work is under way."""
    qtbot.waitUntil(lambda: window.session.project.doc is not None and not window.jobs.running, timeout=120_000)
    qtbot.wait(30)


def press(qtbot, window, key, modifier=PLAIN):
    qtbot.keyClick(window, key, modifier)
    qtbot.wait(5)


def button(parent, name) -> QAbstractButton:
    return next(
        b for b in parent.findChildren(QAbstractButton) if b.isVisible() and name in (b.text(), b.accessibleName())
    )


def click(qtbot, parent, name):
    qtbot.mouseClick(button(parent, name), LEFT)


def window_of(session):
    return pane_window(
        session.at.framing.panes[0], session.at.master, picture_size(session.project.document, session.at.shot), 0
    )


def known(qtbot, window):
    """Wait until nothing is being solved and the subjects are known."""
    work, of_shot = window.desk.framing_work, window.desk.of_shot
    qtbot.waitUntil(lambda: not (work.busy or of_shot.busy) and len(of_shot.subjects) > 1, timeout=20_000)
    qtbot.wait(20)


def seen(window, frame=None):
    """What the active window shows across: left, middle, right as fractions of the picture."""
    at = window.session.at
    size = picture_size(window.session.project.document, at.shot)
    w = pane_window(at.pane, at.master, size, (at.frame if frame is None else frame) - at.shot.start)
    return w.left / size.width, w.cx / size.width, (w.left + w.width) / size.width


def drag(qtbot, widget, start, by, keys=PLAIN):
    qtbot.mousePress(widget, LEFT, keys, pos=start.toPoint())
    for part in (0.5, 1.0):
        point = QPointF(start.toPoint()) + by * part
        move = QMouseEvent(QEvent.Type.MouseMove, point, widget.mapToGlobal(point), LEFT, LEFT, keys)
        QApplication.sendEvent(widget, move)
    qtbot.mouseRelease(widget, LEFT, keys, pos=(QPointF(start.toPoint()) + by).toPoint())
