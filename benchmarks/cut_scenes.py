"""Generated edits with every difficulty that a detector of cuts meets, and their ground truth.

Places are textures with shapes, people are figures that sway and walk; the
camera rests, pans, shakes, pushes and whips. Seeds below 1000 are for
building, those from 1000 on for judging.
"""

from __future__ import annotations

import json
import os
from dataclasses import astuple, dataclass, field
from pathlib import Path

import cv2
import numpy as np

from . import real
from .edits import encode, texture

WIDTH, HEIGHT, FPS = 320, 180, 25


@dataclass(frozen=True)
class True_:
    """A change of shot: ``start`` and ``end`` as the document has them; ``how`` names its difficulty."""

    kind: str
    start: int
    end: int
    how: str


@dataclass
class Made:
    path: Path
    frames: int = 0
    cuts: list[True_] = field(default_factory=list)
    traps: list[tuple[str, int, int]] = field(default_factory=list)


class _SetUp:
    """A camera position: a place, with a figure that is there or not."""

    def __init__(self, rng: np.random.Generator, dark: bool) -> None:
        place = real.place(rng, WIDTH * 3, HEIGHT * 2).astype(np.float32)
        self.level = rng.uniform(0.2, 0.4) if dark else rng.uniform(0.7, 1.1)
        self.place = np.clip(place * self.level, 0, 255).astype(np.uint8)
        self.figure = texture(rng, 60, 120).astype(np.float32) * self.level
        self.face = rng.uniform(60, 220, 3) * self.level
        self.at = rng.uniform((WIDTH * 0.8, HEIGHT * 0.45), (WIDTH * 1.2, HEIGHT * 0.55))
        self.there = rng.random() < 0.75


class _Shot:
    def __init__(self, rng: np.random.Generator, setup: _SetUp, move: str | None = None) -> None:
        self.setup, self.rng = setup, rng
        self.move = move or str(
            rng.choice(["still", "pan", "shake", "whip", "push", "handheld"], p=[0.4, 0.17, 0.08, 0.07, 0.1, 0.18])
        )
        self.speed = rng.uniform(-4, 4, 2) * (1, 0.3)
        self.offset = rng.normal(0, 2, 2)
        self.zoom = 1.0
        self.whip = int(rng.integers(10, 40))
        self.x, self.walk = rng.uniform(0.2, 0.7) * WIDTH, rng.uniform(-1.2, 1.2)
        self.size, self.phase = rng.uniform(0.8, 1.5), rng.uniform(0, 7)
        self.title = None

    def again(self, rng: np.random.Generator, tighter: bool) -> _Shot:
        """Another take of the same set-up: the figure elsewhere, the camera hardly moved, or a little tighter."""
        shot = _Shot(rng, self.setup, "still" if self.move == "still" else "handheld")
        shot.offset = self.offset + rng.normal(0, 2.5, 2)
        if tighter:
            shot.zoom = rng.uniform(1.1, 1.35)
            shot.x = self.x + rng.normal(0, 10)
        else:
            shot.x = float(np.clip(self.x + rng.choice([-1, 1]) * rng.uniform(30, 110), 10, WIDTH - 70))
        return shot

    def picture(self, k: int) -> np.ndarray:
        x, y = self.setup.at + self.offset
        zoom = self.zoom
        t = k / FPS
        if self.move == "pan":
            x, y = x + self.speed[0] * k, y + self.speed[1] * k
        elif self.move == "shake":
            x, y = x + 4 * np.sin(k * 1.3), y + 3 * np.cos(k * 1.9)
        elif self.move == "handheld":
            x, y = x + 3 * np.sin(1.7 * t + self.phase), y + 2 * np.cos(2.3 * t)
        elif self.move == "whip":
            s = np.clip((k - self.whip) / 8, 0, 1)
            x += 300 * s * s * (3 - 2 * s) * np.sign(self.speed[0])
        elif self.move == "push":
            zoom *= 1 + 0.004 * k
        matrix = np.float32(
            [[zoom, 0, -x * zoom + WIDTH * (1 - zoom) / 2], [0, zoom, -y * zoom + HEIGHT * (1 - zoom) / 2]]
        )
        image = cv2.warpAffine(self.setup.place, matrix, (WIDTH, HEIGHT), borderMode=cv2.BORDER_REFLECT)
        if self.setup.there:
            self._figure(image, k, zoom)
        return image

    def _figure(self, image: np.ndarray, k: int, zoom: float) -> None:
        size = self.size * zoom
        sway = 5 * np.sin(k / 9 + self.phase)
        left = WIDTH / 2 + (self.x + self.walk * k + sway - WIDTH / 2) * zoom
        width, height = int(60 * size), int(105 * size)
        body = cv2.resize(np.clip(self.setup.figure, 0, 255).astype(np.uint8), (width, height))
        top = HEIGHT - int(height * 0.9)
        a, b = max(0, int(left)), min(WIDTH, int(left) + width)
        if b > a:
            image[max(0, top) :, a:b] = body[max(0, -top) : HEIGHT - top, a - int(left) : b - int(left)][
                : HEIGHT - max(0, top)
            ]
            cv2.circle(
                image,
                (int(left + width / 2), max(0, top - int(10 * size))),
                int(20 * size),
                self.setup.face.tolist(),
                -1,
                cv2.LINE_AA,
            )


def _trap(rng: np.random.Generator, frames: list[np.ndarray], kind: str, at: int) -> tuple[int, int]:
    """Put something that is not a cut into a shot's pictures; returns where it is."""
    n = len(frames)
    match kind:
        case "flash":
            length = int(rng.integers(1, 5))
            for k in range(at, min(n, at + length)):
                share = rng.uniform(0.5, 0.95)
                frames[k] = cv2.addWeighted(frames[k], 1 - share, np.full_like(frames[k], 255), share, 0)
        case "black":
            length = int(rng.integers(1, 4))
            for k in range(at, min(n, at + length)):
                frames[k] = np.zeros_like(frames[k])
        case "vehicle":
            length = int(rng.integers(8, 16))
            car = texture(rng, int(WIDTH * rng.uniform(0.8, 1.6)), HEIGHT)
            high = int(HEIGHT * rng.uniform(0.0, 0.25))
            for k in range(length):
                if at + k < n:
                    x = int(-car.shape[1] + (WIDTH + car.shape[1]) * (k + 1) / (length + 1))
                    a, b = max(0, x), min(WIDTH, x + car.shape[1])
                    if b > a:
                        frames[at + k] = frames[at + k].copy()
                        frames[at + k][high:, a:b] = car[high:, a - x : b - x]
        case "strobe":
            length = int(rng.integers(12, 40))
            for k in range(at, min(n, at + length)):
                frames[k] = np.clip(frames[k] * (rng.uniform(0.4, 0.75) if (k // 2) % 2 else 1.1), 0, 255).astype(
                    np.uint8
                )
        case "repeat":
            length = int(rng.integers(3, 9))
            for k in range(at, min(n, at + length)):
                frames[k] = frames[at]
        case "exposure":
            length = int(rng.integers(15, 50))
            gain = rng.choice([0.45, 0.6, 1.6, 2.0])
            for k in range(at, n):
                s = min(1.0, (k - at) / length)
                frames[k] = np.clip(frames[k] * (1 + (gain - 1) * s), 0, 255).astype(np.uint8)
        case "title":
            length = n - at if rng.random() < 0.5 else int(rng.integers(12, max(13, n - at)))
            for k in range(at, min(n, at + length)):
                frames[k] = _titled(frames[k], str(rng.integers(0, 4)))
    return at, min(n, at + int(length))


def _titled(image: np.ndarray, seed: str) -> np.ndarray:
    rng = np.random.default_rng(int(seed))
    image = image.copy()
    y = int(HEIGHT * rng.uniform(0.35, 0.8))
    if rng.random() < 0.5:
        image[y - 26 : y + 10] = (image[y - 26 : y + 10] * 0.3).astype(np.uint8)
    cv2.putText(image, "A LANTERN EVENING", (12, y), cv2.FONT_HERSHEY_SIMPLEX, 0.95, (245, 240, 225), 3, cv2.LINE_AA)
    return image


def _seen(a: np.ndarray, b: np.ndarray) -> bool:
    """Whether a change between two clean pictures is one that an editor sees in passing."""
    return float(np.abs(a.astype(int) - b.astype(int)).mean()) > 3.0


TRAPS = ("flash", "black", "vehicle", "strobe", "repeat", "exposure", "title")


def make(path: Path, seed: int, shots: int = 14, mixes: float = 0.3) -> Made:
    """One edit of about a minute, with a share of ``mixes`` among the changes of place. Written once.

    With ``path`` there already only its truth is read.
    """
    truth = path.with_suffix(".json")
    if path.exists() and truth.exists():
        kept = json.loads(truth.read_text())
        traps = [(str(t[0]), int(t[1]), int(t[2])) for t in kept["traps"]]
        return Made(path, kept["frames"], [True_(*c) for c in kept["cuts"]], traps)
    rng = np.random.default_rng(seed)
    dark = rng.random() < 0.25
    setups = [_SetUp(rng, dark or rng.random() < 0.15) for _ in range(5)]
    made = Made(path)
    pictures: list[np.ndarray] = []
    shot = _Shot(rng, setups[0])
    under_title = rng.random() < 0.2
    for number in range(shots):
        how = "first"
        if number:
            how = str(rng.choice(["other place", "jump", "tighter"], p=[0.68, 0.2, 0.12]))
            before, takes = shot, how
            if how != "other place" and shot.setup.there:
                shot = before.again(rng, how == "tighter")
                if not _seen(pictures[-1], shot.picture(0)):
                    shot, takes = before, "other place"  # nobody could see that it was cut
            else:
                takes = "other place"
            how = takes
            if how == "other place":
                others = [s for s in setups if s is not shot.setup]
                shot = _Shot(rng, others[int(rng.integers(len(others)))])
        short = rng.random() < 0.15
        length = int(rng.integers(4, 12)) if short else int(rng.integers(30, 170))
        kind = "cut"
        if how == "other place" and not short and len(pictures) and rng.random() < mixes:
            kind = str(rng.choice(["dissolve", "fade", "wipe"], p=[0.6, 0.25, 0.15]))
        free = len(pictures) - (made.cuts[-1].end if made.cuts else 0) - 6  # the shot before stands alone for a while
        mix = min(int(rng.integers(6, 34)), free) if kind != "cut" else 0
        if mix < 5:
            kind, mix = "cut", 0
        frames = [shot.picture(k) for k in range(length + mix)]
        if not short and rng.random() < 0.45:
            trap = str(rng.choice(TRAPS))
            first = mix + 8
            if length - 16 > 10:
                at = first + int(rng.integers(0, length - 16))
                begin, end = _trap(rng, frames, trap, at)
                made.traps.append((trap, len(pictures) - mix + begin, len(pictures) - mix + end))
        if shot.move == "whip":
            made.traps.append(("whip pan", len(pictures) - mix + shot.whip, len(pictures) - mix + shot.whip + 8))
        _join(rng, made, pictures, frames, kind, mix, "short" if short and how == "other place" else how, shot)
    if under_title:
        pictures = [_titled(p, str(seed % 4)) for p in pictures]
        made.cuts = [True_(c.kind, c.start, c.end, "under a title" if c.kind == "cut" else c.how) for c in made.cuts]
    made.frames = len(pictures)
    if not path.exists():
        noise = rng.uniform(6, 14) * (0.6 if dark else 1) if rng.random() < 0.2 else rng.uniform(0.5, 5)
        grains = [rng.normal(0, noise, (HEIGHT, WIDTH, 1)).astype(np.float32) for _ in range(16)]
        flicker = rng.normal(1, 0.015, len(pictures)) if rng.random() < 0.3 else np.ones(len(pictures))
        noisy = [
            np.clip(p * flicker[k] + grains[int(rng.integers(16))], 0, 255).astype(np.uint8)
            for k, p in enumerate(pictures)
        ]
        part = path.with_suffix(f".{os.getpid()}.part.mp4")
        encode(part, noisy, crf=int(rng.integers(18, 34)), preset="superfast")
        part.replace(path)
    kept = {"frames": made.frames, "cuts": [astuple(c) for c in made.cuts], "traps": made.traps}
    truth.write_text(json.dumps(kept))
    return made


def _join(
    rng: np.random.Generator, made: Made, pictures: list[np.ndarray], frames: list[np.ndarray], kind: str, mix: int,
    how: str, shot: _Shot,
) -> None:  # fmt: skip
    """Put a shot's pictures after those there are, mixed with the last ``mix`` of them."""
    at = len(pictures)
    if not at:
        pictures += frames
        return
    moving = shot.move in ("pan", "push", "whip") and how == "other place"
    if kind == "cut":
        made.cuts.append(True_("cut", at, at, "inside a move" if moving else how))
        pictures += frames
        return
    begin = at - mix
    ground = np.full_like(frames[0], 0 if rng.random() < 0.7 else 255)
    for k in range(mix):
        s = (k + 1) / (mix + 1)
        a, b = pictures[begin + k], frames[k]
        if kind == "dissolve":
            mixed = cv2.addWeighted(a, 1 - s, b, s, 0)
        elif kind == "fade":
            mixed = (
                cv2.addWeighted(a, 1 - 2 * s, ground, 2 * s, 0)
                if s < 0.5
                else cv2.addWeighted(ground, 2 - 2 * s, b, 2 * s - 1, 0)
            )
        else:
            mixed = a.copy()
            edge = int(WIDTH * s)
            mixed[:, :edge] = b[:, :edge]
        pictures[begin + k] = mixed
    made.cuts.append(True_(kind, begin, at, kind))
    pictures += frames[mix:]
