"""How soon a large timeline can be worked on: a 3,000-event OTIO and a 600-event EDL, in the real window.

Each is generated with forty media files, opened, and timed until its ledger
stands painted with all shots and the event loop is idle again; beside it what
OpenTimelineIO alone takes to read the same file, or to read its text.

Run by `make bench`. Without a monitor it measures on Qt's offscreen platform.
"""

from __future__ import annotations

import os
import random
import tempfile
import time
from fractions import Fraction
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import av
import numpy as np
import opentimelineio as otio
from PyQt6.QtCore import QCoreApplication

from ezvar.app.window.main import keep_from_collector, make_application
from ezvar.app.window.main_window import MainWindow
from ezvar.core.timing import Rate, timecode

from .window import wait

MEDIA, EVENTS, EDL_EVENTS, LENGTH = 40, 3000, 600, 250
RATE = Rate(25)


def make_media(folder: Path) -> list[Path]:
    """Forty movies of ten seconds with sound."""
    made = []
    for k in range(MEDIA):
        path = folder / f"reel{k:02}.mov"
        with av.open(str(path), "w") as out:
            picture = out.add_stream("libx264", rate=RATE.fraction, options={"preset": "ultrafast"})
            picture.width, picture.height, picture.pix_fmt = 320, 180, "yuv420p"
            sound = out.add_stream("pcm_s16le", rate=48000, layout="stereo")
            for n in range(LENGTH):
                image = np.full((180, 320, 3), (k * 6, n, 90), np.uint8)
                out.mux(picture.encode(av.VideoFrame.from_ndarray(image)))
            silence = av.AudioFrame.from_ndarray(np.zeros((1, 96000 * LENGTH // 25), np.int16), layout="stereo")
            silence.sample_rate, silence.time_base, silence.pts = 48000, Fraction(1, 48000), 0
            out.mux(sound.encode(silence))
            for stream in (picture, sound):
                out.mux(stream.encode(None))
        made.append(path)
    return made


def make_otio(media: list[Path], path: Path) -> None:
    """Every event as a picture clip and a sound clip."""
    rng = random.Random(2)
    pieces = [(rng.choice(media), rng.randint(0, LENGTH - 60), rng.randint(12, 50)) for _ in range(EVENTS)]
    timeline = otio.schema.Timeline("large")
    for kind in ("Video", "Audio"):
        track = otio.schema.Track(kind, kind=kind)
        for file, start, length in pieces:
            reference = otio.schema.ExternalReference(
                file.as_uri(), otio.opentime.TimeRange(otio.opentime.RationalTime(0, 25), _time(LENGTH))
            )
            span = otio.opentime.TimeRange(_time(start), _time(length))
            track.append(otio.schema.Clip(file.stem, reference, span))
        timeline.tracks.append(track)
    otio.adapters.write_to_file(timeline, str(path))


def _time(frames: int) -> otio.opentime.RationalTime:
    return otio.opentime.RationalTime(frames, 25)


def make_edl(media: list[Path], path: Path) -> None:
    rng = random.Random(3)
    lines, at = ["TITLE: LARGE", "FCM: NON-DROP FRAME", ""], 90000
    for n in range(1, EDL_EVENTS + 1):
        file, start, length = rng.choice(media), rng.randint(0, LENGTH - 60), rng.randint(12, 50)
        times = [timecode(f, RATE) for f in (start, start + length, at, at + length)]
        lines += [f"{n:03}  {file.stem.upper():8} V     C        {' '.join(times)}", f"* FROM CLIP NAME: {file.name}"]
        at += length
    path.write_text("\n".join(lines) + "\n")


def usable(window: MainWindow, path: Path, rate: Rate | None, shots: int) -> float:
    """Seconds from the order to open until the ledger stands with all shots and the window answers."""
    begun = time.monotonic()
    window.session.files.open(path, rate=rate)
    view = window.ledger.view
    opened: list[bool] = []
    window.session.files.opened.connect(lambda: opened.append(True))
    assert wait(lambda: bool(opened)), "it was never opened"
    assert view.model().rowCount() == shots
    window.repaint()
    view.setCurrentIndex(view.model().index(shots // 2, 0))
    QCoreApplication.processEvents()
    return time.monotonic() - begun


def timed(run) -> float:
    begun = time.monotonic()
    run()
    return time.monotonic() - begun


def main() -> None:
    app = make_application()
    window = MainWindow()
    window.resize(1280, 800)
    window.show()
    app.processEvents()
    keep_from_collector()
    with tempfile.TemporaryDirectory() as temp:
        folder = Path(temp)
        media = make_media(folder)
        make_otio(media, large := folder / "large.otio")
        make_edl(media, edl := folder / "large.edl")
        for name, path, rate, shots, bare in (
            ("3,000-event OTIO", large, None, EVENTS, lambda: otio.adapters.read_from_file(str(large))),
            ("600-event EDL", edl, RATE, EDL_EVENTS, edl.read_text),
        ):
            ours, alone = usable(window, path, rate, shots), timed(bare)
            print(f"{name:18}{ours:6.2f} s to a usable ledger (aim 2), {alone:.2f} s for the bare reading", flush=True)
            window.session.project.history.mark_saved(window.session.project.document)
            wait(lambda: not window.session.jobs.running)
        window.session.jobs.stop_all()
        window.close()


if __name__ == "__main__":
    main()
