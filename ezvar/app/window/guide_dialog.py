"""The guide: the whole work in writing, with pictures."""

from __future__ import annotations

import sys
from pathlib import Path

from PyQt6.QtCore import Qt, QUrl
from PyQt6.QtGui import QImage, QTextCursor
from PyQt6.QtWidgets import QDialog, QTextBrowser, QVBoxLayout, QWidget

import ezvar
from ezvar.app.kit import theme

_NAME, _WIDE = "GUIDE.md", 860


def guide_file() -> Path | None:
    """Where the guide is: beside the program's source, or where it was installed; ``None`` where it is not."""
    beside = Path(ezvar.__file__).parents[1] / "docs" / _NAME
    installed = Path(sys.prefix) / "share" / "ezvar" / "guide" / _NAME
    return next((file for file in (beside, installed) if file.is_file()), None)


class _Pages(QTextBrowser):
    """Shows pictures as wide as the page."""

    def loadResource(self, kind: int, name: QUrl) -> object:
        found = super().loadResource(kind, name)
        path = self.source().resolved(name).toLocalFile() if name.isRelative() else name.toLocalFile()
        if path.endswith(".png"):
            image = QImage(path)
            if not image.isNull():
                return image.scaledToWidth(theme.px(_WIDE), Qt.TransformationMode.SmoothTransformation)
        return found


class GuideDialog(QDialog):
    """The guide, to be read beside the work."""

    def __init__(self, file: Path, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Guide")
        self.resize(theme.px(_WIDE + 84), theme.px(700))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        self.pages = _Pages()
        self.pages.setAccessibleName("Guide")
        self.pages.setSource(QUrl.fromLocalFile(str(file)))
        self.pages.setOpenLinks(False)
        self._give_room()
        column.addWidget(self.pages)

    def _give_room(self) -> None:
        """Let headings stand apart from what is before them, and paragraphs from each other."""
        document = self.pages.document()
        assert document is not None
        document.setDocumentMargin(theme.px(24))
        block = document.begin()
        while block.isValid():
            shape, cursor = block.blockFormat(), QTextCursor(block)
            level = shape.headingLevel()
            shape.setTopMargin(theme.px(22 if level > 1 else 0))
            shape.setBottomMargin(theme.px(4 if block.textList() is not None else 10))
            cursor.setBlockFormat(shape)
            block = block.next()
