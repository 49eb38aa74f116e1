"""Where the window's memory goes: empty, with the demo, with one and two hours of a lock, with ten locks in turn.

Each figure is of a process of its own: its resident memory once nothing is
under way any more, and once the lock was gone through. Long locks are the
demo's pictures, small, over and over, with what was seen in them, so that
nothing has to be read for hours.

Run by `make bench`, or ``python -m benchmarks.memory``.
"""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import av

from ezvar.core.evidence import STRETCH, look_through
from ezvar.core.evidence.tasks import kept_name
from ezvar.core.lock import proxy_of, runs, take_lock
from ezvar.core.memory import keep_tidy
from ezvar.core.model import Cut, Source, new_id
from ezvar.core.store import Cache, load_project, save_project
from ezvar.demo import DEMO_PROJECT

SIZE = (480, 270)
HOUR = 52  # times the demo's 69 seconds
LOCKS = 10


def small_demo(path: Path) -> None:
    """The demo's pictures, small."""
    with av.open(str(DEMO_PROJECT.with_suffix(".mp4"))) as source, av.open(str(path), "w") as out:
        stream = out.add_stream("libx264", rate=25, options={"preset": "veryfast", "bf": "0", "g": "25"})
        stream.width, stream.height, stream.pix_fmt = *SIZE, "yuv420p"
        for k, frame in enumerate(source.decode(video=0)):
            made = frame.reformat(*SIZE, "yuv420p")
            made.pts, made.time_base = k, Fraction(1, 25)
            out.mux(stream.encode(made))
        out.mux(stream.encode(None))


def repeated(source: Path, path: Path, times: int) -> None:
    """A movie's pictures over and over, as they are coded."""
    with av.open(str(source)) as movie, av.open(str(path), "w") as out:
        given = movie.streams.video[0]
        packets = [(bytes(p), p.pts, p.dts, p.is_keyframe, p.duration) for p in movie.demux(given) if p.size]
        length = packets[-1][1] + packets[-1][4] - packets[0][1]
        stream = out.add_stream_from_template(given)
        for k in range(times):
            for data, pts, dts, key, duration in packets:
                packet = av.Packet(data)
                packet.pts, packet.dts, packet.duration = pts + k * length, dts + k * length, duration
                packet.time_base, packet.is_keyframe, packet.stream = given.time_base, key, stream
                out.mux(packet)


def keep_repeated(small: Path, path: Path, cache: Cache) -> None:
    """Have known of a repeated movie what was seen in the one that it repeats."""
    doc = take_lock(small).doc
    analysis = look_through(doc, cache, proxy_told=print)
    (run,) = runs(take_lock(path).doc)
    proxy, made = proxy_of(doc, cache), proxy_of(take_lock(path).doc, cache)
    folder, (known,) = cache.folder, runs(doc)
    for start in range(0, doc.lock.frames, STRETCH):
        end = min(start + STRETCH, doc.lock.frames)
        arrays = cache.arrays(kept_name(known.strip, start, end))
        small_file = folder / f"{known.strip}_{start}_{end}.proxy"
        for at in range(start, run.last, doc.lock.frames):
            shifted = {name: values.copy() for name, values in arrays.items()}
            for values in shifted.values():
                if values.dtype.names:
                    values["frame"] += at - start
            cache.put_arrays(kept_name(run.strip, at, at + end - start), shifted)
            os.link(small_file, folder / f"{run.strip}_{at}_{at + end - start}.proxy")
    proxy.close()
    made.close()
    assert analysis.known is None


def planned(path: Path) -> Path:
    """A project of a repeated movie, with the demo's shots and framings over and over; its file."""
    demo, doc = load_project(DEMO_PROJECT), take_lock(path).doc
    media, shots, framings = doc.lock.media[0].id, [], []
    for k in range(doc.lock.frames // demo.lock.frames):
        later = k * demo.lock.frames
        for shot in demo.shots:
            start, source = shot.start + later, Source(media, Fraction(shot.start + later))
            cut = shot.cut and replace(shot.cut, start=shot.cut.start + later, end=shot.cut.end + later)
            cut = Cut("cut", start, start) if k and cut is None else cut
            made = replace(shot, id=new_id(), start=start, end=shot.end + later, source=source, cut=cut)
            shots.append(made)
            framings += [replace(f, shot=made.id) for f in demo.framings if f.shot == shot.id]
    masters = tuple(replace(master, ranges=()) for master in demo.masters)
    doc = replace(doc, shots=tuple(shots), masters=masters, framings=tuple(framings))
    save_project(doc, path.with_suffix(".ezvar"))
    return path.with_suffix(".ezvar")


def resident() -> int:
    """Megabytes of this process."""
    status = Path("/proc/self/status").read_text()
    return int(next(line for line in status.splitlines() if line.startswith("VmRSS")).split()[1]) // 1024


def show(files: list[str]) -> None:
    """Open each file in turn in a window, go through it, and print what that takes."""
    from ezvar.app.window.main import get_ready, keep_from_collector, make_application
    from ezvar.app.window.main_window import MainWindow

    from .window import wait

    keep_tidy()
    app = make_application()
    window = MainWindow()
    window.resize(1280, 800)
    window.show()
    wait(lambda: False, 1)
    keep_from_collector()
    print("empty", resident(), flush=True)
    window.session.files.opened.connect(lambda _: get_ready(window.jobs))
    for file in files:
        window.session.files.open(Path(file), template=True)
        wait(lambda: window.session.project.doc is not None and not window.jobs.running, 20)
        wait(lambda: False, 2)
        wait(lambda: not window.jobs.running, 600)  # until set-ups are compared
        wait(lambda: False, 5)  # until it has rested
        print(f"{Path(file).stem} open", resident(), flush=True)
        frames = window.session.project.document.lock.frames
        for stage in ("cuts", "framing"):
            window.session.at.set_stage(stage)
            for k in range(60):
                window.session.at.go(frames * k // 60)
                wait(lambda: False, 0.05)
        wait(lambda: not window.jobs.running, 5)
        wait(lambda: False, 3)
        kept = window.session.memory.used // 1024**2
        print(f"{Path(file).stem} gone through", resident(), f"of which kept pictures {kept}", flush=True)
    window.close()
    app.quit()


def main() -> None:
    if sys.argv[1:]:
        show(sys.argv[1:])
        return
    with tempfile.TemporaryDirectory() as temp:
        folder = Path(temp)
        small, cache = folder / "small.mp4", Cache(folder / "cache", budget=10**12)
        small_demo(small)
        long = {f"{hours}h": HOUR * hours for hours in (1, 2)} | {f"lock{k}": 1 + k for k in range(LOCKS)}
        for name, times in long.items():
            repeated(small, folder / f"{name}.mp4", times)
            keep_repeated(small, folder / f"{name}.mp4", cache)
        files = {name: planned(folder / f"{name}.mp4") for name in long}
        ten = [files[name] for name in files if name.startswith("lock")]
        around = os.environ | {"EZVAR_CACHE": str(cache.folder)}
        for shown in ([DEMO_PROJECT], [files["1h"]], [files["2h"]], ten):
            subprocess.run([sys.executable, "-m", "benchmarks.memory", *map(str, shown)], check=True, env=around)


if __name__ == "__main__":
    main()
