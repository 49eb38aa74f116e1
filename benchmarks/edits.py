"""Generated edits with known hard cuts: textures, camera moves, movers, grain, flashes, recompression.

Seeds below 200 are for building, those from 200 on for judging.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np

WIDTH, HEIGHT, FPS = 480, 270, 25


@dataclass(frozen=True)
class Edit:
    path: Path
    frames: int
    cuts: tuple[int, ...]


def texture(rng: np.random.Generator, width: int, height: int) -> np.ndarray:
    """A picture of a made-up place: tinted noise of several sizes, with shapes. uint8 (height, width, 3)."""
    image = np.zeros((height, width, 3), np.float32)
    for cells in (3, 7, 17, 60):
        noise = rng.normal(0, 1, (cells, cells * 2, 1)) * 0.75 + rng.normal(0, 0.4, (cells, cells * 2, 3))
        image += cv2.resize(noise.astype(np.float32), (width, height), interpolation=cv2.INTER_CUBIC) * (
            18 / cells**0.4
        )
    image = image * rng.uniform(0.5, 1.3) + rng.uniform(40, 180, 3)
    for _ in range(int(rng.integers(4, 16))):
        x, y = int(rng.uniform(0, width)), int(rng.uniform(0, height))
        size, colour = int(rng.uniform(12, 90)), rng.uniform(0, 255, 3).tolist()
        if rng.random() < 0.5:
            cv2.circle(image, (x, y), size // 2, colour, -1, cv2.LINE_AA)
        else:
            cv2.rectangle(image, (x, y), (x + size, y + int(size * rng.uniform(0.3, 3))), colour, -1)
    return np.clip(image, 0, 255).astype(np.uint8)


class _Shot:
    def __init__(self, rng: np.random.Generator) -> None:
        self.frames = int(rng.choice([rng.integers(5, 12), rng.integers(20, 70), rng.integers(40, 90)]))
        self.place = texture(rng, WIDTH * 3, HEIGHT * 2)
        self.mover = texture(rng, 90, 150)
        self.start = rng.uniform((WIDTH * 0.7, HEIGHT * 0.4), (WIDTH * 1.3, HEIGHT * 0.6))
        self.move = rng.choice(["still", "pan", "shake", "whip", "push"], p=[0.35, 0.25, 0.2, 0.1, 0.1])
        self.speed = rng.uniform(-5, 5, 2) * (1, 0.4)
        self.walk = rng.uniform(-6, 6)
        self.flash = int(rng.integers(8, max(9, self.frames - 8))) if rng.random() < 0.25 and self.frames > 20 else None
        self.rng = rng

    def picture(self, k: int) -> np.ndarray:
        x, y = self.start
        zoom = 1.0
        if self.move == "pan":
            x, y = x + self.speed[0] * k, y + self.speed[1] * k
        elif self.move == "shake":
            x, y = x + 5 * np.sin(k * 1.3), y + 4 * np.cos(k * 1.9)
        elif self.move == "whip":
            x += 380 * np.clip((k - self.frames / 2) / 7, 0, 1) * np.sign(self.speed[0])
        elif self.move == "push":
            zoom = 1 + 0.006 * k
        matrix = np.float32([[zoom, 0, -x * zoom], [0, zoom, -y * zoom]])
        image = cv2.warpAffine(self.place, matrix, (WIDTH, HEIGHT), borderMode=cv2.BORDER_REFLECT)
        span = WIDTH - 90
        at = span - abs(int(80 + self.walk * k) % (2 * span) - span)  # there and back again
        image[HEIGHT - 150 :, at : at + 90] = self.mover
        if self.flash is not None and self.flash <= k < self.flash + 2:
            image = cv2.addWeighted(image, 0.25, np.full_like(image, 255), 0.75, 0)
        return image


def make_edit(path: Path, seed: int) -> Edit:
    """Write one edit as an H.264 movie; compressed twice for every other seed."""
    rng = np.random.default_rng(seed)
    shots = [_Shot(rng) for _ in range(int(rng.integers(7, 13)))]
    grain, crf = rng.uniform(1, 8), int(rng.integers(20, 35))
    pictures, cuts = [], []
    for shot in shots:
        cuts.append(len(pictures))
        for k in range(shot.frames):
            noisy = shot.picture(k) + rng.normal(0, grain, (HEIGHT, WIDTH, 1))
            pictures.append(np.clip(noisy, 0, 255).astype(np.uint8))
    encode(path, pictures, crf=crf)
    if seed % 2:
        with av.open(str(path)) as first:
            again = [f.to_ndarray(format="rgb24") for f in first.decode(video=0)]
        encode(path, again, crf=crf + 4)
    return Edit(path, len(pictures), tuple(cuts[1:]))


def encode(
    path: Path, pictures: list[np.ndarray], crf: int = 20, rate: Fraction = Fraction(FPS), **options: str
) -> None:
    """Encode RGB pictures (height, width, 3) as H.264."""
    with av.open(str(path), "w") as out:
        stream = out.add_stream("libx264", rate=rate)
        stream.height, stream.width = pictures[0].shape[:2]
        stream.pix_fmt = "yuv420p"
        stream.options = {"crf": str(crf), "preset": "veryfast", **options}
        for k, picture in enumerate(pictures):
            frame = av.VideoFrame.from_ndarray(picture, format="rgb24")
            frame.pts, frame.time_base = k, 1 / rate
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
