"""How quickly the window answers: first window, demo open, scrubbing, and how long its thread is ever blocked.

Of each turn of the event loop two figures are taken: the processor time that
the window's thread spent, which is the work done there, and the time that
passed, which also holds what other threads and other programs took from it.
The figures at rest, when nothing is done, are the machine's own.

Run by `make bench`. Without a monitor it measures on Qt's offscreen platform.
"""

from __future__ import annotations

import os
import random
import statistics
import sys
import time

STARTED = time.monotonic()
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import QCoreApplication, QEventLoop, QTimer  # noqa: E402

from ezvar.app.window.main import get_ready, keep_from_collector, make_application  # noqa: E402
from ezvar.app.window.main_window import MainWindow  # noqa: E402
from ezvar.demo import DEMO_PROJECT  # noqa: E402


class Watch:
    """Notes the longest time between two turns of the event loop, and where it happened."""

    def __init__(self) -> None:
        self._timer = QTimer()
        self._timer.setInterval(0)
        self._timer.timeout.connect(self._turn)
        self._worst = (0.0, 0.0)
        self._last = self._now()
        self._timer.start()

    @staticmethod
    def _now() -> tuple[float, float]:
        return time.thread_time(), time.monotonic()

    def _turn(self) -> None:
        now = self._now()
        self._worst = max(self._worst[0], now[0] - self._last[0]), max(self._worst[1], now[1] - self._last[1])
        self._last = now

    def longest(self) -> tuple[float, float]:
        """The most work in one turn, and the longest turn, in seconds; begins anew."""
        worst, self._worst, self._last = self._worst, (0.0, 0.0), self._now()
        return worst


def wait(done, seconds: float = 20.0) -> bool:
    """Let the event loop sleep and wake as it does in the application, until ``done()``."""
    end = time.monotonic() + seconds
    tick = QTimer()
    tick.start(2)
    while not done() and time.monotonic() < end:
        QCoreApplication.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)
    return bool(done())


def scrub(window: MainWindow, jumps: int, span: int, rng: random.Random) -> list[float]:
    """Seconds from each move of the playhead to its picture; moves of at most ``span`` frames."""
    shown: list[int] = []
    well = window.pages["framing"].well
    well.picture_shown.connect(shown.append)
    waits = []
    for _ in range(jumps):
        frame = max(
            0, min(window.session.at.frame + rng.randint(-span, span), window.session.project.document.lock.frames - 1)
        )
        shown.clear()
        begun = time.monotonic()
        window.session.at.go(frame)
        wait(lambda f=frame: f in shown, 5)
        waits.append(time.monotonic() - begun)
    well.picture_shown.disconnect(shown.append)
    return waits


def main() -> None:
    app = make_application()
    window = MainWindow()
    window.resize(1280, 800)
    window.show()
    wait(lambda: window.isVisible())
    app.processEvents()
    keep_from_collector()
    print(f"first window            {time.monotonic() - STARTED:6.2f} s    (aim 2, from the first import on)")
    watch = Watch()
    begun = time.monotonic()
    seen: list[int] = []
    window.pages["framing"].well.picture_shown.connect(seen.append)
    window.session.files.opened.connect(lambda _: get_ready(window.jobs))
    window.session.files.open(DEMO_PROJECT, template=True)
    wait(lambda: bool(seen))
    print(f"demo open, picture shown{time.monotonic() - begun:6.2f} s    (aim 3)")
    opening = watch.longest()
    wait(lambda: not window.jobs.running, 60)
    wait(lambda: False, 3)
    settling = watch.longest()
    rng = random.Random(5)
    for name, span in (("scrub, small moves", 8), ("scrub, ±5 s jumps", 125), ("scrub, anywhere", 1500)):
        waits = scrub(window, 60, span, rng)
        print(f"{name:24}{statistics.median(waits) * 1000:6.0f} ms   median, {max(waits) * 1000:.0f} worst (aim 60)")
    scrubbing = watch.longest()
    for stage in ("lock", "cuts", "review", "output", "framing") * 2:
        window.session.at.set_stage(stage)
        wait(lambda: False, 0.3)
    switching = watch.longest()
    framing = window.session.at.framing
    gesture = object()
    for k in range(80):
        window.desk.framing_work.shift(framing.panes[0], k / 400, 0.0, gesture)
        wait(lambda: False, 0.01)
    dragging = watch.longest()
    window.player.play(0)
    wait(lambda: False, 4)
    window.player.stop()
    playing = watch.longest()
    wait(lambda: False, 4)
    resting = watch.longest()
    for name, gap in (
        ("opening", opening), ("filling in", settling), ("scrubbing", scrubbing), ("changing stage", switching),
        ("dragging", dragging), ("playing", playing), ("at rest", resting),
    ):  # fmt: skip
        print(f"longest turn, {name:15}{gap[0] * 1000:4.0f} ms of work (aim 50), {gap[1] * 1000:.0f} ms in all")
    project = window.session.project
    project.written(project.whole, project.document, project.path, "")  # it is not asked about
    window.close()
    sys.stdout.flush()


if __name__ == "__main__":
    main()
