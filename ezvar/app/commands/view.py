"""What the commands of the view menu do."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from ezvar.app.window.main_window import MainWindow

_STEP = 1.25


class ViewCommands:
    """The commands of the view menu, a method each."""

    def __init__(self, window: MainWindow) -> None:
        self._window = window

    def of(self, what: str) -> Callable[[], object]:
        """The method that runs a command."""
        method: Callable[[], object] = getattr(self, what)
        return method

    def guides(self) -> None:
        self._window.framing.well.turn_guides()

    def wipe(self) -> None:
        self._window.framing.well.turn_wipe()

    def enlarge(self) -> None:
        self._window.framing.well.enlarge_next()

    def closer(self) -> None:
        self._window.framing.well.zoom_by(_STEP)

    def farther(self) -> None:
        self._window.framing.well.zoom_by(1 / _STEP)

    def fit(self) -> None:
        self._window.framing.well.fit()

    def chart_closer(self) -> None:
        self._window.framing.sweep.zoom_by(_STEP)

    def chart_farther(self) -> None:
        self._window.framing.sweep.zoom_by(1 / _STEP)

    def chart_height(self) -> None:
        self._window.framing.sweep.turn_height()

    def snap(self) -> None:
        self._window.framing.sweep.turn_snapping()

    def theme(self) -> None:
        self._window.turn_theme()

    def snap_cuts(self) -> None:
        self._window.framing.sweep.turn_snap("cuts")

    def snap_keyframes(self) -> None:
        self._window.framing.sweep.turn_snap("keyframes")

    def snap_playhead(self) -> None:
        self._window.framing.sweep.turn_snap("playhead")

    def text(self) -> None:
        self._window.turn_text_size()
