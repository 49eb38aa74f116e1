"""What captions cost: a look changed for three thousand of them, the grid scrolled, a master rendered with them.

Run by `make bench`.
"""

from __future__ import annotations

import os
import random
import statistics
import tempfile
import time
from dataclasses import replace

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import QCoreApplication

from ezvar.app.window.main import keep_from_collector, make_application
from ezvar.app.window.main_window import MainWindow
from ezvar.core import edits
from ezvar.core.encoding import DELIVERY
from ezvar.core.evidence import Analysis, kept_analysis
from ezvar.core.model import DESIGNS, Caption, CaptionStyle, CaptionTrack, Document, Span, Title
from ezvar.core.output import Order, make_rows, row_of, targets
from ezvar.core.store import default_cache, load_project
from ezvar.core.text import CaptionChecks
from ezvar.core.timing import FrameRange
from ezvar.demo import DEMO_PROJECT, DEMO_SEEN

MANY, ROUNDS = 3000, 5
SPAN = FrameRange(185, 435)
WORDS = (
    "the lanterns go down the river at nine nobody folds them as small as my grandmother did and she had no glasses",
    "one for each house and whoever is away it always rains hold higher or wind will take",
)


def many(doc: Document, count: int = MANY) -> Document:
    """The demo with a track of captions of usual lengths, more of them in its time than anybody could read."""
    rng = random.Random(1)
    length = round(1000 * doc.lock.rate.seconds(doc.lock.frames))
    made = []
    for k in range(count):
        start = k * length // count
        words = " ".join(rng.choices(" ".join(WORDS).split(), k=rng.randint(3, 11)))
        made.append(Caption(f"c{k}", start, (k + 1) * length // count, (Span(words),)))
    return edits.add_track(replace(doc, tracks=(), styles=(), differing=()), CaptionTrack("t", "many", tuple(made)))


def looks(doc: Document, analysis: Analysis | None) -> None:
    """Seconds from another look to the whole list of problems, in one master and in all, each look for the first
    time."""
    checks = CaptionChecks()
    checks.all(doc, analysis)
    for masters, words in ((doc.masters[:1], "one master"), (doc.masters, "three masters")):
        took = []
        for k in range(ROUNDS):
            changed = edits.set_style(doc, "t", [m.id for m in masters], CaptionStyle(size=0.04 + 0.0021 * k))
            begun = time.perf_counter()
            found = checks.all(changed, analysis)
            took.append(time.perf_counter() - begun)
        print(
            f"text         a look for {MANY} captions in {words}: {statistics.median(took):.2f} s to a list of "
            f"{len(found)} problems   (aim 1)",
            flush=True,
        )


def scrolling(doc: Document) -> None:
    """How many times a second the grid is drawn anew while it is scrolled through."""
    app = make_application()
    window = MainWindow()
    window.resize(1280, 800)
    window.show()
    window.session.files.open(DEMO_PROJECT, template=True)
    end = time.monotonic() + 4
    while time.monotonic() < end or window.jobs.running:
        QCoreApplication.processEvents()
    window.session.project.edit("Many captions", doc)
    window.session.at.set_stage("text")
    end = time.monotonic() + 30
    while time.monotonic() < end and window.desk.text_checks.busy:
        QCoreApplication.processEvents()
    grid = window.pages["text"].grid
    bar = grid.verticalScrollBar()
    took = []
    for k in range(200):
        bar.setValue(40 * k)
        begun = time.perf_counter()
        grid.viewport().repaint()
        QCoreApplication.processEvents()
        took.append(time.perf_counter() - begun)
    middle, slow = statistics.median(took), sorted(took)[190]
    print(
        f"text         the grid scrolled: {1 / middle:.0f} frames a second, 95 of 100 above {1 / slow:.0f}   (aim 50)",
        flush=True,
    )
    project = window.session.project
    project.history.mark_saved(project.document)
    window.close()
    app.processEvents()


def rendering(doc: Document) -> None:
    """A master made without and with the demo's captions and a title, in turns."""
    title = Title("t", "lower third", 200, 420, ("Ilma Varrel", "lantern maker"), DESIGNS["lower third"])
    written = edits.put_title(doc, title)
    bare = replace(doc, tracks=(), styles=(), differing=())
    took: dict[str, list[float]] = {"bare": [], "written": []}
    with tempfile.TemporaryDirectory() as temp:
        for _ in range(ROUNDS):
            for name, each in (("bare", bare), ("written", written)):
                begun = time.perf_counter()
                row = row_of(each, each.masters[0], DELIVERY, SPAN)
                (made,) = make_rows([Order(each, row, targets(each, [row], temp)[row.id])])
                took[name].append(time.perf_counter() - begun)
                assert made.frames == len(SPAN)
    ratio = statistics.median(took["written"]) / statistics.median(took["bare"])
    print(
        f"text         captions and a title cost {100 * (ratio - 1):.1f} % of a master's rendering   (aim 8)",
        flush=True,
    )


def main() -> None:
    keep_from_collector()  # as the window does
    doc = load_project(DEMO_PROJECT)
    analysis = kept_analysis(doc, default_cache(DEMO_SEEN))
    looks(many(doc), analysis)
    rendering(doc)
    scrolling(many(doc))


if __name__ == "__main__":
    main()
