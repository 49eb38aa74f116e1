"""Reports of the program's own mistakes: to be read, and copied for whoever mends them."""

from __future__ import annotations

from PyQt6.QtWidgets import (
    QApplication,
    QCheckBox,
    QDialog,
    QDialogButtonBox,
    QPlainTextEdit,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from ezvar.app.kit import theme
from ezvar.app.kit.controls import label
from ezvar.core.store import kept_reports, report_text


class ReportsDialog(QDialog):
    """Lists the reports, the newest first, and shows the chosen one; without anybody's names where that is ticked."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Reports of mistakes")
        self.resize(theme.px(680), theme.px(520))
        column = QVBoxLayout(self)
        self._reports = kept_reports()
        said = "Where Ezvar made a mistake, it wrote down what it was doing." if self._reports else "There is none."
        self.tree = QTreeWidget()
        self.tree.setHeaderLabels(["When", "What"])
        self.tree.setAccessibleName("Reports")
        self.tree.setRootIsDecorated(False)
        self.tree.setMaximumHeight(theme.px(150))
        for report in self._reports:
            self.tree.addTopLevelItem(QTreeWidgetItem([report.when, report.what]))
        self.tree.resizeColumnToContents(0)
        self.text = QPlainTextEdit()
        self.text.setReadOnly(True)
        self.text.setAccessibleName("The report")
        self.without = QCheckBox("Without the names of files, to be sent on")
        self.without.setChecked(True)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        self.copy = QPushButton("Copy it")
        buttons.addButton(self.copy, QDialogButtonBox.ButtonRole.ActionRole)
        for widget in (label(said, "soft"), self.tree, self.text, self.without, buttons):
            column.addWidget(widget)
        self.tree.currentItemChanged.connect(self.show_chosen)
        self.without.toggled.connect(self.show_chosen)
        self.copy.clicked.connect(lambda: QApplication.clipboard().setText(self.text.toPlainText()))  # type: ignore[union-attr]
        buttons.rejected.connect(self.reject)
        if self._reports:
            self.tree.setCurrentItem(self.tree.topLevelItem(0))
        self.show_chosen()

    def show_chosen(self) -> None:
        """Show the chosen report as it is to be shown."""
        at = self.tree.indexOfTopLevelItem(self.tree.currentItem()) if self.tree.currentItem() else -1
        named = not self.without.isChecked()
        self.text.setPlainText(report_text(self._reports[at].file, named) if at >= 0 else "")
        self.copy.setEnabled(at >= 0)
