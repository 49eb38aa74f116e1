"""Draw the demo edit "Lantern night" with its sound and its ground truth.

    python tools/make_demo.py          draws ezvar/demo/lantern-night.mp4 and .truth.json

Deterministic: the same versions of the packages give the same pictures. The
ground truth beside the movie has the cuts and, per frame, each subject's box
(left, top, width, height in picture pixels).
"""

from __future__ import annotations

import json
import os
from fractions import Fraction
from pathlib import Path

import av
import numpy as np

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
from demo_art.shots import FLASH, FPS, SHOTS, render
from demo_art.sound import RATE, score
from PyQt6.QtGui import QFontDatabase, QGuiApplication

ROOT = Path(__file__).resolve().parent.parent
DEMO = ROOT / "ezvar" / "demo"
FIRST = 90_000  # 01:00:00:00 in frames


def main() -> None:
    app = QGuiApplication([])
    for font in sorted((ROOT / "ezvar" / "app" / "type").glob("*.ttf")):
        QFontDatabase.addApplicationFont(str(font))
    DEMO.mkdir(exist_ok=True)
    truth: dict[str, object] = {"rate": f"{FPS}/1", "start": FIRST, "frames": sum(s.frames for s in SHOTS)}
    shots, starts, at = [], {}, 0

    with av.open(str(DEMO / "lantern-night.mp4"), "w", options={"movflags": "+faststart"}) as out:
        video = out.add_stream("libx264", rate=FPS)
        video.width, video.height, video.pix_fmt = 1920, 1080, "yuv420p"
        video.gop_size = 2 * FPS
        video.options = {
            "crf": "30",
            "preset": "slower",
            "x264-params": "bframes=3:aq-mode=3:colorprim=bt709:transfer=bt709:colormatrix=bt709",
        }
        video.color_primaries = video.color_trc = video.colorspace = 1
        video.color_range = 1
        video.time_base = video.codec_context.time_base = Fraction(1, FPS)
        video.metadata["timecode"] = "01:00:00:00"
        audio = out.add_stream("aac", rate=RATE, layout="stereo")
        audio.bit_rate = 96_000
        for shot in SHOTS:
            boxes = []
            for i in range(shot.frames):
                pixels, subjects = render(shot, i)
                boxes.append(subjects)
                frame = av.VideoFrame.from_ndarray(pixels, format="bgra").reformat(format="yuv420p", dst_colorspace=1)
                frame.pts, frame.time_base = at + i, Fraction(1, FPS)
                out.mux(video.encode(frame))
            shots.append(
                {"name": shot.name, "setup": shot.setup, "start": at, "end": at + shot.frames, "subjects": boxes}
            )
            starts.setdefault(shot.name, []).append((at / FPS, shot.frames / FPS))
            at += shot.frames
            print(f"{shot.name}: {shot.frames} frames")
        out.mux(video.encode(None))
        sound = score(starts, at / FPS)
        for k in range(0, sound.shape[1], 1024):
            block = av.AudioFrame.from_ndarray(
                np.ascontiguousarray(sound[:, k : k + 1024]), format="fltp", layout="stereo"
            )
            block.sample_rate, block.pts, block.time_base = RATE, k, Fraction(1, RATE)
            out.mux(audio.encode(block))
        out.mux(audio.encode(None))

    fireworks = next(s for s in shots if s["name"] == "fireworks")
    whip = next(s for s in shots if s["name"] == "whip pan")
    truth["cuts"] = [{"frame": s["start"], "kind": "cut"} for s in shots[1:]]
    truth["not_cuts"] = [
        {"what": "flash", "start": fireworks["start"] + FLASH[0], "end": fireworks["start"] + FLASH[1]},
        {"what": "whip pan", "start": whip["start"] + 30, "end": whip["start"] + 43},
    ]
    truth["shots"] = shots
    (DEMO / "lantern-night.truth.json").write_text(json.dumps(truth, separators=(",", ":")) + "\n")
    del app


if __name__ == "__main__":
    main()
