"""Drawn subjects tracked through the generated shots, against ground truth.

    python -m benchmarks.tracking [FIRST [ROUNDS]]

A box is drawn on a person's head, or on a thing, at a frame where it is seen.
A switch is a shot in which the track lies on another actor, and not on the
drawn one, for more than three of the frames that it claims. Seeds from 500 on
are for judging.
"""

from __future__ import annotations

import sys
import time
from collections.abc import Callable

import numpy as np

from ezvar.core.evidence import track
from ezvar.core.model import Rect

from .framing_scenes import HEIGHT, WIDTH, Scene, scenes


def drawn_on(scene: Scene, frame: int) -> tuple[int, Rect] | None:
    """An actor that is seen at a frame, and a box drawn on it."""
    seen = [a for a in scene.subjects if scene.seen(a, frame) and scene.actors[a].kind != "text"]
    if not seen:
        return None
    left, top, right, foot = scene.actors[seen[0]].head(frame)
    return seen[0], Rect(left / WIDTH, top / HEIGHT, (right - left) / WIDTH, (foot - top) / HEIGHT)


def table(first: int, rounds: int, say: Callable[[str], None] = print) -> None:
    shots = switched = claimed = right = there = held = 0
    seconds = frames = 0.0
    for scene in scenes(first, rounds):
        rng = np.random.default_rng(scene.seed)
        drawn = next((f for f in (int(n) for n in rng.permutation(scene.frames)) if drawn_on(scene, f)), None)
        if drawn is None:
            continue
        actor, box = drawn_on(scene, drawn)
        pictures = list(scene.frames_for_analysis())
        begun = time.perf_counter()
        made = track(lambda n, p=pictures: p[n:], 0, scene.frames, drawn, box)
        seconds += time.perf_counter() - begun
        frames += scene.frames
        on, off, other = _compared(scene, actor, made.frames, made.boxes)
        shots += 1
        switched += other > 3
        claimed += on + off
        right += on
        seen = [k for k in range(scene.frames) if scene.seen(actor, k) and _joined(scene, actor, k, drawn)]
        there += len(seen)
        held += sum(made.frames[0] <= k <= made.frames[-1] for k in seen)
        if other > 3 or off > 3:
            say(f"      {scene.name:18} drawn at {drawn}, {on} on it, {off} off it, {other} on another; "
                f"{made.frames[0]}..{made.frames[-1]} of {scene.frames}: {made.before} {made.after}")  # fmt: skip
    say(f"{shots} shots: {switched} switches of identity ({100 * switched / shots:.1f} %), on the subject in "
        f"{100 * right / claimed:.1f} % of what is claimed, {100 * held / there:.1f} % of what could be held, "
        f"{frames / seconds:.0f} frames a second")  # fmt: skip


def _compared(scene: Scene, actor: int, frames: tuple[int, ...], boxes: tuple[Rect, ...]) -> tuple[int, int, int]:
    on = off = other = 0
    for k, b in zip(frames, boxes, strict=True):
        x, y = (b.x + b.width / 2) * WIDTH, (b.y + b.height / 2) * HEIGHT
        hits = [a for a in range(len(scene.actors)) if _inside(scene.actors[a].box(k), x, y)]
        on += actor in hits
        off += actor not in hits
        other += bool(hits) and actor not in hits
    return on, off, other


def _inside(box: tuple[float, ...], x: float, y: float) -> bool:
    return box[0] <= x <= box[2] and box[1] <= y <= box[3]


def _joined(scene: Scene, actor: int, k: int, drawn: int) -> bool:
    """Whether the actor is seen all the way from the frame it was drawn on."""
    return all(scene.seen(actor, n) for n in range(min(k, drawn), max(k, drawn) + 1))


def main() -> None:
    first, rounds = (int(n) for n in (sys.argv[1:] + ["600", "4"][len(sys.argv[1:]) :]))
    table(first, rounds)


if __name__ == "__main__":
    main()
