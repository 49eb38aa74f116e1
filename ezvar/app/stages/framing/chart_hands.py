"""What the mouse does in the sweep chart."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal, Protocol

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QMouseEvent

from ezvar.app.background.desk import Desk
from ezvar.core.framing import band, bent, key_at, moved_keys, pane_picture_size, shifted, snapped, way_come, with_key
from ezvar.core.model import Master, Pane, Shot

from .chart_places import Chart, Span

_REACH = 9.0  # pixels within which a bead is taken
_SNAP = 7.0  # pixels


@dataclass
class _Drag:
    kind: Literal["seek", "band", "beads", "bend", "box", "pan"]
    start: QPointF
    pane: Pane | None = None
    span: Span | None = None
    gesture: object | None = None
    chosen: frozenset[int] = frozenset()  # the keyframes that were chosen when it began


class Surface(Protocol):
    """The chart that hands work on."""

    span: Span
    snapping: bool
    snaps: set[str]
    box: QRectF | None

    @property
    def chart(self) -> Chart | None: ...

    def beads(self, pane: Pane) -> list[tuple[int, float]]: ...

    def setFocus(self, reason: Qt.FocusReason) -> None: ...

    def update(self) -> None: ...


class ChartHands:
    """Seeks, shifts, moves and bends, for a chart."""

    def __init__(self, chart: Surface, desk: Desk) -> None:
        self._widget = chart
        self._desk, self._session = desk, desk.session
        self._drag: _Drag | None = None

    @property
    def _present(self) -> tuple[Chart, Shot, Master, Pane] | None:
        chart, session = self._widget.chart, self._session
        shot, master, pane = session.at.shot, session.at.master, session.at.pane
        if chart is None or shot is None or master is None or pane is None:
            return None
        return chart, shot, master, pane

    # Pressing

    def press(self, event: QMouseEvent) -> None:
        chart, at = self._widget.chart, event.position()
        if chart is None:
            return
        self._widget.setFocus(Qt.FocusReason.MouseFocusReason)
        if event.button() == Qt.MouseButton.MiddleButton:
            self._drag = _Drag("pan", at, span=self._widget.span)
        elif event.button() == Qt.MouseButton.LeftButton:
            self._drag = self._begin(chart, at, event.modifiers())
            self.move(event)

    def _begin(self, chart: Chart, at: QPointF, keys: Qt.KeyboardModifier) -> _Drag:
        present, work = self._present, self._desk.framing_work
        if present is None:
            return _Drag("seek", at)
        _, _, _, pane = present
        bead = self._bead(chart, pane, at)
        adding = bool(keys & Qt.KeyboardModifier.ShiftModifier)
        if bead is not None:
            if adding:
                work.chosen_keys = work.chosen_keys ^ {bead}
            elif bead not in work.chosen_keys:
                work.chosen_keys = frozenset({bead})
            return _Drag("beads", at, pane, gesture=object(), chosen=work.chosen_keys)
        if adding:
            return _Drag("box", at)
        work.chosen_keys = frozenset()
        if self._over_band(chart, at):
            if keys & Qt.KeyboardModifier.AltModifier:
                return _Drag("bend", at, pane, gesture=object())
            return _Drag("band", at, pane, gesture=object())
        return _Drag("seek", at)

    def _bead(self, chart: Chart, pane: Pane, at: QPointF) -> int | None:
        near = [
            (abs(chart.x(frame) - at.x()) + abs(chart.y(place) - at.y()), frame)
            for frame, place in self._widget.beads(pane)
            if abs(chart.x(frame) - at.x()) <= _REACH and abs(chart.y(place) - at.y()) <= _REACH
        ]
        return min(near)[1] if near else None

    def _over_band(self, chart: Chart, at: QPointF) -> bool:
        present = self._present
        if present is None:
            return False
        _, shot, master, pane = present
        size = pane_picture_size(self._session.project.document, shot, pane)
        low, high = chart.axis(band(pane, master, size, np.array([chart.frame(at.x())])))
        top, foot = sorted((chart.y(float(low[0])), chart.y(float(high[0]))))
        inside = chart.area.left() <= at.x() <= chart.area.right()
        return bool(inside and top - 3 <= at.y() <= foot + 3)

    # Moving

    def move(self, event: QMouseEvent) -> None:
        drag, chart, at = self._drag, self._widget.chart, event.position()
        if drag is None or chart is None:
            return
        shot = self._session.at.shot
        if drag.kind == "seek" and shot is not None:
            self._session.at.go(shot.start + chart.frame(at.x()))
        elif drag.kind == "pan" and drag.span is not None:
            self._widget.span = drag.span.moved((drag.start.x() - at.x()) / chart.area.width() * drag.span.length)
            self._widget.update()
        elif drag.kind == "box":
            self._widget.box = QRectF(drag.start, at).normalized()
            self._widget.update()
        elif at != drag.start:
            self._change(drag, chart, at)
        else:
            self._widget.update()

    def _change(self, drag: _Drag, chart: Chart, at: QPointF) -> None:
        present, work = self._present, self._desk.framing_work
        if present is None or drag.pane is None:
            return
        _, shot, master, _ = present
        pane, dy = drag.pane, at.y() - drag.start.y()
        size = pane_picture_size(self._session.project.document, shot, pane)
        if drag.kind == "band":
            work.put("Shift path", shifted(pane, master, size, *chart.shift(dy)), drag.gesture)
        elif drag.kind == "bend":
            frame = chart.frame(drag.start.x())
            key, place = key_at(pane, frame), chart.place(at.y())
            cx, cy = (key.cx, place) if chart.along_y else (place, key.cy)
            work.put("Bend curve", bent(pane, frame, way_come(pane, frame, cx, cy)), drag.gesture)
        elif drag.kind == "beads":
            by = self._frames_by(drag, chart, at, shot)
            moved, went = moved_keys(pane, master, size, drag.chosen, by, *chart.shift(dy))
            work.put("Move keyframes", moved, drag.gesture)
            work.chosen_keys = frozenset(f + went for f in drag.chosen)

    def _frames_by(self, drag: _Drag, chart: Chart, at: QPointF, shot: Shot) -> int:
        """By how many frames the dragged beads go, snapped where that is on."""
        each = chart.area.width() / chart.span.length / chart.frames
        by = round((at.x() - drag.start.x()) / each)
        if not self._widget.snapping or not by or not drag.chosen:
            return by
        first = min(drag.chosen)
        marks: set[int] = set()
        if "cuts" in self._widget.snaps:
            marks |= {0, shot.frames - 1}
        if "playhead" in self._widget.snaps:
            marks.add(self._session.at.frame - shot.start)
        if "keyframes" in self._widget.snaps:
            others = [m for m in self._session.project.document.masters if m.id != self._session.at.master_id]
            framings = [self._session.project.document.framing(shot.id, m.id) for m in others]
            marks |= {k.frame for f in framings if f is not None for pane in f.panes for k in pane.keys}
        return snapped(first + by, marks, max(1, round(_SNAP / each))) - first

    # Letting go

    def release(self, event: QMouseEvent) -> None:
        drag, self._drag = self._drag, None
        box, self._widget.box = self._widget.box, None
        present = self._present
        if drag is not None and drag.kind == "box" and box is not None and present is not None:
            chart, _, _, pane = present
            inside = {f for f, place in self._widget.beads(pane) if box.contains(QPointF(chart.x(f), chart.y(place)))}
            work = self._desk.framing_work
            work.chosen_keys = work.chosen_keys | inside
        self._widget.update()

    def double_click(self, event: QMouseEvent) -> None:
        """Set a keyframe where it was clicked; on a bead nothing."""
        present = self._present
        if present is None or event.button() != Qt.MouseButton.LeftButton:
            return
        chart, shot, master, pane = present
        if self._bead(chart, pane, event.position()) is not None:
            return
        frame, place = chart.frame(event.position().x()), chart.place(event.position().y())
        key = replace(key_at(pane, frame), frame=frame, bend=0.5)
        if not self._over_band(chart, event.position()):
            key = replace(key, cy=place) if chart.along_y else replace(key, cx=place)
        size = pane_picture_size(self._session.project.document, shot, pane)
        self._desk.framing_work.put("Set keyframe", with_key(pane, master, size, key))
        self._desk.framing_work.chosen_keys = frozenset({frame})
        self._widget.update()
