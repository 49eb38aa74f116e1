"""The whole plan of a 1080p movie beside a bare decode of it: cuts, evidence with all finders, proxy, three masters.

    python -m benchmarks.whole [ROUNDS]

Both run in turns on the flat demo, each with all cores and the library's own threading; the median of the ratios
counts. A fourth master is added afterwards to what is kept.
"""

from __future__ import annotations

import sys
import tempfile
import time
from pathlib import Path
from statistics import median

import av

from ezvar.core import edits
from ezvar.core.evidence import Analysis, look_through
from ezvar.core.lock import take_lock
from ezvar.core.model import Document, Master
from ezvar.core.planning import with_cuts, with_framings
from ezvar.core.store import Cache, load_project
from ezvar.demo import DEMO_PROJECT

AIM = 0.4
WIDE = Master("wide", "2.39:1", 1920, 804)
MASTERS = (Master("tall", "9:16", 1080, 1920), Master("near", "4:5", 1080, 1350), Master("even", "1:1", 1080, 1080))


def bare_decode(path: str) -> int:
    with av.open(path) as movie:
        movie.streams.video[0].thread_type = "AUTO"
        return sum(1 for _ in movie.decode(video=0))


def planned(path: str, folder: Path) -> tuple[Document, Analysis]:
    doc = take_lock(path).doc
    analysis = look_through(doc, Cache(folder), proxy_told=lambda error: None)
    doc = with_cuts(doc, analysis)
    for master in MASTERS:
        doc = edits.add_master(doc, master)
    return with_framings(doc, analysis), analysis


def timed(run, *given):
    begun = time.perf_counter()
    made = run(*given)
    return time.perf_counter() - begun, made


def main() -> None:
    path = load_project(DEMO_PROJECT).lock.media[0].path
    ratios, later = [], []
    for _ in range(int(sys.argv[1]) if len(sys.argv) > 1 else 3):
        with tempfile.TemporaryDirectory() as temp:
            bare, frames = timed(bare_decode, path)
            ours, (doc, analysis) = timed(planned, path, Path(temp))
            more, _ = timed(with_framings, edits.add_master(doc, WIDE), analysis, [WIDE])
        ratios.append(bare / ours)
        later.append(more)
        print(
            f"bare {frames / bare:6.1f} fps   whole plan {frames / ours:6.1f} fps   ratio {bare / ours:4.2f}",
            flush=True,
        )
    print(f"whole plan   ratio {median(ratios):4.2f} of a bare decode (aim {AIM}); "
          f"one master more {median(later):.2f} s (aim 1)")  # fmt: skip


if __name__ == "__main__":
    main()
