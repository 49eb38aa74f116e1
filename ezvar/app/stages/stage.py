"""What every stage of the work has: its registration, and a page with a middle and a card."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Generic, Literal, TypeVar

import numpy as np
from PyQt6.QtWidgets import QWidget

from ezvar.app.commands import Workbench
from ezvar.app.kit.commands import Bound, Command
from ezvar.app.kit.controls import Card, KeyButton
from ezvar.app.session.session import Session
from ezvar.app.viewer.pictures import Stills, Viewer
from ezvar.core.model import Document, Shot

T = TypeVar("T")
Rows = Literal["shots", "cuts", "captions", "none"]


def counted(count: Callable[[Document, bool], int | None]) -> Callable[[Session], int | None]:
    """What waits in a stage, where it is read off the document and off whether its lock was looked through."""
    return lambda session: count(session.project.document, session.media.analysis is not None)


class Page(Generic[T]):
    """What a stage shows. Its commands are run with ``tools``."""

    middle: QWidget
    tools: T
    stage = ""  # the name of the stage whose page this is

    def __init__(self, bench: Workbench) -> None:
        self.bench = bench
        self.desk, self.session = bench.desk, bench.desk.session
        self.card = Card()

    def button(self, command: Command[Any], main: bool = False, said: str = "") -> KeyButton:
        """A button for a command."""
        return self.bench.button(command, main, said)

    def show(self) -> None:
        """Go to this page's stage."""
        self.session.at.set_stage(self.stage)

    @property
    def is_shown(self) -> bool:
        return self.session.at.stage == self.stage

    def refresh(self) -> None:
        """Bring the middle and the card up to date; called when the stage is shown and something has changed."""

    def entered(self) -> None:
        """Take up the stage's work where it waits; called when somebody turns to the stage."""

    def moved(self) -> None:
        """Bring up to date what depends on the playhead's place in the shot; called for each frame that is played."""
        self.refresh()

    def choose_all(self) -> bool:
        """Choose all of the page's own list; whether it has one, in place of the ledger."""
        return False

    def set_viewer(self, viewer: Viewer | None) -> None:
        """Show the pictures of another lock, or none."""

    def set_stills(self, stills: Stills | None) -> None:
        """Show small pictures of another lock, or none."""

    def set_loudness(self, loud: np.ndarray | None) -> None:
        """Show how loud the sound is along the lock, 0..1, or nothing of it."""

    def to_next_waiting(self) -> None:
        """Go to the next shot that needs a look, round the end and on into other masters."""
        at, readings, doc = self.session.at, self.session.readings, self.session.project.document
        shot = at.shot
        if shot is None:
            return
        place = doc.place_of(shot.id)
        for candidate in (*doc.shots[place + 1 :], *doc.shots[: place + 1]):
            if readings.needs_a_look(candidate):
                self._look_at(candidate)
                return
        for master in doc.masters:
            waits = next((s for s in doc.shots if readings.needs_a_look(s, master)), None)
            if waits is not None:
                self.session.messages.say(f"Nothing more in {at.master_name}; on in {master.name}.")
                at.set_master(master.id)
                self._look_at(waits)
                return
        self.session.messages.say("Nothing needs a look any more.")

    def _look_at(self, shot: Shot) -> None:
        """Go to the middle of a shot, where no fade or mix hides what there is to see."""
        self.bench.player.stop()
        self.session.at.go((shot.start + shot.end) // 2)


@dataclass(frozen=True)
class Stage(Generic[T]):
    """A stage's registration: all that strip, menus, ledger, edit strip and window know of it.

    ``waits`` tells of a session that has a document how much waits in the
    stage; ``None`` where nothing can be said yet. ``borrowed`` are commands of other stages that can be run in this
    one too. ``rows`` is what the ledger lists and the edit strip marks, with "none" there is no
    ledger, and ``several`` whether more than one of them can be chosen.
    """

    name: str
    title: str
    waits: Callable[[Session], int | None]
    make_page: Callable[[Workbench], Page[T]]
    commands: tuple[Command[T], ...] = ()
    borrowed: tuple[Command[Any], ...] = ()
    rows: Rows = "shots"
    several: bool = False

    def page(self, bench: Workbench) -> Page[T]:
        """The stage's page, made anew."""
        page = self.make_page(bench)
        page.stage = self.name
        return page

    def bound(self, page: Page[T], others: tuple[Stage[Any], ...]) -> tuple[Bound[T], ...]:
        """The stage's commands with its page's tools, and the stages among all ``others`` that have them."""
        return tuple(Bound(c, page.tools, self._stages_of(c, others)) for c in self.commands)

    def _stages_of(self, command: Command[T], others: tuple[Stage[Any], ...]) -> frozenset[str]:
        if command.everywhere:
            return frozenset()
        return frozenset({self.name, *(o.name for o in others if command in o.borrowed)})
