"""The masters in the lock stage: a row each, with what can be done to it, and the named sets."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QInputDialog,
    QMenu,
    QMessageBox,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from ezvar.app.background.desk import Desk
from ezvar.app.kit.controls import clear, keyed, label
from ezvar.core import edits
from ezvar.core.errors import EzvarError, InputError
from ezvar.core.framing import enlarged_by_shape
from ezvar.core.model import Document, Master, NamedRange, odd_shape
from ezvar.core.output import parse_range
from ezvar.core.store import Sets, load_sets, save_sets, sets_file


class MasterRows(QWidget):
    """All masters in their order."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk, self.session = desk, desk.session
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        self._rows = QVBoxLayout()
        self._rows.setSpacing(2)
        column.addLayout(self._rows)
        self._none = label("None yet. Choose the shapes to deliver.", "soft")
        column.addWidget(self._none)
        self.sets = QToolButton()
        self.sets.setText("Sets of masters")
        self.sets.setAccessibleName("Sets of masters")
        self.sets.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        menu = QMenu(self.sets)
        menu.aboutToShow.connect(lambda: self.fill_sets(menu))
        self.sets.setMenu(menu)

    def refresh(self, doc: Document | None) -> None:
        """Show the document's masters."""
        clear(self._rows)
        self._none.setVisible(doc is None or not doc.masters)
        self.sets.setEnabled(doc is not None)
        for master in doc.masters if doc else ():
            self._rows.addWidget(self._row(master))
            if doc and (said := enlarged_by_shape(doc, master)):
                fact = label(said, "soft")
                fact.setWordWrap(True)
                self._rows.addWidget(fact)

    def _row(self, master: Master) -> QWidget:
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 0, 0, 0)
        said = f"{master.name}   {master.width} × {master.height}"
        if master.start == "whole":
            said += ", whole"
        if master.ranges:
            said += f", {len(master.ranges)} ranges" if len(master.ranges) > 1 else ", 1 range"
        line.addWidget(label(said), 1)
        more = QToolButton()
        keyed(more)
        more.setText("Change")
        more.setAccessibleName(f"Change master {master.name}")
        more.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        more.setMenu(self._menu(master, more))
        line.addWidget(more)
        return row

    def _menu(self, master: Master, parent: QWidget) -> QMenu:
        menu = QMenu(parent)
        whole = master.start == "whole"
        for title, do in (
            ("Rename…", self.rename),
            ("Another size…", self.resize_master),
            ("Duplicate with all decisions", self.duplicate),
            ("Start filling" if whole else "Start with the whole picture", self.turn_start),
            ("Add a range…", self.add_range),
            ("Move up", lambda m: self._edit(f"Move {m.name}", edits.move_master(self._doc, m.id, -1))),
            ("Move down", lambda m: self._edit(f"Move {m.name}", edits.move_master(self._doc, m.id, 1))),
            ("Remove", lambda m: self._edit(f"Remove master {m.name}", edits.remove_master(self._doc, m.id))),
        ):
            action = menu.addAction(title)
            assert action is not None
            action.triggered.connect(lambda _, d=do, id=master.id: d(self._doc.master(id)))
        for part in master.ranges:
            action = menu.addAction(f"Remove the range {part.name}")
            assert action is not None
            action.triggered.connect(lambda _, p=part, id=master.id: self._drop_range(self._doc.master(id), p))
        return menu

    @property
    def _doc(self) -> Document:
        return self.session.project.document

    def _edit(self, what: str, doc: Document) -> None:
        self.session.project.edit(what, doc)

    def _change(self, what: str, master: Master) -> None:
        try:
            self._edit(what, edits.change_master(self._doc, master))
        except ValueError as error:
            self.session.messages.say_problem(f"{str(error)[:1].upper()}{str(error)[1:]}.")

    def rename(self, master: Master) -> None:
        name, given = QInputDialog.getText(self, "Rename", f"Name of {master.name}:", text=master.name)
        if given and name.strip():
            self._change(f"Rename {master.name}", replace(master, name=name.strip()))

    def resize_master(self, master: Master) -> None:
        """Ask for another size; solved framings are solved again for it."""
        size = f"{master.width}x{master.height}"
        text, given = QInputDialog.getText(self, "Another size", "Width x height in pixels:", text=size)
        if not given:
            return
        numbers = text.replace("×", "x").split("x")
        try:
            width, height = (int(n) for n in numbers)
            replace(master, width=width, height=height)  # which says what is wrong with a size
        except ValueError as error:
            reason = str(error) if len(numbers) == 2 and "int()" not in str(error) else "write it like 1080x1920"
            self.session.messages.say_problem(f"{text} cannot be the size: {reason}.")
            return
        if self.meant(master.name, width, height):
            self.desk.analysing.resize_master(master.id, width, height)

    def meant(self, name: str, width: int, height: int) -> bool:
        """Ask where a name and a size do not go together."""
        question = odd_shape(name, width, height)
        return not question or (
            QMessageBox.question(self, "Shape and size", question) == QMessageBox.StandardButton.Yes
        )

    def duplicate(self, master: Master) -> None:
        doc, new = edits.duplicate_master(self._doc, master.id)
        self._edit(f"Duplicate {master.name}", doc)
        self.session.at.set_master(new.id)

    def turn_start(self, master: Master) -> None:
        turned = replace(master, start="fill" if master.start == "whole" else "whole")
        self._change(f"Start of {master.name}", turned)
        self.desk.analysing.solve_master(master.id)

    def add_range(self, master: Master) -> None:
        """Ask for a named part to deliver, with the length it must not exceed."""
        lock = self._doc.lock
        text, given = QInputDialog.getText(
            self, "Add a range", "Name, in and out, and perhaps the longest in seconds,\nsuch as: trailer, 0-375, 15",
            text=f"part {len(master.ranges) + 1}, 0-{lock.frames}",
        )  # fmt: skip
        if not given:
            return
        name, _, rest = text.partition(",")
        span, _, limit = rest.partition(",")
        try:
            frames = parse_range(span.strip(), lock)
            most = float(limit) if limit.strip() else None
        except (InputError, ValueError) as error:
            self.session.messages.say_problem(str(error))
            return
        part = NamedRange(name.strip() or f"part {len(master.ranges) + 1}", frames.start, frames.end, most)
        if most is not None and lock.rate.seconds(len(frames)) > most:
            self.session.messages.say_problem(
                f"{part.name} lasts {float(lock.rate.seconds(len(frames))):.2f} s, over {most:g} s."
            )
        self._change(f"Range {part.name}", replace(master, ranges=(*master.ranges, part)))

    def _drop_range(self, master: Master, part: NamedRange) -> None:
        self._change(f"Remove range {part.name}", replace(master, ranges=tuple(r for r in master.ranges if r != part)))

    # Sets

    def _load(self) -> Sets:
        try:
            return load_sets(sets_file())
        except EzvarError as error:
            self.session.messages.say_problem(str(error))
            return Sets()

    def _save(self, sets: Sets) -> None:
        try:
            save_sets(sets, sets_file())
        except EzvarError as error:
            self.session.messages.say_problem(str(error))

    def fill_sets(self, menu: QMenu) -> None:
        """Put what can be done with sets into a menu, as they are now."""
        menu.clear()
        sets = self._load()

        def add(to: QMenu, title: str, do: Callable[[], object]) -> None:
            action = to.addAction(title)
            assert action is not None
            action.triggered.connect(lambda _: do())

        for each in sets.sets:
            part = menu.addMenu(each.name + (" (default)" if each.name == sets.default else ""))
            assert part is not None
            add(part, "Add these masters", lambda s=each: self.desk.analysing.add_masters(s.masters))  # type: ignore[misc]
            add(part, "Make it the default", lambda s=each: self._save(replace(sets, default=s.name)))  # type: ignore[misc]
            add(part, "Remove the set", lambda s=each: self._save(sets.without(s.name)))  # type: ignore[misc]
        menu.addSeparator()
        add(menu, "Save the present masters as a set…", lambda: self.save_set(sets))
        add(menu, "Export all sets…", lambda: self._export(sets))
        add(menu, "Import sets…", lambda: self._import(sets))

    def save_set(self, sets: Sets) -> None:
        """Keep the present masters under a name."""
        if not self._doc.masters:
            self.session.messages.say_problem("There are no masters to keep as a set yet.")
            return
        name, given = QInputDialog.getText(self, "Save a set", "Name of the set:", text="usual")
        if given and name.strip():
            self._save(sets.put(name, self._doc.masters))

    def _export(self, sets: Sets) -> None:
        path, _ = QFileDialog.getSaveFileName(self, "Export sets", "masters.json", "Sets of masters (*.json)")
        if path:
            try:
                save_sets(sets, path)
            except EzvarError as error:
                self.session.messages.say_problem(str(error))

    def _import(self, sets: Sets) -> None:
        path, _ = QFileDialog.getOpenFileName(self, "Import sets", "", "Sets of masters (*.json)")
        if path:
            try:
                for each in load_sets(path).sets:
                    sets = sets.put(each.name, each.masters)
            except EzvarError as error:
                self.session.messages.say_problem(str(error))
                return
            self._save(sets)
