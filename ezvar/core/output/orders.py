"""Rows on their way to be movies: what is ordered, and what each came to."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Literal

from ezvar.core.errors import EzvarError
from ezvar.core.model import Document, MadePart, Making, Master, Report, Row
from ezvar.core.progress import CancelToken


@dataclass(frozen=True)
class Order:
    """A row to be made of a document, at ``target``.

    ``before`` is what was made of it the last time, of which parts that show
    the same are taken over. ``cancel`` stops this row alone.
    """

    doc: Document
    row: Row
    target: Path
    before: Making | None = None
    cancel: CancelToken = field(default_factory=CancelToken, compare=False)

    @property
    def master(self) -> Master:
        return self.doc.master(self.row.master)


@dataclass(frozen=True)
class Made:
    """What a row came to: a finished movie, and what its check said of it; or, with ``error``, none.

    ``error`` is ``None`` too for a row that was ``stopped``. What is whole of
    an unfinished row is kept, for it to go on.
    """

    path: Path
    frames: int
    report: Report = field(default_factory=Report)
    parts: tuple[MadePart, ...] = ()
    sound: str = ""
    error: EzvarError | None = None
    stopped: bool = False

    @property
    def problems(self) -> tuple[str, ...]:
        """What is wrong with it, in sentences."""
        return self.report.problems


Doing = Literal["to be made", "under way", "made"]
OnPart = Callable[[str, int, int, Doing], object]
"""Told of a row's id and lock frames of one of its parts, and what is done with it."""


def nobody(row: str, start: int, end: int, doing: Doing) -> None:
    """An `OnPart` that nobody watches."""
