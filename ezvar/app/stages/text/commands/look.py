"""The part of the text menu that is about how captions look."""

from __future__ import annotations

from ezvar.app.kit.commands import Menu
from ezvar.core.text import STYLES, ZONES, NamedStyle, fitting_size, known_zones

from ..tools import TextTools, captions_there, item_there, title_there
from ..type_box import font_chosen
from .keeping import Keeping

LOOK: Menu[TextTools] = Menu("Text › Look", when=captions_there, everywhere=False)
_LOOKS = Keeping(STYLES, "look", "looks")
_ZONES = Keeping(ZONES, "profile of overlay zones", "overlay zones")


@LOOK.command("text.fitting", "The size that nearly all fit at")
def fitting(tools: TextTools) -> None:
    track, master, doc = tools.work.track, tools.session.at.master, tools.session.project.document
    if track is not None and master is not None:
        tools.work.change_style(size=fitting_size(doc, track, master))


@LOOK.command("text.take_zones", "Take overlay zones from a file…")
def take_zones(tools: TextTools) -> None:
    _ZONES.take(tools)


@LOOK.command("text.give_zones", "Write the overlay zones to a file…")
def give_zones(tools: TextTools) -> None:
    _ZONES.give(tools, known_zones)


@LOOK.command("text.same", "The same look in all masters")
def same_in_all(tools: TextTools) -> None:
    style, doc = tools.work.style(), tools.session.project.document
    if style is not None:
        tools.work.set_style(style, doc.masters)


@LOOK.command("text.keep_look", "Keep this look as…")
def keep_look(tools: TextTools) -> None:
    style = tools.work.style()
    if style is not None:
        _LOOKS.keep(tools, lambda name: NamedStyle(name, style))


@LOOK.command("text.use_look", "Use a kept look…")
def use_look(tools: TextTools) -> None:
    kept = _LOOKS.chosen(tools)
    if kept is not None:
        tools.work.set_style(kept.style)


@LOOK.command("text.give_looks", "Write the kept looks to a file…")
def give_looks(tools: TextTools) -> None:
    _LOOKS.give(tools, STYLES.load)


@LOOK.command("text.take_looks", "Take looks from a file…")
def take_looks(tools: TextTools) -> None:
    _LOOKS.take(tools)


@LOOK.command("text.font", "Use a font file…", when=item_there)
def use_font(tools: TextTools) -> None:
    font = font_chosen(tools.bench.widget, tools.session.messages)
    if font is not None:
        change = tools.titles.change_design if title_there(tools) else tools.work.change_style
        change(family=font.family, font=font.path, font_content=font.content)
