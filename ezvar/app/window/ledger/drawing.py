"""How the ledger's rows are drawn."""

from __future__ import annotations

from PyQt6.QtCore import QModelIndex, QRect, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QImage, QKeyEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QListView, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from ezvar.app.kit import theme
from ezvar.app.kit.controls import pip, stamp, tick
from ezvar.app.kit.digit_keys import pressed_digit
from ezvar.app.session.session import Session
from ezvar.app.viewer.pictures import Stills
from ezvar.core.framing import framed, pane_window, picture_size
from ezvar.core.model import CutPlace, Shot

from .rows import ROW, CaptionRow, Rows

_HIGH = {"shots": 63, "cuts": 40, "captions": 54}


class RowView(QListView):
    """A list that tells its delegate which rows are to be drawn; Qt asks for all that are in sight."""

    def __init__(self) -> None:
        super().__init__()
        self.drawn = QRect()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Leave digits to the window: rows are not searched for by typing."""
        if event is not None and pressed_digit(event) is not None:
            event.ignore()
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if event is not None:
            self.drawn = event.rect()
            super().paintEvent(event)


class RowDrawing(QStyledItemDelegate):
    """Draws rows; only those that ``view`` has to draw anew."""

    def __init__(self, session: Session, rows: Rows, view: RowView) -> None:
        super().__init__(view)
        self._session, self._rows, self._view = session, rows, view
        self.stills: Stills | None = None

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(theme.px(200), theme.px(_HIGH[self._rows.kind]))

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        assert painter is not None
        if not option.rect.intersects(self._view.drawn):
            return
        painter.save()
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        rect, row = option.rect, index.data(ROW)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(rect, theme.CHOSEN)
            present = self._session.at.shot
            if not isinstance(row, Shot) or (present is not None and row.id == present.id):
                painter.fillRect(QRect(rect.left(), rect.top(), 4, rect.height()), theme.ACCENT)
        painter.fillRect(QRect(rect.left(), rect.bottom(), rect.width(), 1), theme.RULE)
        if isinstance(row, Shot):
            self._shot(painter, rect, row)
        elif isinstance(row, CaptionRow):
            self._caption(painter, rect, row)
        else:
            self._cut(painter, rect, row, index.row() + 1)
        painter.restore()

    def _caption(self, painter: QPainter, rect: QRect, row: CaptionRow) -> None:
        px, top = theme.px, rect.top()
        number = QRect(rect.left(), top + px(5), px(34), px(22))
        _text(painter, number, str(row.number or "T"), theme.sans(14, bold=True), right=True)
        at = QRect(rect.left() + px(44), top + px(5), px(110), px(22))
        _text(painter, at, self._session.readings.timecode(row.frames.start), theme.mono(13))
        if row.waits:
            pip(painter, rect.right() - px(10), top + px(17), row.waits)
        words = QRect(rect.left() + px(44), top + px(27), rect.width() - px(52), px(22))
        font = theme.sans(13)
        painter.setFont(font)
        said = painter.fontMetrics().elidedText(row.words, Qt.TextElideMode.ElideRight, words.width())
        _text(painter, words, said, font, theme.SOFT)

    def _cut(self, painter: QPainter, rect: QRect, place: CutPlace, number: int) -> None:
        px = theme.px
        session, middle, cut = self._session, rect.center().y() + 1, place.cut
        _text(
            painter,
            QRect(rect.left(), rect.top(), px(34), rect.height()),
            str(number),
            theme.sans(14, bold=True),
            right=True,
        )
        _text(
            painter,
            QRect(rect.left() + px(44), rect.top(), px(100), rect.height()),
            session.readings.timecode(place.frame),
            theme.mono(13),
        )
        kind = f"{cut.kind} {cut.end - cut.start}" if cut.end > cut.start else cut.kind
        kind = kind if place.shot else f"{cut.kind}?"
        _text(
            painter, QRect(rect.left() + px(138), rect.top(), px(70), rect.height()), kind, theme.sans(12), theme.SOFT
        )
        if place.waits:
            pip(painter, rect.right() - px(10), middle, self._rows.figure(place))

    def _shot(self, painter: QPainter, rect: QRect, shot: Shot) -> None:
        session, px = self._session, theme.px
        place = session.project.document.place_of(shot.id) + 1
        _text(
            painter,
            QRect(rect.left(), rect.top(), px(29), rect.height()),
            str(place),
            theme.sans(14, bold=True),
            right=True,
        )
        box = QRect(rect.left() + px(36), rect.top() + px(8), px(84), px(47))
        image = self._still(shot)
        if image is not None:
            shown = _picture_box(image, box)
            painter.drawImage(shown, image)
            self._window(painter, shown, shot)
        else:
            painter.fillRect(box, theme.RULE)
        left = rect.left() + px(126)
        _text(
            painter,
            QRect(left, rect.top() + px(7), px(100), px(22)),
            session.readings.timecode(shot.start),
            theme.mono(13),
        )
        rate = session.project.document.lock.rate
        length = f"{shot.frames // rate.nominal}:{shot.frames % rate.nominal:02d}"
        _text(painter, QRect(left, rect.top() + px(31), px(60), px(22)), length, theme.mono(13), theme.SOFT)
        if session.readings.is_missing(shot):
            where = QRect(left, rect.top() + px(31), rect.right() - left - px(8), px(22))
            _text(painter, where, "missing", theme.sans(13, bold=True), theme.PROBLEM, right=True)
            return
        framing = session.project.document.framing(shot.id, session.at.master_id) if session.at.master_id else None
        figure, right, middle = self._rows.figure(shot), rect.right() - px(8), rect.top() + px(42)
        if framing is not None and framing.verdict != "open":
            stamp(
                painter, right, middle, framing.verdict, theme.ACCENT if framing.verdict == "agreed" else theme.PROBLEM
            )
        elif figure >= 40:
            pip(painter, right, middle, figure)
        if session.at.master is not None and session.played.is_played(shot, session.at.master):
            tick(painter, rect.right() - px(20), rect.top() + px(18), theme.SOFT)

    def _still(self, shot: Shot) -> QImage | None:
        middle = (shot.start + shot.end) // 2
        return self.stills.thumb_near(shot.start, shot.end, middle) if self.stills else None

    def _window(self, painter: QPainter, shown: QRect, shot: Shot) -> None:
        session = self._session
        master = session.at.master
        if master is None:
            return
        doc, size = session.project.document, picture_size(session.project.document, shot)
        at = pane_window(framed(doc, shot, master).panes[0], master, size, shot.frames // 2)
        painter.setClipRect(shown)
        painter.setPen(theme.line_of(doc.masters.index(master)).pen(1.6))
        scale = shown.width() / size.width
        painter.drawRect(
            QRectF(shown.left() + at.left * scale, shown.top() + at.top * scale, at.width * scale, at.height * scale)
        )
        painter.setClipping(False)


def _picture_box(image: QImage, box: QRect) -> QRect:
    """Where a picture of any shape stands in a box."""
    size = image.size().scaled(box.size(), Qt.AspectRatioMode.KeepAspectRatio)
    return QRect(
        box.left() + (box.width() - size.width()) // 2,
        box.top() + (box.height() - size.height()) // 2,
        size.width(),
        size.height(),
    )


def _text(
    painter: QPainter, rect: QRect, text: str, font: object, colour: QColor = theme.INK, right: bool = False
) -> None:
    painter.setFont(font)  # type: ignore[arg-type]
    painter.setPen(colour)
    side = Qt.AlignmentFlag.AlignRight if right else Qt.AlignmentFlag.AlignLeft
    painter.drawText(rect, side | Qt.AlignmentFlag.AlignVCenter, text)
