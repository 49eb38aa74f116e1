"""What became of rows: what was made, what is still to be made, and the documents that they were made from."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from typing import Literal

from .report import Report
from .rows import Row

OrderState = Literal["waits", "stopped", "failed"]
SentState = Literal["accepted", "refused", "broken off"]


@dataclass(frozen=True, slots=True)
class MadePart:
    """A part of a file that was made: lock frames, the name of what it shows, and those of its lock frames whose media
    were ``damaged``."""

    start: int
    end: int
    name: str
    damaged: tuple[int, ...] = ()


@dataclass(frozen=True)
class Making:
    """What was made of a row: the ``file``, with a ``stamp`` that tells it from a changed one, the ``parts`` that it
    consists of, and the name of the ``sound`` in it; ``checked`` where its check found all as it should be."""

    file: str
    stamp: str
    parts: tuple[MadePart, ...]
    sound: str = ""
    checked: bool = False


@dataclass(frozen=True, slots=True)
class Sent:
    """What came of sending a movie to a receiver, by the name of its profile: when (ISO 8601, UTC), why it was not
    taken, and how much of it is there, 0..1. ``stamp`` is that of the file."""

    receiver: str
    state: SentState
    moment: str
    said: str = ""
    there: float = 1.0
    stamp: str = ""


@dataclass(frozen=True)
class Finished:
    """A row that was made, as it was ordered: when (ISO 8601, UTC), what its check said, and what was known to wait
    when it was ordered ``anyway``. ``revision`` names the document that it was made from."""

    row: Row
    revision: str
    made: Making
    moment: str
    report: Report = field(default_factory=Report)
    anyway: tuple[str, ...] = ()
    sent: Sent | None = None


@dataclass(frozen=True)
class Ordered:
    """A row that is to be made at ``target``, and is not yet: it waits, was stopped, or failed with what is ``said``.

    It is made of the document that ``revision`` names; empty until that is kept.
    """

    row: Row
    target: str
    revision: str = ""
    state: OrderState = "waits"
    said: str = ""
    anyway: tuple[str, ...] = ()


@dataclass(frozen=True)
class Revision:
    """A document as it was when rows were ordered, packed; its ``name`` is the same for the same content."""

    name: str
    packed: str


@dataclass(frozen=True)
class Makings:
    """All that became of rows, kept in the project; no step of undo."""

    finished: tuple[Finished, ...] = ()
    ordered: tuple[Ordered, ...] = ()
    revisions: tuple[Revision, ...] = ()

    def finished_of(self, row: str) -> Finished | None:
        """What was made of a row the last time."""
        return next((f for f in self.finished if f.row.id == row), None)

    def ordered_of(self, row: str) -> Ordered | None:
        """The order of a row that is not made yet."""
        return next((o for o in self.ordered if o.row.id == row), None)

    def revision(self, name: str) -> Revision | None:
        """The document of a name, where it is kept."""
        return next((r for r in self.revisions if r.name == name), None)

    def with_ordered(self, orders: Iterable[Ordered], *revisions: Revision) -> Makings:
        """With orders, in place of those of the same rows, and the documents that they name."""
        new = {o.row.id: o for o in orders}
        ordered = tuple(new.pop(o.row.id, o) for o in self.ordered)
        return replace(self, ordered=(*ordered, *new.values()))._with(revisions)

    def with_finished(self, finished: Finished) -> Makings:
        """With a row that was made; its order is done."""
        others = tuple(f for f in self.finished if f.row.id != finished.row.id)
        ordered = tuple(o for o in self.ordered if o.row.id != finished.row.id)
        return replace(self, finished=(*others, finished), ordered=ordered)._with(())

    def with_sent(self, row: str, sent: Sent) -> Makings:
        """With what came of sending what was made of a row; as it is where that is not the file any more."""
        return replace(
            self,
            finished=tuple(
                replace(f, sent=sent) if f.row.id == row and f.made.stamp == sent.stamp else f for f in self.finished
            ),
        )

    def without_ordered(self, row: str) -> Makings:
        """Without the order of a row."""
        return replace(self, ordered=tuple(o for o in self.ordered if o.row.id != row))._with(())

    def ended(self) -> Makings:
        """As it is after the program has ended: nothing waits any more, it was stopped."""
        return replace(
            self, ordered=tuple(replace(o, state="stopped") if o.state == "waits" else o for o in self.ordered)
        )

    def with_later(self, later: Makings) -> Makings:
        """With what became of rows since, by a program that had another project open then."""
        made = {f.row.id: f for f in later.finished}
        kept = tuple(f for f in self.finished if f.row.id not in made)
        orders = {o.row.id: o for o in later.ordered}
        ordered = tuple(o for o in self.ordered if o.row.id not in orders and o.row.id not in made)
        joined = Makings((*kept, *made.values()), (*ordered, *orders.values()), self.revisions)
        return joined._with(later.revisions)

    def _with(self, revisions: tuple[Revision, ...]) -> Makings:
        """With more documents, and without those that nothing names."""
        named = {f.revision for f in self.finished} | {o.revision for o in self.ordered}
        every = {r.name: r for r in (*self.revisions, *revisions)}
        return replace(self, revisions=tuple(r for r in every.values() if r.name in named))
