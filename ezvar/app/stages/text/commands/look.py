"""The part of the text menu that is about how captions look."""

from __future__ import annotations

from PyQt6.QtWidgets import QFileDialog, QInputDialog

from ezvar.app.kit.commands import Menu
from ezvar.core.errors import EzvarError
from ezvar.core.text import STYLES, ZONES, NamedStyle, fitting_size, known_zones, read_font

from ..tools import TextTools, captions_there

LOOK: Menu[TextTools] = Menu("Text › Look", when=captions_there, everywhere=False)


@LOOK.command("text.fitting", "The size that nearly all fit at")
def fitting(tools: TextTools) -> None:
    track, master, doc = tools.work.track, tools.session.at.master, tools.session.project.document
    if track is not None and master is not None:
        tools.work.change_style(size=fitting_size(doc, track, master))


@LOOK.command("text.take_zones", "Take overlay zones from a file…")
def take_zones(tools: TextTools) -> None:
    file, _ = QFileDialog.getOpenFileName(tools.bench.widget, "Take overlay zones in", "", "Overlay zones (*.json)")
    if file:
        try:
            new = ZONES.load(file)
            ZONES.keep(*new)
            tools.session.messages.say(
                f"{len(new)} profiles of overlay zones can be chosen for masters of their shape."
            )
        except EzvarError as error:
            tools.session.messages.say_problem(str(error))


@LOOK.command("text.give_zones", "Write the overlay zones to a file…")
def give_zones(tools: TextTools) -> None:
    file, _ = QFileDialog.getSaveFileName(tools.bench.widget, "Write the overlay zones", "zones.json", "Zones (*.json)")
    if file:
        try:
            ZONES.save(known_zones(), file)
        except EzvarError as error:
            tools.session.messages.say_problem(str(error))


@LOOK.command("text.same", "The same look in all masters")
def same_in_all(tools: TextTools) -> None:
    style, doc = tools.work.style(), tools.session.project.document
    if style is not None:
        tools.work.set_style(style, doc.masters)


@LOOK.command("text.keep_look", "Keep this look as…")
def keep_look(tools: TextTools) -> None:
    style = tools.work.style()
    name, ok = QInputDialog.getText(tools.bench.widget, "Keep this look", "Its name:")
    if style is None or not ok or not name.strip():
        return
    try:
        STYLES.keep(NamedStyle(name.strip(), style))
        tools.session.messages.say(f"“{name.strip()}” is kept for other masters and projects.")
    except EzvarError as error:
        tools.session.messages.say_problem(str(error))


@LOOK.command("text.use_look", "Use a kept look…")
def use_look(tools: TextTools) -> None:
    try:
        known = {s.name: s.style for s in STYLES.load()}
    except EzvarError as error:
        tools.session.messages.say_problem(str(error))
        return
    if not known:
        tools.session.messages.say("No look is kept yet.")
        return
    name, ok = QInputDialog.getItem(tools.bench.widget, "Use a kept look", "Which:", list(known), 0, False)
    if ok:
        tools.work.set_style(known[name])


@LOOK.command("text.give_looks", "Write the kept looks to a file…")
def give_looks(tools: TextTools) -> None:
    file, _ = QFileDialog.getSaveFileName(tools.bench.widget, "Write the kept looks", "looks.json", "Looks (*.json)")
    if file:
        try:
            STYLES.save(STYLES.load(), file)
        except EzvarError as error:
            tools.session.messages.say_problem(str(error))


@LOOK.command("text.take_looks", "Take looks from a file…")
def take_looks(tools: TextTools) -> None:
    file, _ = QFileDialog.getOpenFileName(tools.bench.widget, "Take looks in", "", "Looks (*.json)")
    if file:
        try:
            new = STYLES.load(file)
            STYLES.keep(*new)
            tools.session.messages.say(f"{len(new)} looks were taken.")
        except EzvarError as error:
            tools.session.messages.say_problem(str(error))


@LOOK.command("text.font", "Use a font file…")
def use_font(tools: TextTools) -> None:
    file, _ = QFileDialog.getOpenFileName(tools.bench.widget, "Use a font file", "", "Fonts (*.ttf *.otf *.ttc)")
    if file:
        try:
            font = read_font(file)
        except EzvarError as error:
            tools.session.messages.say_problem(str(error))
            return
        tools.work.change_style(family=font.family, font=font.path, font_content=font.content)
