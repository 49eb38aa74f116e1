"""Commands as data: id, title, key, menu, when, and the function itself. Knows no Qt."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, Generic, TypeVar

T = TypeVar("T")


def always(tools: object) -> bool:
    """For commands that can be run at any time."""
    return True


@dataclass(frozen=True)
class Command(Generic[T]):
    """What can be done with tools of a kind.

    ``menu`` names the menu, and after › the part of it. ``when`` tells
    whether it can be run now; elsewhere it is switched off in menus and on
    buttons, and ``run`` is not called. One that is not ``everywhere`` can be
    run in the stages alone that have it.
    """

    id: str
    title: str
    run: Callable[[T], object]
    key: str = ""
    menu: str = ""
    when: Callable[[T], bool] = always
    everywhere: bool = True
    said: Callable[[T], str] | None = None
    """A title that tells more, of the moment."""


class Menu(Generic[T]):
    """A menu, or a part of one, and the commands that are declared for it, each at its function."""

    def __init__(self, title: str, when: Callable[[T], bool] = always, everywhere: bool = True) -> None:
        self._title, self._when, self._everywhere = title, when, everywhere
        self.commands: list[Command[T]] = []

    def add(
        self,
        id: str,
        title: str,
        run: Callable[[T], object],
        key: str = "",
        when: Callable[[T], bool] | None = None,
        everywhere: bool | None = None,
        said: Callable[[T], str] | None = None,
    ) -> Command[T]:
        """Declare a command; ``when`` and ``everywhere`` are the menu's where they are not given."""
        here = self._everywhere if everywhere is None else everywhere
        made = Command(id, title, run, key, self._title, when or self._when, here, said)
        self.commands.append(made)
        return made

    def command(
        self,
        id: str,
        title: str,
        key: str = "",
        when: Callable[[T], bool] | None = None,
        everywhere: bool | None = None,
        said: Callable[[T], str] | None = None,
    ) -> Callable[[Callable[[T], object]], Command[T]]:
        """Declare the function below as a command, in whose place it then stands."""
        return lambda run: self.add(id, title, run, key, when, everywhere, said)


@dataclass(frozen=True)
class Bound(Generic[T]):
    """A command with the tools that it is run with. ``stages`` empty means in every stage."""

    command: Command[T]
    tools: T
    stages: frozenset[str] = field(default_factory=frozenset)

    def run(self) -> None:
        """Run it, if it can be run now."""
        if self.command.when(self.tools):
            self.command.run(self.tools)

    def title(self) -> str:
        """The title at this moment."""
        return self.command.said(self.tools) if self.command.said else self.command.title


class Catalogue:
    """All commands there are, in the order of their menus."""

    def __init__(self, menus: Sequence[str], bound: Iterable[Bound[Any]]) -> None:
        place = {menu: k for k, menu in enumerate(menus)}
        self.bound: tuple[Bound[Any], ...] = tuple(
            sorted(bound, key=lambda b: place[b.command.menu.partition(" › ")[0]])
        )

    @cached_property
    def by_id(self) -> dict[str, Bound[Any]]:
        return {b.command.id: b for b in self.bound}

    @property
    def commands(self) -> tuple[Command[Any], ...]:
        return tuple(b.command for b in self.bound)

    def can_run(self, stage: str) -> set[str]:
        """The ids of the commands that can be run now, in a stage. Each condition is asked about once."""
        known: dict[tuple[int, int], bool] = {}
        found = set()
        for b in self.bound:
            if b.stages and stage not in b.stages:
                continue
            asked = id(b.command.when), id(b.tools)
            if asked not in known:
                known[asked] = b.command.when(b.tools)
            if known[asked]:
                found.add(b.command.id)
        return found


def meet(a: Bound[Any], b: Bound[Any]) -> bool:
    """Whether there is a stage in which both can be run."""
    return not a.stages or not b.stages or bool(a.stages & b.stages)
