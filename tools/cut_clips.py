"""Training clips for the cut decision: shots of generated edits put together anew, small as thumbs are.

Cuts, dissolves, fades and wipes of every length, direction and colour, with
what is no cut in between, cost next to nothing at this size; so a network
sees far more of them than could be drawn in full.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np

from ezvar.core.cuts.network import OUTPUTS
from ezvar.core.cuts.signals import COLOUR, THUMB

LENGTH = 256
_WORDS = ("A LANTERN EVENING", "THE LONG ROAD HOME", "ONE MORE", "IN THE VALLEY BELOW")
_GREY = 128.0

Change = tuple[str, int, int]
"""Kind, start and end of a change of shot, as `Cut` has them."""


@dataclass(frozen=True)
class Strip:
    """Consecutive frames as the meter keeps them: ``thumbs`` (frames, 18, 32) and ``colour`` (frames, 2, 5, 8)."""

    thumbs: np.ndarray
    colour: np.ndarray

    def __len__(self) -> int:
        return len(self.thumbs)

    def part(self, start: int, end: int) -> Strip:
        return Strip(self.thumbs[start:end].astype(np.float32), self.colour[start:end].astype(np.float32))


def labels(changes: Sequence[Change], frames: int, offset: int = 0) -> np.ndarray:
    """What the network is to say of each frame: (frames, outputs), 0..1; ``offset`` is the first frame's number."""
    said = np.zeros((frames, len(OUTPUTS)), np.float32)
    for kind, start, end in changes:
        first, last = start - offset, end - offset
        if kind == "cut":
            if 0 <= first < frames:
                said[first, 0] = 1
            continue
        inside = slice(max(0, first), max(0, min(frames, last)))
        said[inside, 1] = said[inside, OUTPUTS.index(kind)] = 1
        for column, at in ((2, first), (3, last)):
            for by, value in ((0, 1.0), (-1, 0.4), (1, 0.4)):
                if 0 <= at + by < frames:
                    said[at + by, column] = max(said[at + by, column], value)
    return said


def shots_of(strip: Strip, changes: Sequence[Change]) -> list[Strip]:
    """The stretches of an edit in which one shot stands alone."""
    found, end = [], 0
    for _, start, after in [*changes, ("cut", len(strip), len(strip))]:
        if start - end >= 24:
            found.append(strip.part(end, start))
        end = after
    return found


def composed(rng: np.random.Generator, shots: Sequence[Strip]) -> tuple[Strip, np.ndarray]:
    """A clip of 256 frames put together from shots, and its labels."""
    made: Strip | None = None
    changes: list[Change] = []
    while made is None or len(made) < LENGTH + 40:
        made = _joined(rng, made, _shot(rng, shots), changes)
    first = int(rng.integers(0, len(made) - LENGTH + 1))
    clip = made.part(first, first + LENGTH)
    thumbs = clip.thumbs + rng.normal(0, rng.uniform(0, 2.5), clip.thumbs.shape)
    if rng.random() < 0.25:
        thumbs = _titled(rng, thumbs)
    if rng.random() < 0.7:
        thumbs = 255 * np.clip(thumbs / 255, 0, 1) ** np.exp(rng.normal(0, 0.3))
        thumbs = (thumbs - 128) * np.exp(rng.normal(-0.1, 0.35)) + 128 + rng.normal(0, 15)
    depth = 0.0 if rng.random() < 0.3 else rng.uniform(0.4, 1.8)  # a third without colour
    colour = _GREY + (clip.colour - _GREY) * depth
    return Strip(*(np.clip(np.round(v), 0, 255).astype(np.float32) for v in (thumbs, colour))), labels(
        changes, LENGTH, first
    )


def _shot(rng: np.random.Generator, shots: Sequence[Strip]) -> Strip:
    """A piece of a shot, perhaps mirrored, brighter or darker, perhaps with something in it that is no cut."""
    shot = shots[int(rng.integers(len(shots)))]
    length = int(rng.integers(12, 140)) if rng.random() < 0.85 else int(rng.integers(4, 14))
    first = int(rng.integers(0, max(1, len(shot) - length)))
    piece = shot.part(first, first + length)
    thumbs, colour = piece.thumbs, piece.colour
    if rng.random() < 0.5:
        thumbs = _with_trap(rng, thumbs)
    if rng.random() < 0.5:
        thumbs, colour = thumbs[:, :, ::-1], colour[..., ::-1]
    return Strip(np.clip(thumbs * np.exp(rng.normal(0, 0.25)) + rng.normal(0, 8), 0, 255), colour)


def _with_trap(rng: np.random.Generator, thumbs: np.ndarray) -> np.ndarray:
    """Exposure that changes, a flash, black or repeated frames, strobe, a title, bursts of light, something passing."""
    frames = len(thumbs)
    if frames < 20:
        return thumbs
    made, at = thumbs.copy(), int(rng.integers(4, frames - 8))
    match int(rng.integers(10)):
        case 0:
            ramp = np.clip((np.arange(frames) - at) / rng.integers(8, 50), 0, 1)
            made *= (1 + (rng.choice([0.4, 0.55, 0.7, 1.5, 2.0]) - 1) * ramp)[:, None, None]
        case 1:
            share = rng.uniform(0.4, 0.95)
            flash = slice(at, at + int(rng.integers(1, 5)))
            made[flash] = made[flash] * (1 - share) + 255 * share
        case 2:
            made[at : at + int(rng.integers(1, 4))] = 0
        case 3:
            strobe = slice(at, at + int(rng.integers(10, 40)))
            made[strobe] *= np.where(np.arange(frames) // 2 % 2, rng.uniform(0.4, 0.75), 1.1)[strobe, None, None]
        case 4:
            made[at : at + int(rng.integers(3, 9))] = made[at]
        case 5 | 6:
            for start in rng.integers(2, frames - 6, int(rng.integers(1, 5))):
                _burst(rng, made[start : start + int(rng.integers(4, 26))])
        case 7 | 8:
            _passing(rng, made[at : at + int(rng.integers(5, 40))])
        case _:
            until = frames if rng.random() < 0.5 else int(rng.integers(10, frames))
            made[at:until] = _titled(rng, made[at:until])
    return np.clip(made, 0, 255)


def _burst(rng: np.random.Generator, thumbs: np.ndarray) -> None:
    """Light (or smoke) that spreads from a place and fades, put into the frames given."""
    down, across = np.mgrid[0 : THUMB[1], 0 : THUMB[0]]
    away = np.hypot(across - rng.uniform(0, THUMB[0]), down - rng.uniform(0, THUMB[1]))
    reach, level = rng.uniform(3, 18), rng.uniform(40, 220) * rng.choice([1, 1, 1, -0.5])
    swift, first = rng.uniform(0.2, 1.0), rng.uniform(0.1, 1.0)
    for k in range(len(thumbs)):
        come = (k + 1) / len(thumbs)
        near = np.clip(1.5 - away / (reach * come**swift), 0, 1)
        thumbs[k] += level * near * min(1.0, come / first if first < 0.5 else 1.0) * (1 - come)


def _passing(rng: np.random.Generator, thumbs: np.ndarray) -> None:
    """Something that crosses the picture, or comes in and stays to the end of the frames given."""
    high, wide = int(rng.integers(5, THUMB[1] + 1)), int(rng.integers(5, 40))
    rough = rng.uniform(10, 230) + rng.normal(0, 30, (3, 4))
    thing = cv2.resize(rough, (wide, high), interpolation=cv2.INTER_LINEAR)
    top = int(rng.integers(0, THUMB[1] - high + 1))
    start, end = -wide, THUMB[0] if rng.random() < 0.7 else int(rng.integers(-wide // 2, THUMB[0] - wide // 2 + 1))
    for k in range(len(thumbs)):
        left = round(start + (end - start) * (k + 1) / (len(thumbs) + 1))
        a, b = max(0, left), min(THUMB[0], left + wide)
        if a < b:
            thumbs[k, top : top + high, a:b] = thing[:, a - left : b - left]
    if rng.random() < 0.5:
        thumbs[:] = thumbs[:, :, ::-1].copy()


def _titled(rng: np.random.Generator, thumbs: np.ndarray) -> np.ndarray:
    """The frames under one full-width title, perhaps on a darkened band."""
    letters = np.zeros((180, 320), np.uint8)
    shade = np.ones((180, 320), np.float32)
    foot = int(rng.uniform(54, 153))
    if rng.random() < 0.5:
        shade[foot - 26 : foot + 10] = 0.3
    words = _WORDS[int(rng.integers(len(_WORDS)))]
    cv2.putText(letters, words, (12, foot), cv2.FONT_HERSHEY_SIMPLEX, 0.95, 255, 3, cv2.LINE_AA)
    cover, under = (cv2.resize(p, THUMB, interpolation=cv2.INTER_AREA) for p in (letters / np.float32(255), shade))
    return np.asarray(thumbs * under * (1 - cover) + 240 * cover)


def _joined(rng: np.random.Generator, made: Strip | None, shot: Strip, changes: list[Change]) -> Strip:
    """A clip with a shot after it, cut or mixed; the change is added to ``changes``."""
    if made is None:
        return shot
    end = len(made)
    kind = str(rng.choice(["cut", "dissolve", "fade", "wipe"], p=[0.35, 0.35, 0.15, 0.15]))
    free = min(len(shot) - 4, end - (changes[-1][2] if changes else 0) - 4)
    mix = min(int(rng.integers(5, 36)), free) if kind != "cut" else 0
    if mix < 5:
        changes.append(("cut", end, end))
        return _after(made, shot)
    begin = end - mix
    changes.append((kind, begin, end))
    share = (np.arange(mix) + 1) / (mix + 1)
    if rng.random() < 0.2:
        share = share * share * (3 - 2 * share)
    mixed = _mixed(rng, kind, made.part(begin, end), shot.part(0, mix), share)
    return _after(_after(made.part(0, begin), mixed), shot.part(mix, len(shot)))


def _after(a: Strip, b: Strip) -> Strip:
    return Strip(np.concatenate([a.thumbs, b.thumbs]), np.concatenate([a.colour, b.colour]))


def _mixed(rng: np.random.Generator, kind: str, a: Strip, b: Strip, share: np.ndarray) -> Strip:
    if kind == "fade":
        ground = 0.0 if rng.random() < 0.65 else 255.0 if rng.random() < 0.8 else rng.uniform(0, 255)
        first = share < 0.5
        full = np.where(first, 1 - 2 * share, 2 * share - 1)
        thumbs = np.where(first[:, None, None], a.thumbs, b.thumbs) * full[:, None, None]
        colour = np.where(first[:, None, None, None], a.colour, b.colour) * full[:, None, None, None]
        rest = 1 - full
        return Strip(thumbs + ground * rest[:, None, None], colour + _GREY * rest[:, None, None, None])
    cover = np.broadcast_to(share[:, None, None], (len(share), THUMB[1], THUMB[0]))
    if kind == "wipe":
        down, across = np.mgrid[0 : THUMB[1], 0 : THUMB[0]] / np.array([THUMB[1] - 1, THUMB[0] - 1])[:, None, None]
        way = (across, 1 - across, down, 1 - down, np.hypot(across - 0.5, down - 0.5) * 1.42, (across + down) / 2)
        cover = np.clip((cover - way[int(rng.integers(6))]) / rng.uniform(0.02, 0.15) + 0.5, 0, 1)
    coarse = np.stack([cv2.resize(c.astype(np.float32), COLOUR, interpolation=cv2.INTER_AREA) for c in cover])[:, None]
    return Strip(a.thumbs * (1 - cover) + b.thumbs * cover, a.colour * (1 - coarse) + b.colour * coarse)
