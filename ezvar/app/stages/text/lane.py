"""Captions along the time around the playhead, over the sound's shape, to be moved and stretched there."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QCursor, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from ezvar.app.background.desk import Desk
from ezvar.app.kit import theme
from ezvar.core.model import nearest_frame, time_of, title_rows

_EDGE = 6  # pixels of a block's end that stretch it
_NEAR = 8  # pixels within which an end snaps
_ROW, _TOP = 26, 8


@dataclass(frozen=True)
class Block:
    """A caption or a title as it stands in the lane; times in milliseconds."""

    item: str
    words: str
    start: int
    end: int
    box: QRectF
    is_title: bool
    locked: bool = False
    hidden: bool = False


@dataclass
class _Drag:
    block: Block
    part: str  # "start", "end" or "whole"
    at: float  # milliseconds under the pointer when it was pressed


class Lane(QWidget):
    """Twelve seconds around the playhead. Blocks are dragged as a whole or by their ends, which snap to their
    neighbours, cuts and the playhead."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk, self.session = desk, desk.session
        self.seconds = 12.0
        self._loud: np.ndarray | None = None
        self._drag: _Drag | None = None
        self._first = 0.0  # milliseconds at the left end
        self.setMouseTracking(True)
        self.setFixedHeight(theme.px(78))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAccessibleName("Captions in time, with the sound")
        session = desk.session
        for signal in (session.at.frame_changed, session.project.changed, session.at.caption_changed):
            signal.connect(lambda *_: self._follow())

    def set_loudness(self, loud: np.ndarray | None) -> None:
        self._loud = loud
        self.update()

    def _follow(self) -> None:
        """Keep the playhead in sight, without moving while something is dragged."""
        doc = self.session.project.doc
        if doc is None or not self.isVisible():
            return
        now, wide = float(time_of(self.session.at.frame, doc.lock.rate)), 1000 * self.seconds
        if self._drag is None and not self._first + 0.1 * wide <= now <= self._first + 0.9 * wide:
            self._first = max(0.0, now - 0.3 * wide)
        self.update()

    def x_of(self, time: float) -> float:
        """Where a time, in milliseconds of the lock, stands."""
        return (time - self._first) / (1000 * self.seconds) * self.width()

    def time_at(self, x: float) -> float:
        return self._first + x / max(1, self.width()) * 1000 * self.seconds

    def blocks(self) -> Iterator[Block]:
        """What is in sight of captions and, in rows of their own above these, of titles."""
        doc = self.session.project.doc
        if doc is None:
            return
        rate, last = doc.lock.rate, self._first + 1000 * self.seconds
        row_of, lane = title_rows(doc.titles), doc.title_lane
        above = max(row_of.values(), default=-1) + 1
        rows = len(doc.tracks) + above
        high = min(_ROW, (self.height() - 2 * _TOP) / max(1, rows))

        def box(row: int, start: int, end: int) -> QRectF:
            left, right = self.x_of(start), self.x_of(end)
            return QRectF(left, _TOP + row * high + 4, max(3.0, right - left), high - 4)

        for title in doc.titles:
            start, end = time_of(title.start, rate), time_of(title.end, rate)
            if end >= self._first and start <= last:
                where, words = box(row_of[title.id], start, end), " · ".join(title.lines)
                yield Block(title.id, words, start, end, where, True, lane.locked, not lane.shown)
        for row, track in enumerate(doc.tracks, above):
            for caption in track.captions:
                if caption.start > last:
                    break
                if caption.end >= self._first:
                    where = box(row, caption.start, caption.end)
                    times = caption.start, caption.end
                    yield Block(caption.id, caption.words, *times, where, False, track.locked, not track.shown)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.WELL_RAISED)
        session = self.session
        doc = session.project.doc
        if doc is None:
            return
        self._draw_sound(painter)
        painter.setPen(QPen(theme.WELL_SOFT, 1, Qt.PenStyle.DotLine))
        for shot in doc.shots:
            x = self.x_of(time_of(shot.start, doc.lock.rate))
            if 0 < x < self.width():
                painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))
        for block in self.blocks():
            self._draw_block(painter, block, block.item == self._present())
        x = self.x_of(time_of(session.at.frame, doc.lock.rate))
        painter.setPen(QPen(theme.WELL_INK, 2))
        painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))

    def _present(self) -> str:
        title, caption = self.session.at.title, self.session.at.caption
        return title.id if title is not None else caption[1].id if caption is not None else ""

    def _draw_block(self, painter: QPainter, block: Block, chosen: bool) -> None:
        box, waits = block.box, bool(self.desk.text_checks.waits(block.item))
        ground = theme.WELL_BLOCK_CHOSEN if chosen else theme.WELL_BLOCK
        painter.setPen(QPen(theme.WELL_INK if chosen else theme.WELL_PROBLEM if waits else ground, 1.4))
        painter.setBrush(ground)
        painter.drawRoundedRect(box, 3, 3)
        painter.setPen(theme.ON_LINE if chosen else theme.WELL_INK)
        painter.setFont(theme.sans(12))
        words = ("hidden: " if block.hidden else "") + ("locked: " if block.locked else "") + block.words
        inside = box.adjusted(6, 0, -4, 0)
        said = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, max(0, int(inside.width())))
        painter.drawText(inside, Qt.AlignmentFlag.AlignVCenter, said)

    def _draw_sound(self, painter: QPainter) -> None:
        doc = self.session.project.document
        if self._loud is None or not len(self._loud):
            return
        painter.setPen(QPen(theme.WELL_WAVE, 2))
        length = float(1000 * doc.lock.rate.seconds(doc.lock.frames))
        middle = self.height() * 0.6
        for x in range(0, self.width(), 4):
            a = int(self.time_at(x) / length * len(self._loud))
            b = max(a + 1, int(self.time_at(x + 4) / length * len(self._loud)))
            if not 0 <= a < len(self._loud):
                continue
            high = 1 + 0.36 * self.height() * float(self._loud[a:b].max()) ** 0.6
            painter.drawLine(QPointF(x, middle - high), QPointF(x, middle + high))

    # The mouse

    def _under(self, at: QPointF) -> tuple[Block, str] | None:
        """The block under the pointer, and which part of it."""
        for block in self.blocks():
            box = block.box
            if box.adjusted(-3, 0, 3, 0).contains(at) and not block.locked:
                if at.x() - box.left() < _EDGE:
                    return block, "start"
                return block, "end" if box.right() - at.x() < _EDGE else "whole"
        return None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton or self.session.project.doc is None:
            return
        under = self._under(event.position())
        if under is None:
            rate = self.session.project.document.lock.rate
            self.session.at.go(nearest_frame(round(max(0.0, self.time_at(event.position().x()))), rate))
            return
        block, part = under
        if block.is_title:
            self.desk.title_work.choose(block.item)
        else:
            self.desk.text_work.choose(block.item)
        self._drag = _Drag(block, part, self.time_at(event.position().x()))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self.session.project.doc is None:
            return
        drag = self._drag
        if drag is None:
            under = self._under(event.position())
            stretches = under is not None and under[1] != "whole"
            self.setCursor(QCursor(Qt.CursorShape.SizeHorCursor if stretches else Qt.CursorShape.ArrowCursor))
            return
        by = self.time_at(event.position().x()) - drag.at
        snaps = not event.modifiers() & Qt.KeyboardModifier.AltModifier
        block, start, end = drag.block, drag.block.start, drag.block.end
        if drag.part in ("start", "whole"):
            start = self._snapped(block.start + by, block.item, snaps)
        if drag.part == "end":
            end = self._snapped(block.end + by, block.item, snaps)
        elif drag.part == "whole":
            end = start + block.end - block.start
        else:
            start = min(start, end - 40)
        gesture = ("drag", block.item, drag.at)
        if block.is_title:
            rate = self.session.project.document.lock.rate
            self.desk.title_work.retime(nearest_frame(start, rate), nearest_frame(end, rate), gesture)
        else:
            self.desk.text_work.retime(start, end, gesture)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._drag = None

    def _snapped(self, time: float, item: str, snaps: bool) -> int:
        """A time on a whole frame; near an end of another block, a cut or the playhead, on that."""
        doc, rate = self.session.project.document, self.session.project.document.lock.rate
        near = _NEAR / max(1, self.width()) * 1000 * self.seconds
        others = [t for b in self.blocks() if b.item != item for t in (b.start, b.end)]
        others += [time_of(s.start, rate) for s in doc.shots]
        others.append(time_of(self.session.at.frame, rate))
        best = min(others, key=lambda t: abs(t - time), default=None) if snaps else None
        if best is not None and abs(best - time) <= near:
            return best
        return time_of(nearest_frame(round(max(0.0, time)), rate), rate)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is None:
            return
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            under = self.time_at(event.position().x())
            self.seconds = min(120.0, max(2.0, self.seconds * (0.8 if event.angleDelta().y() > 0 else 1.25)))
            self._first = max(0.0, under - event.position().x() / max(1, self.width()) * 1000 * self.seconds)
        else:
            self._first = max(0.0, self._first - event.angleDelta().y() / 120 * 100 * self.seconds)
        self.update()
