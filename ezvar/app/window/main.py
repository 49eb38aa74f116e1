"""Starting the application."""

from __future__ import annotations

import gc
import os
import sys

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication

from ezvar.app.kit import theme
from ezvar.app.session.jobs import Jobs, told
from ezvar.core.apart import warm
from ezvar.core.errors import EzvarError
from ezvar.core.framing import load_solver
from ezvar.core.memory import keep_tidy
from ezvar.core.progress import CancelToken, Progress
from ezvar.core.store import all_went_well, watch_for_faults
from ezvar.core.threads import begin

from .main_window import MainWindow

_COLLECTED = (20_000, 10, 10)
"""After how many new objects the collector looks for what only holds itself. Values are made by ten thousands, and are
hardly ever in circles: at its usual 700 a quarter of the time in which all captions are looked through is its own."""


def make_application() -> QApplication:
    """The application with its type and style; the present one where there is one already."""
    app = QApplication.instance()
    if not isinstance(app, QApplication):
        app = QApplication(sys.argv[:1])
    # Worker threads hand over soon, so that the window answers while they compute.
    sys.setswitchinterval(0.001)
    app.setApplicationName("Ezvar")
    app.setApplicationDisplayName("Ezvar")
    app.setStyle("Fusion")
    theme.load_type()
    theme.dress()
    return app


def keep_from_collector() -> None:
    """Leave what was loaded until now out of the collector's rounds, each of which stops the window."""
    gc.collect()
    gc.freeze()
    gc.set_threshold(*_COLLECTED)


def get_ready(jobs: Jobs) -> None:
    """Load on a thread of its own what the first change of a framing would otherwise wait for.

    What the project before left behind is collected first: nobody would ever do it afterwards.
    """

    def load(progress: Progress, cancel: CancelToken) -> None:
        load_solver()
        gc.unfreeze()
        keep_from_collector()

    jobs.start("Getting ready", load, shown=False)


def run_window(file: str | os.PathLike[str] | None, template: bool) -> int:
    """Show the window and stay until it closes. Raises `EzvarError` where there is no screen to show it on."""
    if not any(os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")):
        raise EzvarError(
            "there is no screen to show the window on", remedy="Start it from a desktop, or use the commands"
        )
    keep_tidy()
    app = make_application()
    window = MainWindow()
    window.show()
    sys.excepthook = lambda kind, error, trace: window.session.messages.say_mistake(told(error))
    watched = watch_for_faults()
    window.jobs.watch()
    keep_from_collector()
    begin("readers", lambda: warm("timeline", "still", "font"), low=True)
    window.session.files.opened.connect(lambda _: get_ready(window.jobs))
    if file is not None:
        QTimer.singleShot(0, lambda: window.session.files.open(file, template))
    else:
        QTimer.singleShot(0, window.offer_leftovers)
    try:
        return app.exec()
    finally:
        all_went_well(watched)
