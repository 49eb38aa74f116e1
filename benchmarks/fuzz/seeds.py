"""Good files of every kind that comes in from outside, small enough to be read in a moment."""

from __future__ import annotations

import contextlib
import io
import os
import shutil
import subprocess
import sys
import tempfile
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np
import opentimelineio as otio

import ezvar
from ezvar.cli import main
from ezvar.core import edits
from ezvar.core.encoding import PRESETS_KEPT, known_presets
from ezvar.core.model import Backdrop, CaptionStyle, Keyframe, Pane
from ezvar.core.output import RECEIVERS_KEPT, known_receivers
from ezvar.core.store import load_project, save_project
from ezvar.core.text import take_captions

SIZE, FRAMES = (160, 90), 48
FONT = Path(ezvar.__file__).parent / "type" / "AtkinsonHyperlegibleNext-Bold.ttf"
_SRT = "".join(
    f"{k + 1}\n00:00:0{k // 5},{k % 5 * 200:03} --> 00:00:0{k // 5},{k % 5 * 200 + 180:03}\nLine <i>{k}</i>.\n\n"
    for k in range(9)
)
_TTML = """<?xml version="1.0" encoding="UTF-8"?>
<tt xmlns="http://www.w3.org/ns/ttml" xml:lang="en"><body><div>
<p begin="00:00:00.200" end="00:00:00.700">One <span>word</span></p>
<p begin="00:00:00.800" end="00:00:01.400">Two<br/>lines</p></div></body></tt>
"""
_CUBE = "TITLE \"warm\"\nLUT_3D_SIZE 2\nDOMAIN_MIN 0 0 0\nDOMAIN_MAX 1 1 1\n" + "".join(
    f"{r} {g * 0.9:g} {b * 0.8:g}\n" for b in (0, 1) for g in (0, 1) for r in (0, 1)
)  # fmt: skip
CAPTIONS, RETURNED, CLIPS, EVENTS = 9, 4, 5, 4
"""How many captions the seed has, how many decisions come back, clips that its timeline shows, events of its list."""


def make_seeds(folder: Path) -> None:
    """Write them into an empty folder."""
    _movie(folder / "a.mp4", "libx264", sound=True)
    for name, codec in (("m.mkv", "libx265"), ("m.mov", "prores_ks"), ("m.avi", "mpeg4"), ("m.webm", "libvpx-vp9")):
        _movie(folder / name, codec)
    picture = np.random.default_rng(3).integers(0, 255, (40, 60, 3)).astype(np.uint8)
    for name in ("paper.png", "paper.jpg", "paper.tif", "paper.webp"):
        cv2.imwrite(str(folder / name), picture)
    shutil.copy(FONT, folder / "own.ttf")
    (folder / "c.srt").write_text(_SRT)
    (folder / "c.vtt").write_text("WEBVTT\n\n" + _SRT.replace(",", "."))
    (folder / "c.ttml").write_text(_TTML)
    (folder / "t.cube").write_text(_CUBE)
    _projects(folder)
    _timelines(folder)
    PRESETS_KEPT.save([replace(known_presets()[0], name="own")], folder / "presets.json")
    RECEIVERS_KEPT.save([replace(known_receivers()[0], name="own")], folder / "receiving.json")


def make_seeds_apart(folder: Path) -> None:
    """Write them in a program of its own, so that this one has no threads and nothing of theirs is in its cache."""
    folder.mkdir()
    with tempfile.TemporaryDirectory() as kept:
        said = f"from benchmarks.fuzz.seeds import *; make_seeds(Path({str(folder)!r}))"
        own = {**os.environ, "EZVAR_CACHE": f"{kept}/cache", "EZVAR_CONFIG": f"{kept}/config"}
        subprocess.run([sys.executable, "-c", said], check=True, env=own)


def _movie(path: Path, codec: str, sound: bool = False) -> None:
    """Two shots of moving noise."""
    rng = np.random.default_rng(1)
    places = [rng.integers(0, 255, (SIZE[1], SIZE[0] * 2, 3)).astype(np.uint8) // shade for shade in (1, 3)]
    with av.open(str(path), "w") as out:
        stream = out.add_stream(codec, rate=25)
        stream.width, stream.height = SIZE
        stream.pix_fmt = "yuv422p10le" if codec == "prores_ks" else "yuv420p"
        if codec == "libx265":
            stream.options = {"x265-params": "log-level=none"}
        heard = out.add_stream("aac", rate=48_000) if sound else None
        for n in range(FRAMES):
            place = places[2 * n // FRAMES]
            frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(place[:, n : n + SIZE[0]]))
            frame.pts, frame.time_base = n, Fraction(1, 25)
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
        if heard is not None:
            tone = np.sin(np.arange(FRAMES * 1920) / 20).astype(np.float32)[None] * np.float32(0.3)
            samples = av.AudioFrame.from_ndarray(tone, "fltp", "mono")
            samples.sample_rate, samples.pts = 48_000, 0
            out.mux(heard.encode(samples))
            out.mux(heard.encode(None))


def _run(*words: str) -> None:
    with contextlib.redirect_stdout(io.StringIO()):
        if main(list(words)) == 2:
            raise RuntimeError(f"a seed could not be made: {words}")


def _projects(folder: Path) -> None:
    plain, whole = folder / "plain.ezvar", folder / "whole.ezvar"
    _run("plan", str(folder / "a.mp4"), "--master", "9:16=72x128", "--master", "1:1=96x96", "-o", str(plain))
    doc = load_project(plain)
    doc, _ = take_captions(doc, str(folder / "c.srt"))
    track = doc.tracks[0].id
    own = CaptionStyle(font=str(folder / "own.ttf"), family="Own")
    doc = edits.set_style(doc, track, [master.id for master in doc.masters], own)
    first = doc.masters[0]
    backdrop = Backdrop("media", media=str(folder / "paper.png"))
    doc = edits.change_master(doc, replace(first, start="whole", backdrop=backdrop))
    wide = (Pane(keys=(Keyframe(0, zoom=0.4),)),)
    doc = edits.set_framings(doc, [replace(f, panes=wide) for f in doc.framings if f.master == first.id])
    save_project(doc, whole)
    returned = folder / "returned"
    _run("handoff", str(plain), "-o", str(returned), "--otio", "--edl", "--csv", "--json", "--aaf")
    named = {"otio": "* 9x16.otio", "edl": "* 9x16.edl", "csv": "*.csv", "json": "*decisions*.json", "aaf": "*.aaf"}
    for kind, pattern in named.items():
        shutil.move(sorted(returned.glob(pattern))[0], folder / f"back.{kind}")
    shutil.rmtree(returned)


def _timelines(folder: Path) -> None:
    schema, time = otio.schema, otio.opentime.RationalTime

    def clip(name: str, start: int, length: int) -> otio.schema.Clip:
        span = otio.opentime.TimeRange(time(start, 25), time(length, 25))
        return schema.Clip(name, schema.ExternalReference(name), span, metadata={"other": {"said": [1, "two", {}]}})

    slow = clip("a.mp4", 0, 10)
    slow.effects.append(schema.LinearTimeWarp(time_scalar=0.5))
    held = clip("a.mp4", 5, 6)
    held.effects.append(schema.FreezeFrame())
    gap = schema.Gap(source_range=otio.opentime.TimeRange(time(0, 25), time(3, 25)))
    mix = schema.Transition("mix", "SMPTE_Dissolve", time(2, 25), time(2, 25))
    marked = clip("a.mp4", 24, 12)
    marked.markers.append(schema.Marker("look", otio.opentime.TimeRange(time(26, 25), time(2, 25))))
    pictures = schema.Track("V1", [clip("a.mp4", 4, 12), mix, marked, slow, gap, held, clip("paper.png", 0, 8)])
    upper = schema.Track("V2", [gap.deepcopy(), clip("paper.png", 0, 5)])
    sound = schema.Track("A1", [clip("a.mp4", 0, 40)], kind=schema.TrackKind.Audio)
    timeline = schema.Timeline("cut", global_start_time=time(90_000, 25))
    timeline.tracks.extend([pictures, upper, sound])
    timeline.metadata["other"] = {"size": 1}
    otio.adapters.write_to_file(timeline, str(folder / "cut.otio"))
    for each in timeline.find_clips():
        each.media_reference.target_url = str((folder / each.name).as_uri())
    otio.adapters.write_to_file(timeline, str(folder / "cut.otioz"))
    lines, at = ["TITLE: CUT", "FCM: NON-DROP FRAME", ""], 90_000
    for number in range(1, 5):
        into, out = (f"00:00:00:{f:02}" for f in (2, 12))
        begins, ends = (f"01:00:{f // 25:02}:{f % 25:02}" for f in (at - 90_000, at - 89_990))
        lines += [f"{number:03}  A001     V     C        {into} {out} {begins} {ends}", "* FROM CLIP NAME: a.mp4"]
        at += 10
    (folder / "cut.edl").write_text("\n".join(lines) + "\n")
