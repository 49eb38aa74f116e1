"""Set-ups found in generated dialogues, against ground truth.

    python -m benchmarks.setups [FIRST [ROUNDS]]

Each round is a sequence of three dialogues in rooms of their own, cut between
two or three cameras each. From shot to shot of the same camera people sit
elsewhere, the frame is up to 5 % tighter, looser or shifted, and the light has
changed. Seeds from 500 on are for judging.
"""

from __future__ import annotations

import sys
import time
from collections.abc import Callable
from fractions import Fraction
from itertools import combinations

import cv2
import numpy as np

from ezvar.core.cuts import Signals
from ezvar.core.evidence import Analysis, nothing_seen
from ezvar.core.evidence.stills import STILL, still_of
from ezvar.core.framing import setups
from ezvar.core.model import Shot, Source

from .edits import texture

WIDTH, HEIGHT = 480, 270
_FRAMES = 60


def room(rng: np.random.Generator) -> np.ndarray:
    """A made-up room, uint8 (810, 1440): walls of even light with doors, shelves, pictures; or a place outside."""
    wide, high = WIDTH * 3, HEIGHT * 3
    if rng.random() < 0.3:
        return cv2.cvtColor(texture(rng, wide, high), cv2.COLOR_RGB2GRAY)
    wall = np.linspace(rng.uniform(60, 160), rng.uniform(60, 160), wide)[None] + np.linspace(20, -20, high)[:, None]
    image = wall.astype(np.float32)
    for _ in range(int(rng.integers(14, 40))):
        x, y = int(rng.uniform(0, wide)), int(rng.uniform(0, high))
        size = (int(rng.uniform(30, 260)), int(rng.uniform(30, 340)))
        cv2.rectangle(image, (x, y), (x + size[0], y + size[1]), float(rng.uniform(15, 230)), -1)
        if rng.random() < 0.4:
            cv2.rectangle(image, (x + 8, y + 8), (x + size[0] - 8, y + size[1] - 8), float(rng.uniform(15, 230)), -1)
    grain = cv2.resize(rng.normal(0, 6, (90, 160)).astype(np.float32), (wide, high), interpolation=cv2.INTER_CUBIC)
    return np.clip(image + grain, 0, 255).astype(np.uint8)


def view(rng: np.random.Generator, place: np.ndarray, camera: tuple[float, float, float], soft: float) -> np.ndarray:
    """What a camera sees of a room in one shot, with people, uint8 (270, 480)."""
    x, y, zoom = camera
    zoom *= rng.uniform(0.95, 1.05)
    x, y = x + rng.uniform(-0.05, 0.05) * WIDTH, y + rng.uniform(-0.05, 0.05) * HEIGHT
    matrix = np.array([[zoom, 0, WIDTH / 2 - zoom * x], [0, zoom, HEIGHT / 2 - zoom * y]])
    image = cv2.warpAffine(place, matrix, (WIDTH, HEIGHT), flags=cv2.INTER_AREA, borderMode=cv2.BORDER_REFLECT)
    image = cv2.GaussianBlur(image, (0, 0), soft).astype(np.float32)
    for _ in range(int(rng.integers(1, 3))):
        head, at = rng.uniform(35, 75), rng.uniform(0.15, 0.85) * WIDTH
        coat, skin, top = float(rng.uniform(20, 220)), float(rng.uniform(90, 220)), rng.uniform(0.25, 0.45) * HEIGHT
        cv2.ellipse(image, (round(at), round(HEIGHT + 0.3 * head)), (round(1.1 * head), round(HEIGHT - top - head)),
                    0, 0, 360, coat, -1)  # fmt: skip
        cv2.ellipse(image, (round(at), round(top)), (round(0.4 * head), round(0.55 * head)), 0, 0, 360, skin, -1)
    side = np.linspace(rng.uniform(0.8, 1.2), rng.uniform(0.8, 1.2), WIDTH)[None]
    image = 255 * (image * side / 255) ** rng.uniform(0.8, 1.3) * rng.uniform(0.7, 1.1)
    return np.clip(image + rng.normal(0, 3, image.shape), 0, 255).astype(np.uint8)


def apart(rng: np.random.Generator, count: int) -> list[tuple[float, float, float]]:
    """Cameras in a room: where they look and how close, each at least a third of a frame, or 1.4 times, from others."""
    cameras: list[tuple[float, float, float]] = []
    while len(cameras) < count:
        new = (rng.uniform(0.3, 0.7) * WIDTH * 3, rng.uniform(0.35, 0.65) * HEIGHT * 3, rng.uniform(0.5, 1.4))
        beside = [max(abs(new[0] - c[0]) / WIDTH, abs(new[1] - c[1]) / HEIGHT) * min(new[2], c[2]) for c in cameras]
        closer = [max(new[2], c[2]) / min(new[2], c[2]) for c in cameras]
        if all(b > 0.34 or z > 1.4 for b, z in zip(beside, closer, strict=True)):
            cameras.append(new)
    return cameras


def sequence(seed: int) -> tuple[Analysis, list[Shot], list[tuple[int, int]]]:
    """Shots of three dialogues, what is known of them, and the true dialogue and camera of each."""
    rng = np.random.default_rng(seed)
    shots, truth, stills = [], [], []
    for dialogue in range(3):
        place, soft = room(rng), rng.uniform(0.5, 3)
        cameras = apart(rng, int(rng.integers(2, 4)))
        for k in range(int(rng.integers(8, 16))):
            camera = k % 2 if rng.random() < 0.8 else int(rng.integers(len(cameras)))
            start = len(shots) * _FRAMES
            shots.append(Shot(f"s{len(shots)}", start, start + _FRAMES, Source("m", Fraction(start))))
            truth.append((dialogue, camera))
            still = still_of(view(rng, place, cameras[camera], soft))
            stills += [(start + 5, still), (start + 50, still)]
    none = Signals(np.zeros((0, 18, 32), np.uint8), np.zeros((0, 2, 5, 8), np.uint8), np.zeros(0))
    seen = nothing_seen()
    evidence = type(seen)(seen.rows, seen.looks, seen.finders, np.array(stills, STILL))
    return Analysis.of(none, evidence), shots, truth


def table(first: int, rounds: int, say: Callable[[str], None] = print) -> None:
    right = wrong = missed = count = 0
    begun = time.perf_counter()
    for seed in range(first, first + rounds):
        analysis, shots, truth = sequence(seed)
        group = {shot: k for k, found in enumerate(setups(analysis, shots)) for shot in found}
        for a, b in combinations(range(len(shots)), 2):
            said = f"s{a}" in group and group.get(f"s{a}") == group.get(f"s{b}")
            right += said and truth[a] == truth[b]
            wrong += said and truth[a] != truth[b]
            missed += not said and truth[a] == truth[b]
        count += len(shots)
    seconds = time.perf_counter() - begun
    say(f"{count} shots: pairs found with precision {right / max(1, right + wrong):.3f} and recall "
        f"{right / max(1, right + missed):.3f}; {1000 * seconds / count:.0f} ms a shot with drawing")  # fmt: skip


def main() -> None:
    first, rounds = (int(n) for n in (sys.argv[1:] + ["600", "20"][len(sys.argv[1:]) :]))
    table(first, rounds)


if __name__ == "__main__":
    main()
