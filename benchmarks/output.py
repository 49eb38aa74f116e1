"""Making masters against bare pipelines: one, three in one pass, what segments cost, what a picture costs, memory."""

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
from unittest.mock import patch

import av
from av.filter import Graph
from av.video.frame import PictureType

from ezvar.core import compose
from ezvar.core.compose import LockPictures
from ezvar.core.encoding import DELIVERY, THREADS, PictureForm, Segment, SegmentWriter, join
from ezvar.core.encoding.codecs import encoder_options
from ezvar.core.lock import LockReader, take_lock
from ezvar.core.media import ColourTags, Planes
from ezvar.core.memory import keep_level
from ezvar.core.model import Document, Framing, Keyframe, Master, Pane, Report
from ezvar.core.output import Order, check_row, make_rows, making, row_of, segments, targets
from ezvar.core.store import load_project
from ezvar.core.timing import FrameRange
from ezvar.demo import DEMO_PROJECT

ROUNDS = 3
SPAN = FrameRange(0, 460)


class BareEncoder:
    """Crop, scale, encode, as a few lines of a filter graph would do it. No sound."""

    def __init__(self, doc: Document, master: Master, source: av.video.stream.VideoStream, path: Path) -> None:
        wide, high = doc.lock.width, doc.lock.height  # the largest window of the master's shape, in the middle
        wide, high = min(wide, high * master.width // master.height), min(high, wide * master.height // master.width)
        self.rate = doc.lock.rate.fraction
        self.out = av.open(str(path), "w")
        target = self.out.add_stream("libx264", rate=self.rate, options=encoder_options(DELIVERY.picture))
        target.width, target.height, target.pix_fmt = master.width, master.height, "yuv420p"
        target.codec_context.thread_type = "AUTO"
        target.codec_context.thread_count = THREADS
        self.target, self.made, self.graph = target, 0, Graph()
        self.graph.threads = 2
        first = self.graph.add_buffer(template=source)
        crop = self.graph.add("crop", f"{wide // 2 * 2}:{high // 2 * 2}")
        scale = self.graph.add("scale", f"{master.width}:{master.height}:flags=bicubic")
        last = self.graph.add("buffersink")
        first.link_to(crop)
        crop.link_to(scale)
        scale.link_to(last)
        self.graph.configure()

    def put(self, frame: av.VideoFrame) -> None:
        self.graph.push(frame)
        picture = self.graph.pull()
        picture.pts, picture.time_base = self.made, 1 / self.rate
        picture.pict_type = PictureType.NONE  # the encoder is to decide, not the source's own
        self.out.mux(self.target.encode(picture))
        self.made += 1

    def close(self) -> None:
        self.out.mux(self.target.encode(None))
        self.out.close()


def centred(doc: Document) -> Document:
    """The document with what the bare pipeline shows, so that both encode the same."""
    middle = (Pane(keys=(Keyframe(0),)),)
    return replace(doc, framings=tuple(Framing(s.id, m.id, middle) for s in doc.shots for m in doc.masters))


def decoded(doc: Document) -> list[av.VideoFrame]:
    """The lock's pictures of the span."""
    rate = doc.lock.rate.fraction
    with av.open(doc.lock.media[0].path) as source:
        stream = source.streams.video[0]
        stream.thread_type = "AUTO"
        source.seek(int(Fraction(SPAN.start) / rate / stream.time_base), stream=stream)
        for frame in source.decode(stream):
            if round(frame.time * float(rate)) < SPAN.start:
                continue
            if round(frame.time * float(rate)) >= SPAN.end:
                return
            yield frame, stream


def bare(doc: Document, masters: list[Master], folder: Path) -> None:
    """One decode for all: each picture cropped, scaled and encoded for every master."""
    encoders: list[BareEncoder] = []
    for frame, stream in decoded(doc):
        if not encoders:
            encoders = [BareEncoder(doc, m, stream, folder / f"bare-{k}.mp4") for k, m in enumerate(masters)]
        for each in encoders:
            each.put(frame)
    for each in encoders:
        each.close()


def ours(doc: Document, masters: list[Master], folder: Path) -> None:
    """Ours, with sound, in segments, joined; the check of what was made has a figure of its own."""
    rows = [row_of(doc, m, DELIVERY, SPAN) for m in masters]
    where = targets(doc, rows, folder)
    with patch.object(making, "check_row", lambda *rest: Report()):
        found = make_rows([Order(doc, row, where[row.id]) for row in rows])
    assert all(made.parts and not made.problems for made in found), found


def checking(doc: Document, master: Master, folder: Path) -> None:
    """How long the check takes, beside making."""
    row = row_of(doc, master, DELIVERY, SPAN)
    order = Order(doc, row, targets(doc, [row], folder)[row.id])
    making_took = spent(lambda: ours(doc, [master], folder))
    begun = time.perf_counter()
    report = check_row(order)
    took = time.perf_counter() - begun
    assert not report.flaws, report.flaws
    print(f"{'check':14}{took:6.2f} s   beside {making_took:6.2f} s of processor time for making", flush=True)


def paired(first: Callable[[], None], second: Callable[[], None], rounds: int = ROUNDS) -> tuple[float, float, float]:
    """Seconds of both, in turns, and the median of their ratios, first to second."""
    took: tuple[list[float], list[float]] = ([], [])
    for k in range(rounds):
        order = ((first, took[0]), (second, took[1]))
        for run, into in order if k % 2 else order[::-1]:
            begun = time.perf_counter()
            run()
            into.append(time.perf_counter() - begun)
    return median(took[0]), median(took[1]), median(a / b for a, b in zip(*took, strict=True))


def preparing(doc: Document, master: Master, folder: Path) -> None:
    """Processor time for drawing a master's pictures, without that for decoding, beside that for encoding them."""
    span = range(SPAN.start, SPAN.start + 150)

    def reading(draw: bool) -> list[Planes]:
        with LockReader(doc) as reader, LockPictures(reader) as given:
            if draw:
                return [compose.frame(doc, master, frame, given) for frame in span]
            for frame in span:
                given.of_shot(doc.shot_at(frame), frame)
            return []

    def encoding(made: list[Planes]) -> None:
        form = PictureForm(DELIVERY.picture, master.width, master.height, doc.lock.rate, made[0].stated)
        writer = SegmentWriter(folder / "p.mp4", form)
        for planes in made:
            writer.picture(planes)
        writer.close()

    drawn = reading(True)
    shares = []
    for _ in range(ROUNDS):
        whole, decoding, coding = (
            spent(run) for run in (lambda: reading(True), lambda: reading(False), lambda: encoding(drawn))
        )
        shares.append((whole - decoding) / coding)
    print(f"{'preparing':14}{median(shares):6.1%} of encoding   (aim at most 12 %)", flush=True)


def spent(run: Callable[[], object]) -> float:
    """Processor time that something takes, on all threads."""
    begun = time.process_time()
    run()
    return time.process_time() - begun


def segmented(doc: Document, master: Master, folder: Path) -> None:
    """A master in segments as short as they come, beside the same in one."""
    row = row_of(doc, master, DELIVERY)
    target = targets(doc, [row], folder)[row.id]
    usual, sizes = (segments.LEAST, segments.MOST), {}

    def made(shortest: int) -> None:
        segments.LEAST, segments.MOST = shortest, usual[1] if shortest == usual[0] else shortest
        (one,) = make_rows([Order(doc, row, target)])
        sizes[shortest] = one.path.stat().st_size, len(one.parts)

    whole = 1_000_000
    try:
        parts, one, ratio = paired(lambda: made(usual[0]), lambda: made(whole), 3)
    finally:
        segments.LEAST, segments.MOST = usual
    (small, count), (large, _) = sizes[usual[0]], sizes[whole]
    print(f"{'segments':14}{count} in {parts:.1f} s, one in {one:.1f} s: {ratio - 1:+.1%} of time (aim 3 %), "
          f"{small / large - 1:+.1%} of size (aim 2 %)", flush=True)  # fmt: skip


def memory() -> None:
    """Peak memory of making masters, each in a process of its own: beside the bare pipeline's, and over 20 minutes."""
    for count in (1, 3):
        own, bare = (peak_of(f"{which}({count})") for which in ("peak", "peak_bare"))
        print(f"{'memory':14}{count} masters: ours {own} MB, bare {bare} MB, "
              f"{(own - bare) / count:.0f} MB a master beyond it   (aim at most 120)", flush=True)  # fmt: skip
    with tempfile.TemporaryDirectory() as temp:
        for times, minutes in ((2, 2), (18, 20)):
            before, *held, most = memory_of(f"peak_long({long_movie(times, temp)!r})")
            making, checking = (f"{early} to {late}" for early, late in (held[:2], held[2:]))
            print(f"{'memory':14}a master of {minutes} min: {before} MB before, {making} while it is made, {checking} "
                  f"while it is checked, {most} at most   (aim: no more towards the end)", flush=True)  # fmt: skip


def peak_of(call: str) -> int:
    """The most memory, in MB, that a function of this module takes in a process of its own."""
    return memory_of(call)[-1]


def memory_of(call: str) -> list[int]:
    """What a function of this module prints, in a process of its own, and the most memory that it takes, in MB."""
    said = f"from benchmarks.output import *; keep_level(); {call}; print(memory_now('VmHWM'))"
    done = subprocess.run([sys.executable, "-c", said], check=True, capture_output=True, text=True)
    return [round(float(each)) for each in done.stdout.split()]


def memory_now(which: str) -> int:
    told = Path("/proc/self/status").read_text()
    return int(next(line for line in told.splitlines() if line.startswith(which)).split()[1]) // 1024


def peak(count: int) -> None:
    doc = replace(load_project(DEMO_PROJECT), tracks=())
    with tempfile.TemporaryDirectory() as temp:
        ours(doc, list(doc.masters[:count]), Path(temp))


def peak_bare(count: int) -> None:
    doc = load_project(DEMO_PROJECT)
    with tempfile.TemporaryDirectory() as temp:
        bare(doc, list(doc.masters[:count]), Path(temp))


def long_movie(times: int, folder: str) -> str:
    """The demo movie so many times over."""
    demo = load_project(DEMO_PROJECT)
    own = demo.lock.media[0]
    form = PictureForm(DELIVERY.picture, own.width, own.height, demo.lock.rate, ColourTags())
    join([Segment(Path(own.path), own.frames)] * times, made := f"{folder}/long-{times}.mp4", form)
    return made


def peak_long(movie: str) -> None:
    """A small master of a movie. Printed is what is taken before, with the movie open and known; and early and late
    while it is made, and while it is checked, in the middle of some hundred looks each."""
    doc = take_lock(movie).doc
    small = Master("small", "small", 180, 320)
    doc = replace(doc, masters=(small,), framings=(Framing(doc.shots[0].id, "small", (Pane(keys=(Keyframe(0),)),)),))
    row = row_of(doc, small, DELIVERY)
    looks: dict[str, list[int]] = {"Making": [], "Checking what was made": []}
    shares: dict[str, float] = dict.fromkeys(looks, 0.0)

    def look(fraction: float, message: str) -> None:
        if message in looks and fraction >= shares[message] + 0.001:
            shares[message] = fraction
            looks[message].append(memory_now("VmRSS"))

    with tempfile.TemporaryDirectory() as temp, LockReader(doc) as reader:
        reader.frame(0)
        print(memory_now("VmRSS"))
        (made,) = make_rows([Order(doc, row, targets(doc, [row], temp)[row.id])], look)
        assert not made.problems, made
    for held in looks.values():
        part = len(held) // 5
        print(median(held[part // 2 : part + part // 2]), median(held[-part:]))


def main() -> None:
    keep_level()  # as ``make`` does
    doc = replace(load_project(DEMO_PROJECT), tracks=())  # captions have figures of their own
    masters = list(doc.masters[:3])
    plain = centred(doc)
    with tempfile.TemporaryDirectory() as temp:
        folder = Path(temp)
        preparing(doc, masters[0], folder)
        checking(plain, masters[0], folder)
        for name, those in (("one master", masters[:1]), ("three masters", masters)):
            a, b, ratio = paired(lambda m=those: ours(plain, m, folder), lambda m=those: bare(doc, m, folder))
            print(f"{name:14}ours {a:6.2f} s   bare {b:6.2f} s   ratio {ratio:5.3f}   (aim at most 1.05)", flush=True)
    with tempfile.TemporaryDirectory() as temp:
        segmented(doc, masters[0], Path(temp))
    memory()


if __name__ == "__main__":
    main()
