"""The part of the text menu that is about writing in the picture: titled anew, on a textless version."""

from __future__ import annotations

from PyQt6.QtWidgets import QFileDialog

from ezvar.app.kit.commands import Menu
from ezvar.core import edits

from ..tools import TextTools, lock_there
from .captions import write

WRITING: Menu[TextTools] = Menu("Text › Writing in the picture", when=lock_there, everywhere=False)


def _linked(tools: TextTools) -> bool:
    doc = tools.session.project.doc
    return doc is not None and doc.textless is not None


@WRITING.command("text.anew", "Title the writing anew", "Shift+W")
def title_anew(tools: TextTools) -> None:
    """A title in the place of the writing in the present shot, which is framed without it."""
    if tools.titles.title_anew():
        write.run(tools)


@WRITING.command("text.link_textless", "Link a textless version…")
def link_textless(tools: TextTools) -> None:
    file, _ = QFileDialog.getOpenFileName(tools.bench.widget, "The same edit without its titles")
    if file:
        tools.titles.link_textless(file)


@WRITING.command("text.let_go_textless", "Let the textless version go", when=_linked)
def let_go_textless(tools: TextTools) -> None:
    tools.work.edit("Let the textless version go", lambda d: edits.link_textless(d, None))


@WRITING.command("text.textless", "Show this shot textless, or as it is", "Shift+B", when=_linked)
def turn_textless(tools: TextTools) -> None:
    shot, doc = tools.session.at.shot, tools.session.project.document
    if shot is not None:
        use = not doc.is_textless(shot.id)
        label = f"Shot {doc.place_of(shot.id) + 1} {'textless' if use else 'as it is'}"
        tools.titles.use_textless([shot.id], use, label)


@WRITING.command("text.all_textless", "Show every shot textless", when=_linked)
def all_textless(tools: TextTools) -> None:
    shots = [s.id for s in tools.session.project.document.shots if s.uses != "the full source"]
    tools.titles.use_textless(shots, True, "Every shot textless")
