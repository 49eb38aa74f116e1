"""What a framing was before: each earlier state beside the present one, to be brought back."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from ezvar.app.kit import theme
from ezvar.app.kit.controls import label
from ezvar.app.session.jobs import later
from ezvar.app.session.session import Session
from ezvar.app.viewer.made_pictures import MadePictures, wanted_picture
from ezvar.core.edits import bring_back, past_of
from ezvar.core.model import Document, Framing, Master, Past, Shot
from ezvar.core.review import overlap
from ezvar.core.timing import said_here

_SIZE = QSize(250, 300)


class _Picture(QWidget):
    """The middle of a shot as a framing shows it."""

    def __init__(self, name: str, pictures: MadePictures | None) -> None:
        super().__init__()
        self.setFixedSize(_SIZE)
        self.setAccessibleName(name)
        self._pictures = pictures
        self._of: tuple[Document, Shot, Master] | None = None
        if pictures is not None:
            later(pictures.arrived, self.update)

    def show_framing(self, doc: Document, shot: Shot, master: Master) -> None:
        self._of = doc, shot, master
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.WELL)
        if self._pictures is None or self._of is None:
            return
        doc, shot, master = self._of
        ratio = self.devicePixelRatioF()
        image = self._pictures.get(wanted_picture(doc, master, (shot.start + shot.end) // 2, _SIZE * ratio))
        if image is not None:
            wide, high = image.width() / ratio, image.height() / ratio
            place = QRectF((self.width() - wide) / 2, (self.height() - high) / 2, wide, high)
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.drawImage(place, image)


class HistoryDialog(QDialog):
    """Lists what the present framing was before, the newest first, and shows each beside what it is now."""

    def __init__(self, session: Session, pictures: MadePictures | None, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self._session = session
        shot, master = session.at.shot, session.at.master
        assert shot is not None
        assert master is not None
        self._shot, self._master = shot, master
        doc = session.project.document
        number = doc.place_of(shot.id) + 1
        self.setWindowTitle(f"Shot {number} in {master.name}: what it was before")
        self.past = past_of(doc, shot.id, master.id)
        self.list = QListWidget()
        self.list.setAccessibleName("Earlier states, the newest first")
        for each in self.past:
            self.list.addItem(QListWidgetItem(f"{said_here(each.moment)}   {each.who}: {each.step}"))
        self.list.currentRowChanged.connect(self._show)
        self._now, self._then = _Picture("As it is", pictures), _Picture("As it was", pictures)
        self._now.show_framing(doc, shot, master)
        self._told = label("", "soft")
        sides = QHBoxLayout()
        for said, picture in (("Before that", self._then), ("Now", self._now)):
            column = QVBoxLayout()
            column.addWidget(label(said, "heading"))
            column.addWidget(picture)
            sides.addLayout(column)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        self.back = QPushButton("Bring it back")
        self.back.clicked.connect(self._bring_back)
        buttons.addButton(self.back, QDialogButtonBox.ButtonRole.ActionRole)
        buttons.rejected.connect(self.reject)
        whole = QVBoxLayout(self)
        whole.addWidget(label("Who decided what, and when", "heading"))
        whole.addWidget(self.list, 1)
        whole.addLayout(sides)
        whole.addWidget(self._told)
        whole.addWidget(buttons)
        self.resize(560, 640)
        self.back.setEnabled(bool(self.past))
        if self.past:
            self.list.setCurrentRow(0)
        else:
            self._told.setText("Nothing was decided otherwise yet.")

    @property
    def chosen(self) -> Past | None:
        """The earlier state that is shown."""
        row = self.list.currentRow()
        return self.past[row] if 0 <= row < len(self.past) else None

    def _show(self, row: int) -> None:
        chosen, doc = self.chosen, self._session.project.document
        if chosen is None:
            return
        self._then.show_framing(bring_back(doc, chosen), self._shot, self._master)
        now = doc.framing(self._shot.id, self._master.id)
        share = f", windows overlap by {round(100 * overlap(doc, now, chosen.framing))} %" if now is not None else ""
        self._told.setText(f"{_said(chosen.framing)}{share}.")

    def _bring_back(self) -> None:
        chosen, project = self.chosen, self._session.project
        if chosen is not None:
            number = project.document.place_of(self._shot.id) + 1
            project.edit(f"Bring back, shot {number}", bring_back(project.document, chosen))
            self.accept()


def _said(framing: Framing) -> str:
    moves = "moves" if any(len(pane.keys) > 1 for pane in framing.panes) else "rests"
    return f"It {moves}, {framing.decided}, {framing.verdict}"
