"""`make bench`: cut detection and rendering against bare pipelines, then the window and large edits.

Each pair runs in turns, several times over, and the median of each counts,
since machines are noisy and only the ratio says something.
"""

from __future__ import annotations

import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from fractions import Fraction
from pathlib import Path
from statistics import median

import av
from av.filter import Graph

from ezvar.core.cuts import measure
from ezvar.core.encoding import DELIVERY
from ezvar.core.framing import pane_window, picture_size
from ezvar.core.media import MovieReader
from ezvar.core.model import Document
from ezvar.core.output import Delivery, make_delivery
from ezvar.core.store import load_project
from ezvar.core.timing import FrameRange
from ezvar.demo import DEMO_PROJECT

ROUNDS = 7
SPAN = FrameRange(185, 335)


def bare_decode(path: str) -> int:
    with av.open(path) as movie:
        movie.streams.video[0].thread_type = "AUTO"
        return sum(1 for _ in movie.decode(video=0))


def detection(path: str) -> int:
    with MovieReader(path) as reader:
        return len(measure(reader.frames(), reader.facts.frames).change)


def bare_render(doc: Document, folder: Path) -> int:
    """Decode, crop, scale, encode: one window for all, as a few lines of a filter graph would do it. No sound."""
    master, shot = doc.masters[0], doc.shot_at(SPAN.start)
    window = pane_window(doc.framing(shot.id, master.id).panes[0], master, picture_size(doc, shot), 0)
    with av.open(doc.lock.media[0].path) as source, av.open(str(folder / "bare.mp4"), "w") as out:
        stream = source.streams.video[0]
        stream.thread_type = "AUTO"
        target = out.add_stream("libx264", rate=doc.lock.rate.fraction, options=dict(DELIVERY.video))
        target.width, target.height, target.pix_fmt = master.width, master.height, "yuv420p"
        target.codec_context.thread_type = "AUTO"
        graph = Graph()
        graph.threads = 2
        first = graph.add_buffer(template=stream)
        crop = graph.add("crop", f"{round(window.width / 2) * 2}:{round(window.height)}:{round(window.left)}:0")
        scale = graph.add("scale", f"{master.width}:{master.height}:flags=bicubic")
        last = graph.add("buffersink")
        first.link_to(crop)
        crop.link_to(scale)
        scale.link_to(last)
        graph.configure()
        source.seek(int(SPAN.start / doc.lock.rate.fraction / stream.time_base), stream=stream)
        made = 0
        for frame in source.decode(stream):
            if round(frame.time * float(doc.lock.rate.fraction)) < SPAN.start:
                continue
            graph.push(frame)
            picture = graph.pull()
            picture.pts, picture.time_base = made, Fraction(1, 1) / doc.lock.rate.fraction
            out.mux(target.encode(picture))
            made += 1
            if made == len(SPAN):
                break
        out.mux(target.encode(None))
        return made


def render(doc: Document, folder: Path) -> int:
    """Ours, with sound and with the check of what was made."""
    made = make_delivery(doc, Delivery(doc.masters[0]), folder, within=SPAN)
    assert not made.problems, made.problems
    return made.frames


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
    doc = replace(load_project(DEMO_PROJECT), tracks=())  # captions have figures of their own
    path = doc.lock.media[0].path
    compare("detection", lambda: bare_decode(path), lambda: detection(path), 0.85)
    with tempfile.TemporaryDirectory() as temp:
        compare("rendering", lambda: bare_render(doc, Path(temp)), lambda: render(doc, Path(temp)), 0.8)
    for other in ("window", "stage", "text", "review", "merging", "shown", "large", "whole", "opening", "memory"):
        subprocess.run([sys.executable, "-m", f"benchmarks.{other}"], check=True)
    print("Not run here, since they take long: alike, cuts, spliced, framing, footage, bad_input (-m benchmarks.NAME);")
    print("cuts and framing take --real FOLDER, with real backgrounds and cut-outs for their scenes")


if __name__ == "__main__":
    main()
