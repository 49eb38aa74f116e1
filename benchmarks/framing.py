"""Windows judged against ground truth, beside a fixed centre and a plain follower.

    python -m benchmarks.framing FOLDER [FIRST [ROUNDS]] [--real FOLDER]

Evidence of each scene is kept in FOLDER. Seeds from 500 on are for judging;
1600 to 1600 + 21 rounds by default, which makes docs/FRAMING.md as well: its first part, or what it says of real people
and places. The fixed centre never moves. The follower
takes the strongest region of each look, whatever it is, and a mean over one
second; it has the same evidence and stays inside the picture in the same way.
"""

from __future__ import annotations

import sys
import time
from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import numpy as np

from ezvar.core import edits
from ezvar.core.evidence import Analysis, Evidence, Finders, looked
from ezvar.core.framing import NEEDS_A_LOOK, Size, crop_windows, solve
from ezvar.core.model import Document, Framing, Lock, Master, Media, Shot, Source, doubt
from ezvar.core.timing import Rate

from . import real
from .footage import HEADING
from .framing_scenes import FPS, HEIGHT, STANDING, WIDTH, Scene, scenes

SHAPES = {"9:16": (270, 480), "4:5": (384, 480), "1:1": (480, 480)}
PICTURE = Size(WIDTH, HEIGHT)
TOO_FAST = ("fast",)
JUDGED = 1600
PAGE = Path(__file__).resolve().parent.parent / "docs" / "FRAMING.md"
MORE = """A bad one breaks one of these: wholly inside in 99 % of its frames, its centre in 99.9 %, no turn that
the subject's own path does not explain. More than half of them are subjects quicker than the pace.

Subjects that an editor draws are judged by `python -m benchmarks.tracking`, set-ups by `python -m benchmarks.setups`.
"""
REAL = "## With real people and places"
SAID = """The same scenes with people cut out of a real movie, mostly from behind and from the side, before pictures of
real places, none of which is part of the project (`python -m benchmarks.framing FOLDER --real PICTURES`).

"""
_MEAN = FPS  # frames of the follower's mean
_STILL = 0.15  # pixels a frame below which a path counts as standing
_AROUND = 13  # frames in which a change of direction is explained by the subject's own


@dataclass(frozen=True)
class Result:
    """One scene in one shape: shares of the frames that count, movement, and what was said of it."""

    whole: int
    middle: int
    counted: int
    restless: float
    turns: int
    swaps: int
    keys: int = 1
    doubt: int = 0

    @property
    def good(self) -> bool:
        return self.whole >= 0.99 * self.counted and self.middle >= 0.999 * self.counted and not self.turns


def document(scene: Scene) -> Document:
    """A lock of this one shot, with a master of each shape."""
    media = Media("scene", "", WIDTH, HEIGHT, Rate(FPS), scene.frames)
    lock = Lock(scene.name, Rate(FPS), scene.frames, WIDTH, HEIGHT, 0, False, (media,))
    doc = Document(lock, (Shot("shot", 0, scene.frames, Source("scene", Fraction(0))),))
    for name, (width, height) in SHAPES.items():
        doc = edits.add_master(doc, Master(name, name, width, height))
    return doc


def evidence_of(scene: Scene, finders: Finders) -> Analysis:
    return Analysis.of_stretches(list(looked(scene.frames_for_analysis(0), 0, scene.frames, finders, FPS)))


def fixed_centre(scene: Scene, evidence: Evidence, width: float) -> np.ndarray:
    return np.full(scene.frames, WIDTH / 2)


def follower(scene: Scene, evidence: Evidence, width: float) -> np.ndarray:
    """The centre of the strongest region of each look, a mean over one second, inside the picture."""
    strongest: dict[int, tuple[float, float]] = {}
    for kind in evidence.finders:
        for frame, regions in evidence.seen(kind, 0, scene.frames):
            for region in regions:
                if region.weight > strongest.get(frame, (0.0, 0.0))[0]:
                    strongest[frame] = region.weight, region.cx * WIDTH
    if not strongest:
        return fixed_centre(scene, evidence, width)
    known = sorted(strongest)
    raw = np.interp(np.arange(scene.frames), known, [strongest[k][1] for k in known])
    padded = np.pad(raw, _MEAN // 2, mode="edge")
    mean = np.convolve(padded, np.ones(_MEAN) / _MEAN, mode="valid")[: scene.frames]
    return np.clip(mean, width / 2, WIDTH - width / 2)


def judged(scene: Scene, centres: np.ndarray, width: float, keys: int = 1, said: int = 0) -> Result:
    """How a path of window centres, in picture pixels, keeps the scene's subjects."""
    whole = middle = counted = 0
    kept: list[int] = []
    for k, centre in enumerate(centres):
        seen = [a for a in scene.subjects if scene.seen(a, k)]
        if not seen:
            continue
        counted += 1
        left, right = centre - width / 2, centre + width / 2
        inside = [a for a in seen if left - 0.5 <= _kept_box(scene, a, k, width)[0]
                  and _kept_box(scene, a, k, width)[2] <= right + 0.5]  # fmt: skip
        whole += bool(inside) or _heads_inside(scene, seen, k, left, right)
        middle += any(left <= scene.actors[a].at(k)[0] <= right for a in seen)
        if len(inside) == 1 and (not kept or kept[-1] != inside[0]):
            kept.append(inside[0])
    restless = float(np.abs(np.diff(centres, 2)).sum()) / WIDTH
    return Result(whole, middle, counted, restless, _turns(scene, centres), max(0, len(kept) - 1), keys, said)


def _heads_inside(scene: Scene, seen: list[int], k: int, left: float, right: float) -> bool:
    """Whether the heads of several are inside: more of all of them than one with shoulders, and an editor's choice."""
    heads = [scene.actors[a].head(k) for a in seen]
    return len(seen) > 1 and all(left - 0.5 <= h[0] and h[2] <= right + 0.5 for h in heads)


def _kept_box(scene: Scene, actor: int, k: int, width: float) -> tuple[float, float, float, float]:
    """What is to be kept of an actor, as far as the picture shows it."""
    box = scene.actors[actor].box(k)
    if min(box[2], WIDTH) - max(box[0], 0.0) > width:
        box = scene.actors[actor].head(k)
    return max(box[0], 0.0), box[1], min(box[2], WIDTH), box[3]


def _turns(scene: Scene, centres: np.ndarray) -> int:
    """Changes of direction that no subject's own change of direction explains."""
    explained = set()
    for a in scene.subjects:
        path = np.array([scene.actors[a].at(k)[0] for k in range(scene.frames)])
        explained |= set(_changes(np.diff(path)).tolist())
    turns = _changes(np.diff(centres))
    return sum(all(abs(t - e) > _AROUND for e in explained) for t in turns)


def _changes(speed: np.ndarray) -> np.ndarray:
    moving = np.flatnonzero(abs(speed) > _STILL)
    if len(moving) < 2:
        return np.zeros(0, int)
    signs = np.sign(speed[moving])
    return moving[1:][signs[1:] != signs[:-1]]


def ours(doc: Document, master: Master, framing: Framing) -> tuple[np.ndarray, int, int]:
    """The window's centre on each frame in picture pixels, the keyframes and the doubt."""
    framed = edits.set_framings(doc, [framing])
    centres = np.array([w.window.cx for w in crop_windows(framed, master)])
    return centres, len(framing.panes[0].keys), doubt(framing.reasons)


Results = dict[tuple[str, str], list[tuple[Scene, Result]]]


def table(first: int, rounds: int, folder: Path, say: Callable[[str], None] = print) -> Results:
    results: Results = {}
    seconds = 0.0
    finders = Finders()
    for scene in scenes(first, rounds):
        analysis = evidence_of(scene, finders)
        doc = document(scene)
        for shape, (w, h) in SHAPES.items():
            width = HEIGHT * w / h
            begun = time.perf_counter()
            (framing,) = solve(doc, doc.master(shape), analysis, doc.shots)
            seconds += time.perf_counter() - begun
            runs = {
                "ours": ours(doc, doc.master(shape), framing),
                "follower": (follower(scene, analysis.evidence, width), 1, 0),
                "centre": (fixed_centre(scene, analysis.evidence, width), 1, 0),
            }
            for name, (centres, keys, said) in runs.items():
                results.setdefault((shape, name), []).append((scene, judged(scene, centres, width, keys, said)))
    say(f"{'':15} wholly inside   centre inside   restlessness   turns   changes of subject")
    for (shape, name), found in results.items():
        counts = [r for s, r in found if s.kind not in TOO_FAST and r.counted]
        counted = sum(r.counted for r in counts)
        rest = sum(r.restless for _, r in found)
        say(
            f"{shape:5} {name:9} {100 * sum(r.whole for r in counts) / counted:12.2f} % "
            f"{100 * sum(r.middle for r in counts) / counted:13.2f} % {rest:14.2f} {sum(r.turns for _, r in found):7}"
            f" {sum(r.swaps for _, r in found):7}"
        )
    for shape in SHAPES:
        _say_more(shape, results[shape, "ours"], say)
    say(f"solving took {1000 * seconds / len(results['9:16', 'ours']):.0f} ms a shot for all three")
    return results


def page(results: Results) -> str:
    """The table for the docs, in Markdown."""
    shots = len(results["9:16", "ours"])
    lines = [
        "# How well windows keep their subjects", "",
        f"On {shots} generated shots at 25 frames a second (`benchmarks/framing_scenes.py`, judging seeds; "
        "`python -m benchmarks.framing FOLDER` makes this page), at the middle pace, beside a window that never leaves "
        "the middle and a plain follower with the same evidence. Shots in which the subject is quicker than the pace "
        "do not count in the first two columns.", "",
        "| shape | | wholly inside | centre inside | restlessness | turns unexplained | changes of subject |",
        "| --- | --- | ---: | ---: | ---: | ---: | ---: |",
    ]  # fmt: skip
    for (shape, name), found in results.items():
        counts = [r for s, r in found if s.kind not in TOO_FAST and r.counted]
        counted = sum(r.counted for r in counts)
        whole, middle = (100 * sum(v) / counted for v in ([r.whole for r in counts], [r.middle for r in counts]))
        rest, turns, swaps = (sum(v) for v in zip(*((r.restless, r.turns, r.swaps) for _, r in found), strict=True))
        lines.append(f"| {shape} | {name} | {whole:.2f} % | {middle:.2f} % | {rest:.2f} | {turns} | {swaps} |")
    lines += [
        "", "| shape | standing shots static | keyframes of moving shots | bad ones doubtful | good ones doubtful |",
        "| --- | ---: | ---: | ---: | ---: |",
    ]  # fmt: skip
    for shape in SHAPES:
        found = results[shape, "ours"]
        standing = [r.keys == 1 for s, r in found if s.kind in STANDING]
        keys = [r.keys for _, r in found if r.keys > 1]
        bad, good = ([r.doubt >= NEEDS_A_LOOK for s, r in found if r.counted and r.good == g] for g in (False, True))
        lines.append(
            f"| {shape} | {100 * np.mean(standing):.0f} % | {np.median(keys):.0f} in the middle, {max(keys)} at most | "
            f"{sum(bad)} of {len(bad)} | {sum(good)} of {len(good)} |"
        )
    return "\n".join([*lines, "", MORE, *reliability(results)])


def reliability(results: Results) -> list[str]:
    """How often a framing is wrong, by its doubt: a table in Markdown."""
    judged_ = [r for shape in SHAPES for _, r in results[shape, "ours"] if r.counted]
    lines = ["How often a framing is wrong, by ground truth, of what has a doubt of", "",
             "| doubt | framings | wrong |", "| --- | ---: | ---: |"]  # fmt: skip
    for low, high in ((0, 10), (10, 20), (20, 40), (40, 60), (60, 80), (80, 101)):
        those = [r for r in judged_ if low <= r.doubt < high]
        wrong = sum(not r.good for r in those)
        share = f"{100 * wrong / len(those):.0f} %" if those else "none"
        lines.append(f"| {low} to {high - 1} | {len(those)} | {wrong}, {share} |")
    return [*lines, ""]


def _say_more(shape: str, found: list[tuple[Scene, Result]], say: Callable[[str], None]) -> None:
    standing = [r for s, r in found if s.kind in STANDING]
    moving = [r.keys for _, r in found if r.keys > 1]
    judged_ = [(s, r) for s, r in found if r.counted]
    bad = [(s, r) for s, r in judged_ if not r.good]
    good = [r for s, r in judged_ if r.good]
    caught = sum(r.doubt >= NEEDS_A_LOOK for _, r in bad)
    asked = sum(r.doubt >= NEEDS_A_LOOK for r in good)
    say(
        f"{shape:5} standing shots static {100 * sum(r.keys == 1 for r in standing) / max(1, len(standing)):.0f} %, "
        f"keyframes of moving shots {np.median(moving) if moving else 0:.0f} in the middle, {max(moving, default=0)} "
        f"at most; {caught} of {len(bad)} bad ones doubtful, {asked} of {len(good)} good ones"
    )
    for s, r in bad:
        say(f"      {s.name:18} inside {100 * r.whole / r.counted:5.1f} %, centre {100 * r.middle / r.counted:5.1f} %, "
            f"{r.turns} turns, {r.keys} keyframes, doubt {r.doubt}")  # fmt: skip


def main() -> None:
    folder, *numbers = real.taken(sys.argv[1:])
    first, rounds = (int(n) for n in (numbers + [str(JUDGED), "4"][len(numbers) :]))
    results = table(first, rounds, Path(folder))
    if first == JUDGED:
        before, heading, footage = PAGE.read_text().partition(HEADING)
        drawn, _, actual = before.partition(REAL)
        if real.has_people():
            actual = "\n\n" + SAID + "\n".join(reliability(results))
        else:
            drawn = page(results)
        PAGE.write_text("\n".join([drawn.rstrip() + "\n", *([REAL + actual.rstrip() + "\n"] if actual else []),
                                   heading + footage]))  # fmt: skip


if __name__ == "__main__":
    main()
