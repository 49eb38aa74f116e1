"""What of a handoff is looked at: a minute of review movies, a page of three hundred shots, a board of three thousand.

Run by `make bench`. The page needs a browser that can be driven; without one it is left out.
"""

from __future__ import annotations

import os
import shutil
import statistics
import tempfile
import time
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import QCoreApplication

from benchmarks.review import long_document
from ezvar.app.window.main import keep_from_collector, make_application
from ezvar.app.window.main_window import MainWindow
from ezvar.core.framing import plain
from ezvar.core.media import probe
from ezvar.core.model import Document, Shot, Source
from ezvar.core.review.shown.movies import ReviewMovie, make_review_movies
from ezvar.core.review.shown.page import page
from ezvar.core.store import load_project, save_project
from ezvar.demo import DEMO_PROJECT

PAGE_SHOTS, FRAMES_SCROLLED = 300, 120


def movies(doc: Document) -> None:
    """How long a minute of all masters takes, together in one picture and each by itself."""
    minute = doc.lock.frames / float(doc.lock.rate.fraction) / 60
    each = [ReviewMovie(master=m) for m in doc.masters]
    for words, wanted in (("in one picture", [ReviewMovie(together=True)]), ("each by itself", each)):
        with tempfile.TemporaryDirectory() as folder:
            made = [movie.at(Path(folder) / f"{k}.mp4") for k, movie in enumerate(wanted)]
            begun = time.perf_counter()
            make_review_movies(doc, made, doc.masters, doc.shots)
            took = time.perf_counter() - begun
        print(
            f"shown        a minute of review movies of {len(doc.masters)} masters {words}: {took / minute:.0f} s   "
            "(aim 60)",
            flush=True,
        )


def page_opens(doc: Document) -> None:
    """How long a browser takes to open a page of many shots."""
    if shutil.which("chromedriver") is None:
        print("shown        the page is left out: there is no browser here that can be driven")
        return
    from selenium import webdriver

    shots = doc.shots[:PAGE_SHOTS]
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "page.html"
        file.write_bytes(page(doc, doc.masters, shots, "none", False, "by @.json"))
        options = webdriver.ChromeOptions()
        for word in ("headless=new", "no-sandbox", "disable-gpu", "disable-dev-shm-usage"):
            options.add_argument(f"--{word}")
        driver = webdriver.Chrome(options, webdriver.ChromeService(shutil.which("chromedriver")))
        try:
            took = []
            for _ in range(3):
                begun = time.perf_counter()
                driver.get(file.as_uri())
                while driver.execute_script("return document.body.dataset.ready") != "yes":
                    time.sleep(0.01)
                driver.execute_script(
                    "return new Promise(done => requestAnimationFrame(() => requestAnimationFrame(done)))"
                )
                took.append(time.perf_counter() - begun)
        finally:
            driver.quit()
        size = file.stat().st_size / 1e6
    print(
        f"shown        a page of {len(shots)} shots in {len(doc.masters)} masters, {size:.1f} MB, opened in "
        f"{statistics.median(took):.2f} s   (aim 3)",
        flush=True,
    )


def board(movie: Path) -> None:
    """How long the review stage takes to open on thousands of shots, and how it scrolls."""
    app = make_application()  # kept as long as there are widgets
    facts = probe(movie)
    doc = long_document()
    media = replace(
        doc.lock.media[0], path=str(movie), frames=facts.frames, content="", width=facts.width, height=facts.height
    )
    shots = tuple(Shot(s.id, s.start, s.end, Source("m", Fraction(0), Fraction(0))) for s in doc.shots)
    doc = replace(doc, lock=replace(doc.lock, media=(media,)), shots=shots)
    doc = replace(doc, framings=tuple(plain(doc, s, m) for s in doc.shots for m in doc.masters))
    with tempfile.TemporaryDirectory() as folder:
        save_project(doc, Path(folder) / "long.ezvar")
        window = MainWindow()
        window.resize(1280, 800)
        window.show()
        window.session.files.open(Path(folder) / "long.ezvar")
        ends = time.perf_counter() + 60
        while window.session.project.doc is None or window.jobs.running:
            QCoreApplication.processEvents()
            if time.perf_counter() > ends:
                break
        keep_from_collector()
        begun = time.perf_counter()
        window.session.at.set_stage("review")
        QCoreApplication.processEvents()
        window.grab()
        opened = time.perf_counter() - begun
        bar = window.pages["review"].board.verticalScrollBar()
        took = []
        for k in range(FRAMES_SCROLLED):
            begun = time.perf_counter()
            bar.setValue(k * 60)
            window.pages["review"].board.viewport().repaint()
            QCoreApplication.processEvents()
            took.append(time.perf_counter() - begun)
        project = window.session.project
        project.written(project.whole, project.document, project.path, "")
        window.close()
        app.processEvents()
    print(
        f"shown        the board of {len(doc.shots)} shots in {len(doc.masters)} masters opens in {opened:.2f} s   "
        f"(aim 2), scrolls at {1 / statistics.median(took):.0f} frames a second   (aim 50)",
        flush=True,
    )


def main() -> None:
    doc = load_project(DEMO_PROJECT)
    page_opens(long_document())
    board(DEMO_PROJECT.with_suffix(".mp4"))
    movies(doc)


if __name__ == "__main__":
    main()
