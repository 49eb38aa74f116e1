"""The output menu."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from ezvar.app.commands import Workbench
from ezvar.app.kit.commands import Menu

from .making import Making


@dataclass(frozen=True)
class OutputTools:
    """What the commands of the output menu work with; ``show`` goes to the stage."""

    bench: Workbench
    making: Making
    show: Callable[[], None]


def _something_to_make(tools: OutputTools) -> bool:
    return bool(tools.making.rows()) and tools.bench.session.media.reader is not None


OUTPUT: Menu[OutputTools] = Menu("Output", when=_something_to_make)


@OUTPUT.command("output.make", "Make the master", "Ctrl+M")
def make(tools: OutputTools) -> None:
    master = tools.bench.session.at.master
    if master is not None:
        tools.show()
        tools.making.make((master,))


@OUTPUT.command("output.make_all", "Make all masters", "Ctrl+Shift+M")
def make_all(tools: OutputTools) -> None:
    tools.show()
    tools.making.make(tools.bench.session.project.document.masters)
