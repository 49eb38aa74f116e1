"""The part of the text menu that is about titles."""

from __future__ import annotations

from PyQt6.QtWidgets import QFileDialog, QInputDialog

from ezvar.app.kit.commands import Menu
from ezvar.core.errors import EzvarError
from ezvar.core.media import read_still
from ezvar.core.text import DESIGNS_KEPT, NamedDesign

from ..tools import TextTools, lock_there, title_there
from .captions import write

TITLES: Menu[TextTools] = Menu("Text › Titles", when=lock_there, everywhere=False)
_JSON = "Designs (*.json)"


@TITLES.command("text.new_title", "New title here", "Shift+A")
def new_title(tools: TextTools) -> None:
    tools.titles.begin_here()
    write.run(tools)


@TITLES.command("text.keep_design", "Keep this design as…", when=title_there)
def keep_design(tools: TextTools) -> None:
    title = tools.titles.present
    name, ok = QInputDialog.getText(tools.bench.widget, "Keep this design", "Its name:")
    if title is None or not ok or not name.strip():
        return
    try:
        DESIGNS_KEPT.keep(NamedDesign(name.strip(), title.design))
        tools.session.messages.say(f"“{name.strip()}” is kept for other titles and projects.")
    except EzvarError as error:
        tools.session.messages.say_problem(str(error))


@TITLES.command("text.use_design", "Use a kept design…", when=title_there)
def use_design(tools: TextTools) -> None:
    try:
        known = {d.name: d.design for d in DESIGNS_KEPT.load()}
    except EzvarError as error:
        tools.session.messages.say_problem(str(error))
        return
    if not known:
        tools.session.messages.say("No design is kept yet.")
        return
    name, ok = QInputDialog.getItem(tools.bench.widget, "Use a kept design", "Which:", list(known), 0, False)
    if ok:
        tools.titles.use_design(known[name])


@TITLES.command("text.give_designs", "Write the kept designs to a file…")
def give_designs(tools: TextTools) -> None:
    file, _ = QFileDialog.getSaveFileName(tools.bench.widget, "Write the kept designs", "designs.json", _JSON)
    if file:
        try:
            DESIGNS_KEPT.save(DESIGNS_KEPT.load(), file)
        except EzvarError as error:
            tools.session.messages.say_problem(str(error))


@TITLES.command("text.take_designs", "Take designs from a file…")
def take_designs(tools: TextTools) -> None:
    file, _ = QFileDialog.getOpenFileName(tools.bench.widget, "Take designs in", "", _JSON)
    if file:
        try:
            DESIGNS_KEPT.keep(*DESIGNS_KEPT.load(file))
        except EzvarError as error:
            tools.session.messages.say_problem(str(error))


@TITLES.command("text.icon", "An image before the title…", when=title_there)
def choose_icon(tools: TextTools) -> None:
    file, _ = QFileDialog.getOpenFileName(tools.bench.widget, "An image before the title", "", "Images (*.png *.jpg)")
    if file:
        try:
            read_still(file)
        except EzvarError as error:
            tools.session.messages.say_problem(str(error))
            return
        tools.titles.change_design(icon=file)
