"""The part of the text menu that is about titles."""

from __future__ import annotations

from PyQt6.QtWidgets import QFileDialog

from ezvar.app.kit.commands import Menu
from ezvar.core import edits
from ezvar.core.errors import EzvarError
from ezvar.core.media import read_still
from ezvar.core.text import DESIGNS_KEPT, NamedDesign

from ..tools import TextTools, lock_there, title_there, titles_there
from .captions import write
from .keeping import Keeping

TITLES: Menu[TextTools] = Menu("Text › Titles", when=lock_there, everywhere=False)
_DESIGNS = Keeping(DESIGNS_KEPT, "design", "designs")


@TITLES.command("text.new_title", "New title here", "Shift+A")
def new_title(tools: TextTools) -> None:
    tools.titles.begin_here()
    write.run(tools)


@TITLES.command("text.show_titles", "Show the titles, or hide all of them", when=titles_there)
def show_titles(tools: TextTools) -> None:
    shown = not tools.session.project.document.title_lane.shown
    label = "Show the titles" if shown else "Hide the titles"
    tools.work.edit(label, lambda d: edits.set_title_lane(d, shown=shown))


@TITLES.command("text.lock_titles", "Lock the titles, or unlock them", when=titles_there)
def lock_titles(tools: TextTools) -> None:
    locked = not tools.session.project.document.title_lane.locked
    label = "Lock the titles" if locked else "Unlock the titles"
    tools.work.edit(label, lambda d: edits.set_title_lane(d, locked=locked))


@TITLES.command("text.keep_design", "Keep this design as…", when=title_there)
def keep_design(tools: TextTools) -> None:
    title = tools.titles.present
    if title is not None:
        _DESIGNS.keep(tools, lambda name: NamedDesign(name, title.design))


@TITLES.command("text.use_design", "Use a kept design…", when=title_there)
def use_design(tools: TextTools) -> None:
    kept = _DESIGNS.chosen(tools)
    if kept is not None:
        tools.titles.use_design(kept.design)


@TITLES.command("text.give_designs", "Write the kept designs to a file…")
def give_designs(tools: TextTools) -> None:
    _DESIGNS.give(tools, DESIGNS_KEPT.load)


@TITLES.command("text.take_designs", "Take designs from a file…")
def take_designs(tools: TextTools) -> None:
    _DESIGNS.take(tools)


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
