"""Generated shots with known subjects, to judge windows by.

Each scene draws a place, a camera that moves or not, and actors: lit people,
things, hands at work. Its truth is each actor's box on every frame, whether it
is seen there, and who the subject is. Seeds below 500 are for building, those
from 500 on for judging.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field, replace
from functools import cache

import cv2
import numpy as np

from ezvar.core.media import Picture, Planes
from tools.demo_art.heads import SIZE, Person, head

from . import real

WIDTH, HEIGHT, FPS = 640, 360, 25
Box = tuple[float, float, float, float]
"""Left, top, right, foot in picture pixels."""

KINDS = (
    "stand", "stand", "stand", "close", "handheld", "light", "two near", "two far", "walk", "walk", "walk and stop",
    "fast", "enter", "exit", "occluded", "look-alikes", "pan with", "work", "thing", "title", "nothing",
)  # fmt: skip
_HEADS = 7  # head heights of a person who stands
_FARTHER = 0.4  # times as large real people are, who are mostly seen from head to foot
STANDING = ("stand", "close", "light", "work")


@dataclass
class Actor:
    """Somebody or something: where it is in the picture at a frame, and how it is drawn.

    ``at(k)`` is the middle of the head (of a thing, its middle) in picture
    pixels; ``size`` is the height of the head (of a thing, its own).
    """

    kind: str  # person, thing, hands, text
    at: Callable[[int], tuple[float, float]]
    size: float
    who: Person | None = None
    skin: np.ndarray | None = None
    talks: Callable[[int], bool] = lambda k: False
    lamp: float = 0.6

    def box(self, k: int) -> Box:
        """What must be kept of it: a person's head and shoulders, else all."""
        x, y = self.at(k)
        if self.kind == "person":
            return x - 0.75 * self.size, y - 0.62 * self.size, x + 0.75 * self.size, y + 1.0 * self.size
        wide = self.size * (1.6 if self.kind == "hands" else self.skin.shape[1] / self.skin.shape[0])
        return x - wide / 2, y - self.size / 2, x + wide / 2, y + self.size / 2

    def head(self, k: int) -> Box:
        """The least that must be kept where the whole is wider than the window."""
        x, y = self.at(k)
        if self.kind != "person":
            return self.box(k)
        return x - 0.36 * self.size, y - 0.5 * self.size, x + 0.36 * self.size, y + 0.5 * self.size


@dataclass
class Scene:
    """One shot. ``subjects`` are the actors any of whom is a right one to keep; empty where there is none."""

    kind: str
    seed: int
    frames: int
    place: np.ndarray
    camera: Callable[[int], tuple[float, float]]
    actors: list[Actor] = field(default_factory=list)
    subjects: tuple[int, ...] = (0,)
    light: Callable[[int], float] = lambda k: 1.0
    post: tuple[float, float] | None = None  # a pillar in front: its left edge and width in pixels

    @property
    def name(self) -> str:
        return f"{self.kind} {self.seed}"

    def seen(self, actor: int, k: int) -> bool:
        """Whether most of an actor is in the picture and not covered."""
        a, _, b, _ = self.actors[actor].box(k)
        inside = min(b, WIDTH) - max(a, 0.0)
        if self.post is not None:
            inside -= max(0.0, min(b, sum(self.post)) - max(a, self.post[0]))
        return inside > 0.9 * (b - a)

    def pictures(self) -> Iterator[np.ndarray]:
        """RGB pictures, uint8 (360, 640, 3), with grain."""
        rng = np.random.default_rng(self.seed + 77_000)
        grain = [rng.normal(0, 2.0, (HEIGHT, WIDTH, 1)).astype(np.float32) for _ in range(5)]
        for k in range(self.frames):
            x, y = self.camera(k)
            matrix = np.float32([[1, 0, -x], [0, 1, -y]])
            image = cv2.warpAffine(self.place, matrix, (WIDTH, HEIGHT), borderMode=cv2.BORDER_REFLECT)
            image = image.astype(np.float32)
            for actor in self.actors:
                _draw(image, actor, k)
            if self.post is not None:
                left, right = round(self.post[0]), round(sum(self.post))
                image[:, max(0, left) : right] = image[:, max(0, left) : right] * 0.1 + 25
            yield np.clip(image * self.light(k) + grain[k % 5], 0, 255).astype(np.uint8)

    def frames_for_analysis(self, start: int = 0) -> Iterator[Picture]:
        """As `Picture`s, from a frame on."""
        for k, image in enumerate(self.pictures()):
            if k >= start:
                yield Picture(k, Planes.of_rgb(image), WIDTH, HEIGHT)


def _draw(image: np.ndarray, actor: Actor, k: int) -> None:
    x, y = actor.at(k)
    if actor.kind == "person" and actor.skin is not None:
        _paste(image, _cut_out(actor.skin), x - actor.skin.shape[1] / 2, y - actor.size / 2)
    elif actor.kind == "person":
        _body(image, actor, x, y)
        mouth = 0.8 if actor.talks(k) and k // 3 % 3 else 0.05
        sprite = head(actor.who, 0.25 * round(np.sin(k / 40)), mouth, 0.0, actor.lamp)
        full = max(8, round(actor.size * 1.3))
        _paste(image, cv2.resize(sprite, (full, full), interpolation=cv2.INTER_AREA), x - full / 2, y - full / 2)
    elif actor.kind == "hands":
        for side, phase in ((-1, 0.0), (1, 1.7)):
            hx = x + side * actor.size * (0.45 + 0.15 * np.sin(k / 5 + phase))
            hy = y + actor.size * 0.2 * np.sin(k / 4 + phase)
            axes = (round(actor.size * 0.3), round(actor.size * 0.2))
            cv2.ellipse(image, (round(hx), round(hy)), axes, side * 25 + 8 * np.sin(k / 5), 0, 360, (205, 150, 120), -1)
        wide, high = round(actor.size * 0.5), round(actor.size * 0.35 * (1 + 0.3 * np.sin(k / 9)))
        cv2.rectangle(image, (round(x - wide / 2), round(y - high / 2)), (round(x + wide / 2), round(y + high / 2)),
                      (235, 230, 215), -1)  # fmt: skip
    else:
        sprite = _cut_out(actor.skin)
        _paste(image, sprite, x - sprite.shape[1] / 2, y - sprite.shape[0] / 2)


def _cut_out(skin: np.ndarray) -> np.ndarray:
    """A picture, with alpha or without, as a premultiplied sprite."""
    colour = skin[..., :3].astype(np.float32) / 255
    alpha = skin[..., 3:].astype(np.float32) / 255 if skin.shape[2] == 4 else np.ones((*skin.shape[:2], 1), np.float32)
    return np.dstack([colour * alpha, alpha])


def _body(image: np.ndarray, actor: Actor, x: float, y: float) -> None:
    s, coat, shade = actor.size, actor.who.coat, actor.who.coat_shade
    cv2.rectangle(image, (round(x - 0.14 * s), round(y + 0.3 * s)), (round(x + 0.14 * s), round(y + 0.7 * s)),
                  [255 * 0.7 * c for c in actor.who.skin], -1)  # fmt: skip
    top, wide = y + 0.55 * s, 0.75 * s
    points = [(x - 0.2 * s, top), (x + 0.2 * s, top), (x + wide, top + 0.45 * s), (x + wide, y + 4.2 * s),
              (x - wide, y + 4.2 * s), (x - wide, top + 0.45 * s)]  # fmt: skip
    cv2.fillPoly(image, [np.array(points, np.int32)], coat, cv2.LINE_AA)
    half = [points[1], points[2], points[3], (x + 0.1 * s, y + 4.2 * s)]
    cv2.fillPoly(image, [np.array(half, np.int32)], shade, cv2.LINE_AA)


def _paste(image: np.ndarray, sprite: np.ndarray, left: float, top: float) -> None:
    """Lay a premultiplied RGBA sprite (0..1) over an image of 0..255."""
    matrix = np.float32([[1, 0, left - np.floor(left)], [0, 1, top - np.floor(top)]])
    sprite = cv2.warpAffine(sprite, matrix, (sprite.shape[1] + 1, sprite.shape[0] + 1))
    x, y = int(np.floor(left)), int(np.floor(top))
    a, b, c, d = (
        max(0, x),
        max(0, y),
        min(image.shape[1], x + sprite.shape[1]),
        min(image.shape[0], y + sprite.shape[0]),
    )
    if a < c and b < d:
        part = sprite[b - y : d - y, a - x : c - x]
        image[b:d, a:c] = image[b:d, a:c] * (1 - part[..., 3:]) + 255 * part[..., :3]


@cache
def _people() -> tuple[Person, ...]:
    """A dozen people; few, since drawing a head takes long."""
    rng = np.random.default_rng(99)
    made = []
    for _ in range(12):
        skin = np.array((0.85, 0.63, 0.5)) * rng.uniform(0.6, 1.1) * rng.uniform(0.95, 1.05, 3)
        coat = rng.uniform(30, 220, 3)
        made.append(Person(
            tuple(np.clip(skin, 0.2, 0.95)), tuple(rng.uniform(0.05, 0.5) * np.array((1, 0.8, 0.6))),
            tuple(int(c) for c in coat), tuple(int(c * 0.5) for c in coat),
            str(rng.choice(["bun", "short", "cap", "long"])), bool(rng.random() < 0.25), float(rng.uniform(0.9, 1.4)),
        ))  # fmt: skip
    return tuple(made)


def _smooth(t: float) -> float:
    t = min(1.0, max(0.0, t))
    return t * t * (3 - 2 * t)


def scene(kind: str, seed: int) -> Scene:
    """The scene of a kind and seed; 5 to 11 seconds."""
    rng = np.random.default_rng(seed)
    frames = int(rng.integers(125, 275))
    place = cv2.GaussianBlur(real.place(rng, WIDTH * 3, HEIGHT * 2), (0, 0), rng.uniform(0.5, 3))
    offset = rng.uniform((WIDTH * 0.8, HEIGHT * 0.4), (WIDTH * 1.2, HEIGHT * 0.6))
    far = _FARTHER if real.has_people() else 1.0
    size = far * float(rng.uniform(55, 105))
    x0, y0 = float(rng.uniform(0.14, 0.86) * WIDTH), float(rng.uniform(0.3, 0.45) * HEIGHT)
    phase, sway = rng.uniform(0, 6), rng.uniform(0, 4)
    drift = rng.uniform(-0.5, 0.5)

    def still(k: int) -> tuple[float, float]:
        return float(offset[0]), float(offset[1])

    def stands(x: float, y: float, amount: float = sway) -> Callable[[int], tuple[float, float]]:
        return lambda k: (x + amount * np.sin(k / 23 + phase) + amount * 0.5 * np.sin(k / 9), y + 1.5 * np.sin(k / 31))

    def person(at: Callable[[int], tuple[float, float]], scale: float = size, talks: bool = True) -> Actor:
        return Actor(
            "person",
            at,
            scale,
            _people()[int(rng.integers(12))],
            talks=lambda k: talks,
            lamp=float(rng.choice([-0.6, 0.6])),
            skin=real.person(rng, _HEADS * scale),
        )

    made = Scene(kind, seed, frames, place, still)
    if kind == "close":
        made.actors = [person(stands(x0, HEIGHT * 0.45), far * float(rng.uniform(120, 190)))]
    elif kind == "handheld":
        made.camera = lambda k: (offset[0] + 5 * np.sin(k / 11), offset[1] + 3 * np.sin(k / 7))
        made.actors = [person(lambda k: (x0 - 5 * np.sin(k / 11), y0 - 3 * np.sin(k / 7)))]
    elif kind == "light":
        made.light = lambda k: 0.75 + 0.35 * np.sin(k / 30 + phase)
        made.actors = [person(stands(x0, y0))]
    elif kind in ("two near", "two far"):
        apart = rng.uniform(1.6, 1.9) * size if kind == "two near" else rng.uniform(0.42, 0.6) * WIDTH
        left = rng.uniform(0.12 * WIDTH, WIDTH * 0.88 - apart)
        turn = int(rng.integers(45, 80))
        made.actors = [person(stands(left, y0)), person(stands(left + apart, y0 + 6))]
        for place_, actor in enumerate(made.actors):
            actor.talks = lambda k, p=place_: (k // turn) % 2 == p
        made.subjects = (0, 1)
    elif kind in ("walk", "fast", "walk and stop", "occluded", "pan with"):
        speed = rng.uniform(0.05, 0.11) if kind != "fast" else rng.uniform(0.35, 0.6)  # widths a second
        side = rng.choice([-1, 1])
        way = speed * WIDTH / FPS * side
        begin = WIDTH / 2 - way * frames / 2
        stop = int(frames * rng.uniform(0.4, 0.6)) if kind == "walk and stop" else frames
        size = min(size, far * 80)

        def walks(k: int) -> tuple[float, float]:
            gone = min(k, stop)
            return begin + way * gone, y0 + 2 * np.sin(k / 4)

        made.actors = [person(walks, size, False)]
        if kind == "occluded":
            made.post = (float(rng.uniform(0.42, 0.55) * WIDTH), float(rng.uniform(50, 90)))
        if kind == "pan with":
            pan = rng.uniform(1.5, 3.5) * side
            made.camera = lambda k: (offset[0] + pan * k, offset[1])
            where = float(rng.uniform(0.25, 0.75)) * WIDTH
            made.actors[0].at = lambda k: (where + 25 * np.sin(k / 40 + phase), y0 + 2 * np.sin(k / 4))
    elif kind in ("enter", "exit"):
        target, side = float(rng.uniform(0.25, 0.75) * WIDTH), rng.choice([-1, 1])
        gone = WIDTH / 2 + side * (WIDTH / 2 + 1.2 * size)
        change = int(frames * rng.uniform(0.2, 0.4))
        lasts = abs(gone - target) / WIDTH * rng.uniform(150, 220)  # at most 0.25 widths a second in its middle

        def comes(k: int) -> tuple[float, float]:
            t = _smooth((k - change) / lasts)
            a, b = (gone, target) if kind == "enter" else (target, gone)
            return a + (b - a) * t, y0 + 2 * np.sin(k / 5)

        made.actors = [person(comes)]
    elif kind == "look-alikes":
        one = person(lambda k: (0.3 * WIDTH + 0.055 * WIDTH / FPS * k, y0), size, False)
        two = replace(one, at=lambda k: (0.85 * WIDTH - 0.06 * WIDTH / FPS * k, y0 - 10), size=size * 0.85)
        made.actors, made.subjects = [two, one], (0, 1)
    elif kind == "work":
        made.actors = [Actor("hands", stands(x0, 0.6 * HEIGHT, 2.0), float(rng.uniform(60, 110)))]
    elif kind == "thing":
        skin = real.thing(rng, int(rng.uniform(60, 120)), int(rng.uniform(40, 90)))
        way = rng.uniform(0.05, 0.11) * WIDTH / FPS * rng.choice([-1, 1])
        begin = WIDTH / 2 - way * frames / 2
        made.actors = [Actor("thing", lambda k: (begin + way * k, 0.6 * HEIGHT), float(skin.shape[0]), skin=skin)]
    elif kind == "title":
        made.actors = [Actor("text", lambda k: (x0, 0.75 * HEIGHT), 44.0, skin=_words(rng))]
        half = made.actors[0].skin.shape[1] / 2
        x0 = min(max(x0, half + 8), WIDTH - half - 8)
        made.camera = lambda k: (offset[0] + drift * k, offset[1])
    elif kind == "nothing":
        made.camera = lambda k: (offset[0] + drift * k, offset[1])
        made.subjects = ()
    else:
        made.actors = [person(stands(x0, y0))]
    return made


def _words(rng: np.random.Generator) -> np.ndarray:
    """A block of light letters on a dark ground, uint8 (44, width, 3), narrower than a tall window."""
    text = "".join(str(rng.choice(list("ABCDEHKLMNORSTUV"))) for _ in range(int(rng.integers(4, 7))))
    (wide, _), _ = cv2.getTextSize(text, cv2.FONT_HERSHEY_DUPLEX, 1.0, 2)
    block = np.full((44, wide + 16, 3), 30, np.uint8)
    cv2.putText(block, text, (8, 33), cv2.FONT_HERSHEY_DUPLEX, 1.0, (240, 235, 220), 2, cv2.LINE_AA)
    return block


def scenes(first: int, rounds: int) -> Iterator[Scene]:
    """``rounds`` scenes of each kind in `KINDS`, from a seed on."""
    for k in range(rounds * len(KINDS)):
        yield scene(KINDS[k % len(KINDS)], first + k)


__all__ = ["FPS", "HEIGHT", "KINDS", "SIZE", "STANDING", "WIDTH", "Actor", "Box", "Scene", "scene", "scenes"]
