"""`make bench`: cut detection against a bare decoding, then making masters, the window and large edits.

Each pair runs in turns, several times over, and the median of each counts,
since machines are noisy and only the ratio says something.
"""

from __future__ import annotations

import subprocess
import sys
import time
from collections.abc import Callable
from statistics import median

import av

from ezvar.core.cuts import measure
from ezvar.core.media import MovieReader
from ezvar.core.store import load_project
from ezvar.demo import DEMO_PROJECT

ROUNDS = 7


def bare_decode(path: str) -> int:
    with av.open(path) as movie:
        movie.streams.video[0].thread_type = "AUTO"
        return sum(1 for _ in movie.decode(video=0))


def detection(path: str) -> int:
    with MovieReader(path) as reader:
        return len(measure(reader.frames(), reader.facts.frames).change)


def compare(name: str, bare: Callable[[], int], ours: Callable[[], int], aim: float) -> None:
    """Time both in turns and print the median of each with the ratio."""
    rates: dict[Callable[[], int], list[float]] = {bare: [], ours: []}
    for _ in range(ROUNDS):
        for run, found in rates.items():
            begun = time.perf_counter()
            frames = run()
            found.append(frames / (time.perf_counter() - begun))
    middle = {run: median(found) for run, found in rates.items()}
    ratio = middle[ours] / middle[bare]
    print(
        f"{name:12} bare {middle[bare]:7.1f} fps   ours {middle[ours]:7.1f} fps   ratio {ratio:4.2f}   (aim {aim})",
        flush=True,
    )


def main() -> None:
    path = load_project(DEMO_PROJECT).lock.media[0].path
    compare("detection", lambda: bare_decode(path), lambda: detection(path), 0.85)
    rooms = "output window apart stage text review merging shown large whole opening memory"
    for other in rooms.split():
        subprocess.run([sys.executable, "-m", f"benchmarks.{other}"], check=True)
    longer = "alike, cuts, spliced, framing, footage, bad_input, hardness"
    print(f"Not run here, since they take long: {longer} (-m benchmarks.NAME);")
    print("cuts and framing take --real FOLDER, with real backgrounds and cut-outs for their scenes")


if __name__ == "__main__":
    main()
