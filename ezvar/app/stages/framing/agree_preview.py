"""The first, middle and last frame of each chosen shot in the master, before anything is agreed."""

from __future__ import annotations

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QImage, QPixmap
from PyQt6.QtWidgets import QDialog, QDialogButtonBox, QGridLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from ezvar.app.background.desk import Desk
from ezvar.app.kit import theme
from ezvar.app.kit.controls import label
from ezvar.app.viewer.pictures import result_pictures
from ezvar.core.model import Shot
from ezvar.core.progress import CancelToken, Progress

_SIZE = QSize(150, 170)


class AgreePreview(QDialog):
    """Shows the pictures as they are made; it is accepted where they look right."""

    def __init__(self, parent: QWidget, desk: Desk) -> None:
        super().__init__(parent)
        session = self._session = desk.session
        self.shots = desk.framing_work.targets()
        self.setWindowTitle("Look at the chosen shots")
        self.resize(theme.px(640), theme.px(620))
        column = QVBoxLayout(self)
        column.addWidget(label(f"First, middle and last frame in {session.at.master_name}", "heading"))
        area = QScrollArea()
        area.setWidgetResizable(True)
        sheet = QWidget()
        sheet.setObjectName("sheet")
        sheet.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        area.setWidget(sheet)
        column.addWidget(area, 1)
        grid = QGridLayout(sheet)
        grid.setColumnStretch(4, 1)
        grid.setColumnMinimumWidth(0, theme.px(70))
        self.pictures: dict[int, QLabel] = {}
        for row, shot in enumerate(self.shots):
            place = session.project.document.place_of(shot.id) + 1
            grid.addWidget(label(f"Shot {place}", "heading"), row, 0, Qt.AlignmentFlag.AlignTop)
            for k, frame in enumerate(_frames(shot), 1):
                picture = QLabel("…")
                picture.setFixedSize(_SIZE)
                picture.setAlignment(Qt.AlignmentFlag.AlignCenter)
                picture.setAccessibleName(f"Shot {place}, frame {frame - shot.start + 1}")
                grid.addWidget(picture, row, k)
                self.pictures[frame] = picture
        buttons = QDialogButtonBox()
        agree = buttons.addButton("They look right", QDialogButtonBox.ButtonRole.AcceptRole)
        leave = buttons.addButton("Close", QDialogButtonBox.ButtonRole.RejectRole)
        assert agree is not None
        assert leave is not None
        agree.setObjectName("main")
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)
        self._begin()

    def _begin(self) -> None:
        session = self._session
        doc, master = session.project.document, session.at.master
        if master is None or session.media.proxy is None:
            return
        proxy, frames = session.media.proxy, list(self.pictures)

        def work(progress: Progress, cancel: CancelToken) -> list[tuple[int, QImage]]:
            return list(result_pictures(doc, proxy, master, frames, _SIZE, progress, cancel))

        self._job = session.jobs.start("Drawing the chosen shots", work, self._show, session.messages.say_problem)
        self.finished.connect(lambda _: session.jobs.stop(self._job))

    def _show(self, made: list[tuple[int, QImage]]) -> None:
        for frame, image in made:
            if (picture := self.pictures.get(frame)) is not None:
                picture.setPixmap(QPixmap.fromImage(image))


def _frames(shot: Shot) -> tuple[int, ...]:
    return tuple(dict.fromkeys((shot.start, (shot.start + shot.end) // 2, shot.end - 1)))
