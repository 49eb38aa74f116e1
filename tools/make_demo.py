"""Draw the demo edit "Lantern night": its media, the flat lock, its timelines, and the ground truth.

    python tools/make_demo.py

Writes into ezvar/demo: ``lantern-night.mp4`` (the flat lock, also the
reference), ``lantern-night.otio`` and ``.edl`` (the same as timelines),
``lantern-night-2.otio`` (locked again after changes), ``media/`` (what the
timelines draw on) and ``lantern-night.truth.json``. Deterministic: the same
versions of the packages give the same pictures. The ground truth has the
cuts and, per frame, each subject's box (left, top, width, height in pixels
of the shot's own picture).
"""

from __future__ import annotations

import json
import os
import re
import sys
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np
import opentimelineio as otio

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
from demo_art.shots import FLASH, FPS, SHOTS, Shot, graphic, placed, placement, render
from demo_art.sound import RATE, score
from PyQt6.QtGui import QFontDatabase, QGuiApplication

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))
from ezvar.core.lock import take_lock  # noqa: E402
from ezvar.core.review import edl_text  # noqa: E402

DEMO = ROOT / "ezvar" / "demo"
MEDIA = DEMO / "media"
FIRST = 90_000  # 01:00:00:00 in frames
HANDLES = 16  # frames that each media has before and after what the edit uses
Time, Range = otio.opentime.RationalTime, otio.opentime.TimeRange


def media_name(number: int, shot: Shot) -> str:
    return f"{number:02d}-{re.sub('[^a-z]+', '-', shot.name.lower()).strip('-')}{'.png' if shot.still else '.mp4'}"


class Writer:
    """An H.264 movie being written."""

    def __init__(self, path: Path, size: tuple[int, int], crf: int, code: str, rotation: int = 0) -> None:
        self.out = av.open(str(path), "w", options={"movflags": "+faststart"})
        self.video = self.out.add_stream("libx264", rate=FPS)
        self.video.width, self.video.height, self.video.pix_fmt = *size, "yuv420p"
        self.video.gop_size = 2 * FPS
        params = "bframes=3:aq-mode=3:colorprim=bt709:transfer=bt709:colormatrix=bt709"
        self.video.options = {
            "crf": str(crf),
            "preset": "medium" if size[0] > 1920 else "slower",
            "x264-params": params,
        }
        self.video.color_primaries = self.video.color_trc = self.video.colorspace = 1
        self.video.color_range = 1
        self.video.time_base = self.video.codec_context.time_base = Fraction(1, FPS)
        self.video.metadata["timecode"] = code
        if rotation:
            self.video.set_display_rotation(rotation)
        self.count = 0

    def picture(self, pixels: np.ndarray) -> None:
        bgra = np.ascontiguousarray(pixels)
        frame = av.VideoFrame.from_ndarray(bgra, format="bgra").reformat(format="yuv420p", dst_colorspace=1)
        frame.pts, frame.time_base = self.count, Fraction(1, FPS)
        self.count += 1
        self.out.mux(self.video.encode(frame))

    def close(self, sound: np.ndarray | None = None, audio: Any = None) -> None:
        self.out.mux(self.video.encode(None))
        if sound is not None:
            for k in range(0, sound.shape[1], 1024):
                part = np.ascontiguousarray(sound[:, k : k + 1024])
                block = av.AudioFrame.from_ndarray(part, format="fltp", layout="stereo")
                block.sample_rate, block.pts, block.time_base = RATE, k, Fraction(1, RATE)
                self.out.mux(audio.encode(block))
            self.out.mux(audio.encode(None))
        self.out.close()


def draw() -> dict[str, Any]:
    """Draw every shot once: into its own media, and placed and mixed into the flat lock. Returns the truth."""
    starts = np.concatenate([[0], np.cumsum([s.frames for s in SHOTS])])
    total = int(starts[-1])
    lock = Writer(DEMO / "lantern-night.mp4", (1920, 1080), 34, "01:00:00:00")
    audio = lock.out.add_stream("aac", rate=RATE, layout="stereo")
    audio.bit_rate = 96_000
    waiting: dict[int, np.ndarray] = {}  # frames of the flat lock that are still being mixed
    shots, cuts = [], []
    for number, shot in enumerate(SHOTS, 1):
        begin = int(starts[number - 1])
        after = SHOTS[number].mix if number < len(SHOTS) else 0
        before = shot.mix
        boxes = []
        writer = None if shot.still else _media_writer(number, shot)
        for i in range(-HANDLES, shot.frames + HANDLES):
            inside = -(before // 2) <= i < shot.frames + after // 2
            if shot.still and not inside:
                continue
            if not shot.still or (inside and i == -(before // 2)):
                pixels, subjects = render(shot, i, graphics=False)
            if writer is not None:
                writer.picture(np.rot90(pixels, -1) if shot.size[0] < shot.size[1] else pixels)
            elif i == -(before // 2):
                cv2.imwrite(str(MEDIA / media_name(number, shot)), pixels[..., :3], [cv2.IMWRITE_PNG_COMPRESSION, 9])
            if 0 <= i < shot.frames:
                boxes.append(render(shot, i)[1] if number == 3 else subjects)
            if inside:
                flat = placed(shot, render(shot, i)[0] if number == 3 else pixels, i)
                _mix_in(waiting, flat, begin + i, shot, begin, before)
                for k in sorted(k for k in waiting if k < begin + shot.frames - after // 2 and k <= begin + i):
                    lock.picture(waiting.pop(k))
        if writer is not None:
            writer.close()
        if number > 1:
            kind = "fade" if shot.fade else "dissolve" if before else "cut"
            cuts.append({"frame": begin, "kind": kind, "start": begin - before // 2, "end": begin + before // 2})
        shots.append({
            "name": shot.name, "setup": shot.setup, "start": begin, "end": begin + shot.frames,
            "media": media_name(number, shot), "size": list(shot.size), "subjects": boxes,
        })  # fmt: skip
        print(f"{shot.name}: {shot.frames} frames", flush=True)
    spans: dict[str, list[tuple[float, float]]] = {}
    for shot, begin in zip(SHOTS, starts, strict=False):
        spans.setdefault(shot.name, []).append((begin / FPS, shot.frames / FPS))
    sound = score(spans, total / FPS)
    lock.close(sound, audio)
    _write_sound(sound)
    fireworks, whip = (next(s for s in shots if s["name"] == n) for n in ("fireworks", "whip pan"))
    return {
        "rate": f"{FPS}/1", "start": FIRST, "frames": total, "cuts": cuts,
        "not_cuts": [
            {"what": "flash", "start": fireworks["start"] + FLASH[0], "end": fireworks["start"] + FLASH[1]},
            {"what": "whip pan", "start": whip["start"] + 30, "end": whip["start"] + 43},
        ],
        "shots": shots,
    }  # fmt: skip


def _media_writer(number: int, shot: Shot) -> Writer:
    upright = shot.size[0] < shot.size[1]
    size = (shot.size[1], shot.size[0]) if upright else shot.size
    code = f"{number:02d}:00:00:00"
    return Writer(MEDIA / media_name(number, shot), size, 30, code, 90 if upright else 0)


def _mix_in(waiting: dict[int, np.ndarray], flat: np.ndarray, frame: int, shot: Shot, begin: int, before: int) -> None:
    """Put a frame of a shot into the flat lock, mixed where the mix that begins it is under way."""
    first = begin - before // 2
    if not first <= frame < begin + before // 2:
        waiting[frame] = flat
        return
    old = waiting[frame]
    black = np.zeros_like(flat)
    if shot.fade:
        half, k = before // 2 - 2, frame - first
        if k < half:
            flat = cv2.addWeighted(old, 1 - (k + 1) / (half + 1), black, (k + 1) / (half + 1), 0)
        elif k < half + 4:
            flat = black
        else:
            share = (k - half - 4 + 1) / (half + 1)
            flat = cv2.addWeighted(black, 1 - share, flat, share, 0)
    else:
        share = (frame - first + 1) / (before + 1)
        flat = cv2.addWeighted(old, 1 - share, flat, share, 0)
    waiting[frame] = flat


def _write_sound(sound: np.ndarray) -> None:
    """The score as a file of its own, for the timelines."""
    with av.open(str(MEDIA / "score.m4a"), "w", format="mp4") as out:
        stream = out.add_stream("aac", rate=RATE, layout="stereo")
        stream.bit_rate = 96_000
        for k in range(0, sound.shape[1], 1024):
            part = np.ascontiguousarray(sound[:, k : k + 1024])
            block = av.AudioFrame.from_ndarray(part, format="fltp", layout="stereo")
            block.sample_rate, block.pts, block.time_base = RATE, k, Fraction(1, RATE)
            out.mux(stream.encode(block))
        out.mux(stream.encode(None))


# Timelines


def clip(number: int, first: int, length: int) -> otio.schema.Clip:
    """``length`` frames of a shot from its frame ``first`` on."""
    shot = SHOTS[number - 1]
    zero = 0 if shot.still else number * 3600 * FPS
    whole = None if shot.still else Range(Time(zero, FPS), Time(shot.frames + 2 * HANDLES, FPS))
    reference = otio.schema.ExternalReference(f"media/{media_name(number, shot)}", whole)
    begins = 0 if shot.still else zero + HANDLES + first
    made = otio.schema.Clip(shot.name, reference, Range(Time(begins, FPS), Time(length, FPS)))
    made.metadata["cmx_3600"] = {"reel": Path(media_name(number, shot)).stem}
    if shot.scale != (1.0, 1.0) or shot.drift != (0.0, 0.0):
        ends = [(k, *placement(shot, first + k)) for k in (0, max(1, length - 1))]
        keys = [{"frame": k, "scale": round(s, 5), "x": round(x, 5)} for k, s, x in ends]
        made.metadata["ezvar"] = {"placement": {"keys": keys}}
    return made


def timeline(name: str, parts: list[tuple[int, int, int]], graphics: bool = True) -> otio.schema.Timeline:
    """Shots (number, first frame, length) one after the other, with the mixes that begin them."""
    made = otio.schema.Timeline(name, global_start_time=Time(FIRST, FPS))
    made.metadata["ezvar"] = {"frame": [1920, 1080]}
    picture = otio.schema.Track("V1", kind="Video")
    total = 0
    for number, first, length in parts:
        shot = SHOTS[number - 1]
        if total and shot.fade:
            half = shot.mix // 2 - 2
            _shorten(picture[-1], 2)
            picture.append(otio.schema.Transition("fade out", "SMPTE_Dissolve", Time(half, FPS), Time(0, FPS)))
            picture.append(otio.schema.Gap(source_range=Range(Time(0, FPS), Time(4, FPS))))
            picture.append(otio.schema.Transition("fade in", "SMPTE_Dissolve", Time(0, FPS), Time(half, FPS)))
            picture.append(clip(number, first + 2, length - 2))
        else:
            if total and shot.mix:
                half_ = Time(shot.mix // 2, FPS)
                picture.append(otio.schema.Transition("dissolve", "SMPTE_Dissolve", half_, half_))
            picture.append(clip(number, first, length))
        total += length
    made.tracks.append(picture)
    if graphics:
        upper = otio.schema.Track("V2", kind="Video")
        upper.append(otio.schema.Gap(source_range=Range(Time(0, FPS), Time(201, FPS))))
        upper.append(otio.schema.Transition("comes", "SMPTE_Dissolve", Time(0, FPS), Time(11, FPS)))
        title = otio.schema.ExternalReference("media/lower-third.png")
        upper.append(otio.schema.Clip("lower third", title, Range(Time(0, FPS), Time(96, FPS))))
        upper.append(otio.schema.Transition("goes", "SMPTE_Dissolve", Time(7, FPS), Time(0, FPS)))
        made.tracks.append(upper)
    heard = otio.schema.Track("A1", kind="Audio")
    score_file = otio.schema.ExternalReference("media/score.m4a")
    heard.append(otio.schema.Clip("score", score_file, Range(Time(0, FPS), Time(total, FPS))))
    made.tracks.append(heard)
    return made


def _shorten(item: otio.schema.Clip, by: int) -> None:
    span = item.source_range
    item.source_range = Range(span.start_time, Time(span.duration.value - by, FPS))


def write_timelines() -> None:
    whole = [(n, 0, s.frames) for n, s in enumerate(SHOTS, 1)]
    first = timeline("Lantern night", whole)
    otio.adapters.write_to_file(first, str(DEMO / "lantern-night.otio"))
    (DEMO / "lantern-night.edl").write_text(edl_text(take_lock(DEMO / "lantern-night.otio").doc))
    # Locked again: the valley is shorter, the hands are longer, Ilma's second answer is gone, the drummer comes
    # before the crossing, the fireworks are cut in two around the bearer, the map is new in another place.
    number = {s.name: n for n, s in enumerate(SHOTS, 1)}
    changed = [p for p in whole if p[0] not in (number["Ilma again"], number["drummer at the edge"], number["old map"])]
    at = {p[0]: k for k, p in enumerate(changed)}
    changed[at[number["valley pan"]]] = (number["valley pan"], 20, 80)
    changed[at[number["folding hands"]]] = (number["folding hands"], -6, 112)
    changed[at[number["fireworks"]]] = (number["fireworks"], 0, 60)
    changed.insert(at[number["bearer, close"]] + 1, (number["fireworks"], 60, 50))
    changed.insert(at[number["crossing"]], (number["drummer at the edge"], 0, 100))
    changed.insert(1, (number["old map"], 0, 75))
    otio.adapters.write_to_file(timeline("Lantern night", changed, False), str(DEMO / "lantern-night-2.otio"))


def main() -> None:
    app = QGuiApplication([])
    for font in sorted((ROOT / "ezvar" / "type").glob("*.ttf")):
        QFontDatabase.addApplicationFont(str(font))
    MEDIA.mkdir(parents=True, exist_ok=True)
    truth = draw()
    (DEMO / "lantern-night.truth.json").write_text(json.dumps(truth, separators=(",", ":")) + "\n")
    cv2.imwrite(str(MEDIA / "lower-third.png"), graphic(), [cv2.IMWRITE_PNG_COMPRESSION, 9])
    write_timelines()
    del app


if __name__ == "__main__":
    main()
