"""The edit strip: the whole lock along the foot, shot by shot, with doubt marks, sound and playhead."""

from __future__ import annotations

from typing import Any

import numpy as np
from PyQt6.QtCore import QEvent, QPointF, QRect, QRectF, QSize, Qt, QTimer
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap
from PyQt6.QtWidgets import QSizePolicy, QWidget

from ezvar.app.kit import theme
from ezvar.app.kit.controls import pip
from ezvar.app.session.session import Session
from ezvar.app.stages import Rows, Stage
from ezvar.app.viewer.pictures import Stills

_SIDE, _PICTURES, _HIGH, _SOUND, _TEXTS = 14, 26, 40, 80, 68.5


class EditStrip(QWidget):
    """Shows the lock from end to end. Pressing and dragging moves the playhead."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._stills: Stills | None = None
        self._rows: Rows = "shots"
        self._loud: np.ndarray | None = None
        self.setFixedHeight(94)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)  # what lies beneath is not painted first
        self.setAccessibleName("The whole edit")
        self._ground: QPixmap | None = None
        self._shots: object = None
        self._colouring: object = None
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(120)
        self._soon.timeout.connect(self._drop_ground)
        session.project.changed.connect(self._document_changed)
        for signal in (session.at.master_changed, session.at.shot_changed):
            signal.connect(lambda *_: self.update())
        session.at.frame_changed.connect(lambda _: self._move_playhead())
        self._playhead = 0.0

    def _document_changed(self) -> None:
        doc = self.session.project.document
        if self._shots is not doc.shots or self._colouring != doc.colouring:
            self._shots, self._colouring = doc.shots, doc.colouring
            self._ground = None
        self.update()

    def show_stage(self, stage: Stage[Any]) -> None:
        """Mark what waits in a stage."""
        self._rows = stage.rows
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(900, 94)

    def set_stills(self, stills: Stills | None) -> None:
        self._stills = stills
        self._loud = None
        if stills is not None:
            stills.arrived.connect(lambda *_: self._redraw())

    def set_loudness(self, loud: np.ndarray | None) -> None:
        """How loud the sound is along the lock, 0..1."""
        self._loud = loud
        self._drop_ground()

    def _x(self, frame: float) -> float:
        frames = max(1, self.session.project.document.lock.frames)
        return _SIDE + (self.width() - 2 * _SIDE) * frame / frames

    def _move_playhead(self) -> None:
        """Draw again only where the playhead was and where it is."""
        if self.session.project.doc is None:
            return
        was, self._playhead = self._playhead, self._x(self.session.at.frame + 0.5)
        for x in (was, self._playhead):
            self.update(QRect(round(x) - 3, 0, 7, self.height()))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        session = self.session
        if self._ground is None or self._ground.size() != self.size() * self.devicePixelRatioF():
            self._ground = self._draw_ground()
        painter.drawPixmap(0, 0, self._ground)
        if session.project.doc is None or not session.project.doc.shots:
            return
        present = session.at.shot
        if present is not None:
            painter.setPen(QPen(theme.ACCENT, 3))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            left = self._x(present.start)
            painter.drawRect(QRectF(left, _PICTURES - 1, max(3.0, self._x(present.end) - left - 1.5), _HIGH + 2))
        x = self._x(session.at.frame + 0.5)
        painter.setPen(QPen(theme.INK, 2))
        painter.drawLine(QPointF(x, 2), QPointF(x, self.height()))
        self._draw_marks(painter)
        self._draw_texts(painter)

    def _draw_ground(self) -> QPixmap:
        """What does not change with the playhead: pictures and sound. Kept, since scaling pictures takes its time."""
        ground = QPixmap(self.size() * self.devicePixelRatioF())
        ground.setDevicePixelRatio(self.devicePixelRatioF())
        painter = QPainter(ground)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), theme.PAPER)
        painter.fillRect(0, 0, self.width(), 2, theme.INK)
        for shot in self.session.project.doc.shots if self.session.project.doc else ():
            box = QRectF(self._x(shot.start), _PICTURES, max(1.0, self._x(shot.end) - self._x(shot.start) - 1.5), _HIGH)
            self._draw_pictures(painter, box, shot.start, shot.end)
        self._draw_sound(painter)
        painter.end()
        return ground

    def _redraw(self) -> None:
        """Draw the ground anew, soon: many stills arriving together cost one drawing."""
        if not self._soon.isActive():
            self._soon.start()

    def changeEvent(self, event: QEvent | None) -> None:
        if event is not None and event.type() == QEvent.Type.PaletteChange:  # another theme
            self._drop_ground()
        super().changeEvent(event)

    def _drop_ground(self) -> None:
        self._ground = None
        self.update()

    def _draw_pictures(self, painter: QPainter, box: QRectF, start: int, end: int) -> None:
        """Stills of a shot side by side; as many as fit in their own shape, cut at the box's end."""
        painter.fillRect(box, theme.RULE)
        if self._stills is None or box.width() < 2:
            return
        lock = self.session.project.document.lock
        width = max(12.0, min(180.0, _HIGH * lock.width / lock.height))
        count = max(1, round(box.width() / width))
        painter.save()
        painter.setClipRect(box)
        for k in range(count):
            part = start + (end - start) * k // count, start + (end - start) * (k + 1) // count
            image = self._stills.thumb_near(*part, sum(part) // 2)
            if image is None:
                continue
            each = box.width() / count
            middle = box.left() + each * (k + 0.5)
            wide = max(width, each)
            high = wide * image.height() / image.width()
            painter.save()
            painter.setClipRect(QRectF(box.left() + each * k, box.top(), each, _HIGH), Qt.ClipOperation.IntersectClip)
            painter.drawImage(QRectF(middle - wide / 2, box.center().y() - high / 2, wide, high), image)
            painter.restore()
        painter.restore()

    def _draw_marks(self, painter: QPainter) -> None:
        session = self.session
        right = -1.0
        if self._rows == "cuts":
            marks = [(self._x(p.frame), round(p.cut.doubt)) for p in session.readings.cut_places if p.waits]
        else:
            doc = session.project.document
            waiting = [
                (doc.shot(f.shot), f.doubt)
                for f in session.readings.framings_waiting
                if f.master == session.at.master_id
            ]
            marks = sorted(((self._x(s.start) + self._x(s.end)) / 2, d) for s, d in waiting)
        for middle, figure in marks:
            if middle - 14 > right:
                pip(painter, middle + 14, 13, figure)
                right = middle + 15

    def _draw_texts(self, painter: QPainter) -> None:
        """Captions and titles as thin bars under the pictures; those that wait in amber."""
        doc, waits = self.session.project.document, self.session.readings.caption_waits or {}
        painter.setPen(Qt.PenStyle.NoPen)
        last = -1.0
        timed = [(t.id, t.start, t.end, 3.0) for t in doc.titles]
        for caption in (c for track in doc.tracks for c in track.captions):
            frames = caption.frames(doc.lock.rate)
            timed.append((caption.id, frames.start, frames.end, 0.0))
        for item, start, end, up in timed:
            left, right = self._x(start), self._x(end) - 1
            waiting = bool(waits.get(item))
            if right - last < 1 and not waiting and not up:
                continue  # thousands on a strip of a thousand pixels: one is as good as ten
            painter.setBrush(theme.DOUBT_EDGE if waiting else theme.SOFT)
            painter.drawRect(QRectF(left, _TEXTS - up, max(1.0, right - left), 2.0))
            last = right

    def _draw_sound(self, painter: QPainter) -> None:
        if self._loud is None or not len(self._loud):
            return
        painter.setPen(QPen(theme.WAVE, 1.4))
        step = 4
        for x in range(_SIDE, self.width() - _SIDE, step):
            a = int((x - _SIDE) / (self.width() - 2 * _SIDE) * len(self._loud))
            b = max(a + 1, int((x + step - _SIDE) / (self.width() - 2 * _SIDE) * len(self._loud)))
            high = 1 + 10 * float(self._loud[a:b].max()) ** 0.6
            painter.drawLine(QPointF(x, _SOUND - high), QPointF(x, _SOUND + high))

    def _seek(self, event: QMouseEvent) -> None:
        if self.session.project.doc is not None:
            part = (event.position().x() - _SIDE) / max(1, self.width() - 2 * _SIDE)
            self.session.at.go(int(part * self.session.project.document.lock.frames))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self._seek(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.buttons() & Qt.MouseButton.LeftButton:
            self._seek(event)
