"""Framings given on: copied, pasted, to the set-up, from the master before; and a look before agreeing."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtWidgets import QInputDialog

from ezvar.app.kit.commands import Menu
from ezvar.core.framing import Copied, carried

from ..agree_preview import AgreePreview
from ..tools import FramingTools, framing_there
from .ways import agree

SEVERAL: Menu[FramingTools] = Menu("Framing › Several shots", when=framing_there, everywhere=False)
COPIED: dict[Copied, str] = {
    "everything": "Everything",
    "position": "The position only",
    "zoom": "The zoom only",
    "choices": "The choices, each solved by itself",
}


@SEVERAL.command("framing.copy", "Copy the framing", "Ctrl+C")
def copy(tools: FramingTools) -> None:
    tools.work.copied = tools.at.framing
    tools.messages.say("The framing is copied.")


def _paste(tools: FramingTools, copied: Copied) -> None:
    if tools.work.copied is None:
        tools.messages.say("No framing was copied yet.")
        return
    to = tuple(s.id for s in tools.work.targets())
    tools.work.give(tools.work.copied, to, copied, f"Paste {COPIED[copied].lower()}")


@SEVERAL.command("framing.paste", "Paste the framing", "Ctrl+V")
def paste_all(tools: FramingTools) -> None:
    _paste(tools, "everything")


@SEVERAL.command("framing.paste_part", "Paste a part of the framing…", "Ctrl+Shift+V")
def paste_a_part(tools: FramingTools) -> None:
    words = list(COPIED.values())
    said, given = QInputDialog.getItem(tools.bench.widget, "Paste the framing", "What of it:", words, 0, False)
    if given:
        _paste(tools, next(copied for copied, text in COPIED.items() if text == said))


def _give(tools: FramingTools, copied: Copied) -> None:
    place, group = tools.place, tools.desk.of_shot.setup
    if not group:
        tools.messages.say("This shot's camera position does not come again.")
        return
    tools.work.give(place.framing, tuple(s for s in group if s != place.shot.id), copied, "Give to the set-up")


@SEVERAL.command("framing.give", "Give to the set-up", "G")
def give(tools: FramingTools) -> None:
    _give(tools, "everything")


@SEVERAL.command("framing.give_choices", "Give the choices to the set-up, solve each", "Shift+G")
def give_choices(tools: FramingTools) -> None:
    _give(tools, "choices")


@SEVERAL.command("framing.carry", "Carry over from the master before", "C")
def carry_over(tools: FramingTools) -> None:
    masters, master = tools.project.document.masters, tools.place.master
    if len(masters) < 2:
        tools.messages.say("There is no other master to carry it over from.")
        return
    source, analysis = masters[masters.index(master) - 1], tools.session.media.analysis
    tools.work.each(
        f"Carry over from {source.name}",
        lambda p: carried(replace(p, master=source), p.master, analysis),
    )


@SEVERAL.command("framing.look", "Look at the chosen shots first…", "Ctrl+G")
def look_first(tools: FramingTools) -> None:
    if AgreePreview(tools.bench.widget, tools.desk).exec():
        agree.run(tools)
