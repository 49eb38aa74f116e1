"""Whether the same shot, changed in ways that change nothing, is framed alike.

    python -m benchmarks.alike demo|generated[=FIRST]|MOVIE... [--worst] [--page]

Each shot is solved as it is, then mirrored, at half and double size, each
picture coded worse by itself, all of them by a movie's codec, at half its
rate, darker, and with a few frames less at its ends. Of the
windows of each shape it is counted in how many frames they stand within 3 %
of the picture's width of where they stood (mirrored where mirrored), and in
how many shots they rest or move as they did.
"""

from __future__ import annotations

import io
import sys
from collections import defaultdict
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np

from ezvar.core import edits
from ezvar.core.evidence import Analysis, Finders, looked
from ezvar.core.framing import crop_windows, solve
from ezvar.core.media import MovieReader, Picture, Planes
from ezvar.core.model import Document, Framing, Lock, Master, Media, Shot, Source
from ezvar.core.store import load_project
from ezvar.core.timing import Rate
from ezvar.demo import DEMO_PROJECT

from .framing_scenes import FPS, scenes

SHAPES = {"9:16": (1080, 1920), "4:5": (1080, 1350), "1:1": (1080, 1080)}
NEAR = 0.03
"""Of the picture's width, within which windows stand alike."""
_WIDEST = 960  # pixels to which pictures are brought, so that a shot of them fits into memory
_WORSE = 12  # quality of a still of each picture, of a hundred
_CODED = "36"  # constant rate factor of a movie that is coded worse
_LESS = (7, 5)  # frames that are left out at both ends

PAGE = Path(__file__).resolve().parent.parent / "docs" / "ALIKE.md"
HEAD = """# How far the same shot, changed in ways that change nothing, is framed alike

In how many frames windows stand within 3 % of the picture's width of where they stood, and in how many shots they rest
or move as they did; 9:16, 4:5 and 1:1 together. Shots of the demo, of generated scenes of unseen seeds, and movies that
nobody here shot (`python -m benchmarks.alike demo generated=11500 generated=15500 MOVIE... --page` makes this page, in
half an hour). A shot is coded worse as so many stills of a quality of 12, and as a movie of a constant rate factor of
36.
"""


@dataclass(frozen=True)
class Clip:
    """A shot: its pictures, RGB, and how many of them a second."""

    name: str
    pictures: tuple[np.ndarray, ...]
    rate: Fraction


Change = Callable[[Clip], Clip]


def each(clip: Clip, of: Callable[[np.ndarray], np.ndarray]) -> Clip:
    return replace(clip, pictures=tuple(np.ascontiguousarray(of(p)) for p in clip.pictures))


def sized(by: float) -> Change:
    return lambda clip: each(clip, lambda p: cv2.resize(p, None, fx=by, fy=by, interpolation=cv2.INTER_AREA if by < 1
                                                        else cv2.INTER_CUBIC))  # fmt: skip


def coded_worse(picture: np.ndarray) -> np.ndarray:
    _, coded = cv2.imencode(".jpg", picture, [cv2.IMWRITE_JPEG_QUALITY, _WORSE])
    return np.asarray(cv2.imdecode(coded, cv2.IMREAD_COLOR))


def coded_as_movie(clip: Clip) -> Clip:
    high, wide = (side // 2 * 2 for side in clip.pictures[0].shape[:2])
    coded = io.BytesIO()
    with av.open(coded, "w", format="mp4") as out:
        stream = out.add_stream("libx264", rate=clip.rate, options={"crf": _CODED})
        stream.width, stream.height, stream.pix_fmt = wide, high, "yuv420p"
        for picture in clip.pictures:
            out.mux(stream.encode(av.VideoFrame.from_ndarray(np.ascontiguousarray(picture[:high, :wide]), "rgb24")))
        out.mux(stream.encode(None))
    coded.seek(0)
    with av.open(coded) as movie:
        return replace(clip, pictures=tuple(frame.to_ndarray(format="rgb24") for frame in movie.decode(video=0)))


CHANGES: dict[str, Change] = {
    "mirrored": lambda clip: each(clip, lambda p: p[:, ::-1]),
    "half": sized(0.5),
    "double": sized(2.0),
    "worse": lambda clip: each(clip, coded_worse),
    "coded": coded_as_movie,
    "half rate": lambda clip: replace(clip, pictures=clip.pictures[::2], rate=clip.rate / 2),
    "darker": lambda clip: each(clip, lambda p: (p * 0.6).astype(np.uint8)),
    "less": lambda clip: replace(clip, pictures=clip.pictures[_LESS[0] : -_LESS[1]]),
}


def document(clip: Clip) -> Document:
    high, wide = clip.pictures[0].shape[:2]
    frames, rate = len(clip.pictures), Rate(clip.rate.numerator, clip.rate.denominator)
    media = Media("m", "", wide, high, rate, frames)
    lock = Lock(clip.name, rate, frames, wide, high, 0, False, (media,))
    doc = Document(lock, (Shot("shot", 0, frames, Source("m", Fraction(0))),))
    for name, (width, height) in SHAPES.items():
        doc = edits.add_master(doc, Master(name, name, width, height))
    return doc


def framed(clip: Clip, finders: Finders) -> dict[str, tuple[np.ndarray, Framing]]:
    """By shape the window's middle on each frame, as a fraction of the picture's width, and the framing."""
    high, wide = clip.pictures[0].shape[:2]
    made = (Picture(k, Planes.of_rgb(p), wide, high) for k, p in enumerate(clip.pictures))
    analysis = Analysis.of_stretches(list(looked(made, 0, len(clip.pictures), finders, float(clip.rate))))
    doc = document(clip)
    found = {}
    for master in doc.masters:
        (framing,) = solve(doc, master, analysis, doc.shots)
        windows = crop_windows(edits.set_framings(doc, [framing]), master)
        found[master.name] = np.array([w.window.cx / wide for w in windows]), framing
    return found


def compared(change: str, was: np.ndarray, now: np.ndarray) -> np.ndarray:
    """How far apart the windows' middles are on the frames that both have, (frames,)."""
    if change == "mirrored":
        now = 1 - now
    elif change == "half rate":
        was = was[::2]
    elif change == "less":
        was = was[_LESS[0] : -_LESS[1]]
    return np.abs(was - now)


def clips_of_movie(path: str) -> Iterator[Clip]:
    with MovieReader(path) as reader:
        by = min(1.0, _WIDEST / reader.facts.width)
        size = round(reader.facts.width * by / 2) * 2, round(reader.facts.height * by / 2) * 2
        pictures = tuple(p.rgb(*size) for p in reader.frames())
        yield Clip(path.rsplit("/", 1)[-1], pictures, reader.facts.rate.fraction)


def clips_of_demo() -> Iterator[Clip]:
    doc = load_project(DEMO_PROJECT)
    with MovieReader(doc.lock.media[0].path) as reader:
        frames = reader.frames()
        for k, shot in enumerate(doc.shots, 1):
            pictures = tuple(next(frames).rgb(960, 540) for _ in range(shot.frames))
            if shot.frames > 40:
                yield Clip(f"demo {k}", pictures, doc.lock.rate.fraction)


def clips_generated(first: int, rounds: int) -> Iterator[Clip]:
    for scene in scenes(first, rounds):
        yield Clip(scene.name, tuple(scene.pictures()), Fraction(FPS))


def clips(what: str) -> Iterator[Clip]:
    if what == "demo":
        return clips_of_demo()
    if what.startswith("generated"):
        return clips_generated(int(what.partition("=")[2] or 1900), 1)
    return clips_of_movie(what)


@dataclass
class Tally:
    """By change, on which frames windows stood alike, and which shots rested or moved alike."""

    near: dict[str, list[np.ndarray]]
    kind: dict[str, list[bool]]

    def row(self, changes: Iterable[str]) -> tuple[float, float]:
        """The share of the frames and of the kinds that are alike, 0..1, over some changes."""
        names = list(changes)
        frames = np.concatenate([np.concatenate(self.near[name]) for name in names])
        return float(frames.mean()), float(np.mean([k for name in names for k in self.kind[name]]))


def page(tallies: dict[str, Tally]) -> str:
    """The tallies of each source as a page."""
    heads = [*CHANGES, "all"]
    lines = [HEAD, "| | " + " | ".join(heads) + " |", "| --- |" + " ---: |" * len(heads)]
    for source, tally in tallies.items():
        rows = [tally.row([name]) for name in CHANGES] + [tally.row(CHANGES)]
        lines.append(f"| {source} | " + " | ".join(f"{frames:.1%} / {kinds:.0%}" for frames, kinds in rows) + " |")
    return "\n".join(lines) + "\n"


def main() -> None:
    asked = [a for a in sys.argv[1:] if not a.startswith("--")]
    finders = Finders()
    tallies: dict[str, Tally] = {}
    for what in asked:
        source = f"{what.replace('=', ', ')} on" if what.startswith("generated=") else Path(what).name
        tally = tallies[source] = Tally(defaultdict(list), defaultdict(list))
        for clip in clips(what):
            base = framed(clip, finders)
            said = []
            for name, change in CHANGES.items():
                now = framed(change(clip), finders)
                for shape in SHAPES:
                    off = compared(name, base[shape][0], now[shape][0]) <= NEAR
                    same = (len(base[shape][1].panes[0].keys) > 1) == (len(now[shape][1].panes[0].keys) > 1)
                    tally.near[name].append(off)
                    tally.kind[name].append(same)
                    if "--worst" in sys.argv and (off.mean() < 0.97 or not same):
                        said.append(f"  {shape:5} {name:10} {off.mean():6.1%}{'' if same else '  other kind'}: "
                                    f"{base[shape][1].why} / {now[shape][1].why}")  # fmt: skip
            print(clip.name, *said, sep="\n", flush=True)
    print(page(tallies))
    if "--page" in sys.argv:
        PAGE.write_text(page(tallies))


if __name__ == "__main__":
    main()
