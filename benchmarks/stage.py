"""How quickly the framing stage answers: scrubbing, the sweep chart, long ledgers and projects, playing.

Scrubbing is measured with the proxy ready; playing for a minute with three
masters live, by which frame the clock is at when each picture is shown.

Run by `make bench`. Without a monitor it measures on Qt's offscreen platform.
"""

from __future__ import annotations

import os
import random
import statistics
import tempfile
import time
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import QCoreApplication

from ezvar.app.window.main import get_ready, keep_from_collector, make_application
from ezvar.app.window.main_window import MainWindow
from ezvar.core import edits
from ezvar.core.framing import plain
from ezvar.core.lock import take_lock
from ezvar.core.model import Document, Keyframe, Master, Shot, Source
from ezvar.core.store import load_project, save_project
from ezvar.demo import DEMO_PROJECT

from .large import make_media, make_otio
from .window import scrub, wait

JUMPS, REDRAWS, SCROLLS, MINUTE = 200, 60, 240, 60.0


def many_shots(folder: Path, masters: tuple[Master, ...]) -> Document:
    """A timeline of 3,000 shots from forty movies, framed in three masters."""
    make_otio(make_media(folder), folder / "large.otio")
    doc = take_lock(folder / "large.otio", None, [], folder).doc
    for master in masters:
        doc = edits.add_master(doc, master)
    return edits.set_framings(doc, [plain(doc, s, m) for m in doc.masters for s in doc.shots])


def one_long_shot(doc: Document) -> Document:
    """The demo as one moving shot of 3,000 frames in three masters."""
    media = replace(doc.lock.media[0], frames=3000)
    lock = replace(doc.lock, frames=3000, media=(media,))
    doc = replace(
        doc, lock=lock, shots=(Shot("long", 0, 3000, Source(media.id, Fraction(0))),), framings=(), passed=(), drawn=()
    )
    keys = tuple(Keyframe(n, 0.3 + 0.4 * (n // 150 % 2)) for n in range(0, 3000, 150))
    framings = [plain(doc, doc.shots[0], m) for m in doc.masters]
    return edits.set_framings(doc, [replace(f, panes=(replace(f.panes[0], keys=keys),)) for f in framings])


def timed_paints(widget, count: int, step) -> list[float]:
    """Seconds that each drawing of a widget takes, by itself, with ``step(k)`` done before it."""
    found = []
    for k in range(count):
        QCoreApplication.processEvents()
        step(k)
        begun = time.perf_counter()
        widget.grab()
        found.append(time.perf_counter() - begun)
    return found


def ready_window(app) -> MainWindow:
    window = MainWindow()
    window.resize(1280, 800)
    window.show()
    app.processEvents()
    keep_from_collector()
    window.session.files.opened.connect(lambda _: get_ready(window.jobs))
    return window


def settled(window: MainWindow) -> None:
    wait(lambda: window.session.project.doc is not None and not window.jobs.running, 120)
    wait(lambda: False, 2)


def scrubbing(window: MainWindow) -> None:
    ready = window.session.media.proxy is not None and window.session.media.proxy.ready
    window.session.at.go(800)
    waits = scrub(window, JUMPS, 125, random.Random(7))
    print(
        f"scrub, ±5 s, proxy {'ready' if ready else 'not ready'}  {statistics.median(waits) * 1000:4.0f} ms median "
        f"(aim 40), {max(waits) * 1000:.0f} worst (aim 120)", flush=True,
    )  # fmt: skip


def playing(window: MainWindow) -> None:
    """Play for a minute, with three masters live."""
    session, player = window.session, window.player
    session.at.go(0)
    shown: list[tuple[int, int]] = []
    well = window.pages["framing"].well
    note = lambda frame: shown.append((frame, session.at.frame))  # noqa: E731
    well.picture_shown.connect(note)
    begun = time.monotonic()
    player.play(0)
    wait(lambda: time.monotonic() - begun > MINUTE, MINUTE + 5)
    at, gone = session.at.frame, time.monotonic() - begun
    player.stop()
    well.picture_shown.disconnect(note)
    due = int(gone * session.project.document.lock.rate.fraction)
    distinct = len({frame for frame, _ in shown})
    late = [clock - frame for frame, clock in shown]
    print(
        f"playing {MINUTE:.0f} s, {len(well.shown())} masters live: clock {at - due:+d} frames off, pictures "
        f"{statistics.median(late):.0f} frames behind (at most {max(late)}, aim 1), "
        f"{100 * (1 - distinct / (at + 1)):.1f} % dropped (aim 1)", flush=True,
    )  # fmt: skip


def chart(window: MainWindow, doc: Document) -> None:
    window.session.project.edit("One long shot", one_long_shot(doc))
    wait(lambda: False, 1)
    sweep = window.pages["framing"].sweep

    def move(k: int) -> None:
        window.session.at.go(k * 49)

    def shift(k: int) -> None:
        window.desk.framing_work.shift(window.session.at.framing.panes[0], 0.001, 0.0, "bench")

    moved, shifted = timed_paints(sweep, REDRAWS, move), timed_paints(sweep, REDRAWS, shift)
    print(
        f"sweep chart, 3,000 frames  {statistics.median(moved) * 1000:5.1f} ms median with the playhead, "
        f"{statistics.median(shifted) * 1000:.1f} with the path (aim 16)", flush=True,
    )  # fmt: skip


def ledger(window: MainWindow, folder: Path, doc: Document) -> None:
    project = folder / "many.ezvar"
    save_project(many_shots(folder, doc.masters), project)
    window.session.project.history.mark_saved(window.session.project.document)
    begun = time.monotonic()
    opened: list[bool] = []
    window.session.files.opened.connect(lambda: opened.append(True))
    window.session.files.open(project)
    wait(lambda: bool(opened), 60)
    window.repaint()
    QCoreApplication.processEvents()
    print(f"3,000-shot project  {time.monotonic() - begun:5.2f} s to a usable window (aim 2)", flush=True)
    wait(lambda: False, 2)
    bar = window.ledger.view.verticalScrollBar()
    found = timed_paints(window.ledger.view.viewport(), SCROLLS, lambda k: bar.setValue(k * bar.maximum() // SCROLLS))
    print(f"ledger of 3,000 shots  {1 / statistics.median(found):5.0f} frames a second scrolled (aim 50)", flush=True)


def main() -> None:
    app = make_application()
    window = ready_window(app)
    doc = load_project(DEMO_PROJECT)
    window.session.files.open(DEMO_PROJECT, template=True)
    settled(window)
    scrubbing(window)
    playing(window)
    chart(window, doc)
    with tempfile.TemporaryDirectory() as temp:
        ledger(window, Path(temp), doc)
        window.session.jobs.stop_all()
    project = window.session.project
    project.written(project.whole, project.document, project.path, "")  # it is not asked about
    window.close()


if __name__ == "__main__":
    main()
