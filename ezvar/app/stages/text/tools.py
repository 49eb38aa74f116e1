"""What the commands of the text stage work with."""

from __future__ import annotations

from ezvar.app.commands import Workbench

from .board import Board
from .card import TextPart
from .grid import Grid
from .lane import Lane
from .title_part import TitlePart


class TextTools:
    """The session, the work on captions, and the parts of the stage."""

    def __init__(self, bench: Workbench, board: Board, grid: Grid, lane: Lane) -> None:
        self.bench, self.board, self.grid, self.lane = bench, board, grid, lane
        self.desk, self.session = bench.desk, bench.desk.session
        self.work = self.desk.text_work
        self.titles = self.desk.title_work
        self.text: TextPart | None = None
        self.title_text: TitlePart | None = None


def lock_there(tools: TextTools) -> bool:
    return tools.session.project.doc is not None


def caption_there(tools: TextTools) -> bool:
    return tools.work.present is not None


def title_there(tools: TextTools) -> bool:
    return tools.titles.present is not None


def titles_there(tools: TextTools) -> bool:
    doc = tools.session.project.doc
    return bool(doc and doc.titles)


def item_there(tools: TextTools) -> bool:
    """Whether there is a caption or a title to work on."""
    return caption_there(tools) or title_there(tools)


def placed_there(tools: TextTools) -> bool:
    """Whether there is something that has a place of its own: a caption, a title, or a layer of the lock."""
    return caption_there(tools) or bool(tools.titles.item)


def captions_there(tools: TextTools) -> bool:
    doc = tools.session.project.doc
    return bool(doc and doc.tracks)
