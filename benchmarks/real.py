"""Real pictures for generated scenes: backgrounds, and cut-outs of people and things, from a folder.

The folder is named by ``--real FOLDER``. Movies and pictures without alpha in
it are backgrounds; PNGs with alpha are cut-outs: those whose names begin with
"person" are people from the head down, others are things. None of them comes
with the project; where there is no folder, scenes are drawn as without.
"""

from __future__ import annotations

import sys
from functools import cache
from pathlib import Path

import cv2
import numpy as np

from ezvar.core.media import MovieReader

from .edits import texture

_MOVIES = {".mp4", ".mov", ".mkv", ".webm", ".avi"}
_PICTURES = {".png", ".jpg", ".jpeg", ".tif", ".tiff"}
_FROM_EACH = 6  # pictures of each movie
_LARGEST = 110  # pixels of a thing's height
_folder: Path | None = None


def taken(arguments: list[str]) -> list[str]:
    """A command's arguments without ``--real FOLDER``, which is used from now on; says so, or that there is none."""
    global _folder
    if "--real" not in arguments:
        print("Without real backgrounds and cut-outs (--real FOLDER has them in the scenes)", file=sys.stderr)
        return arguments
    at = arguments.index("--real")
    _folder = Path(arguments[at + 1])
    backgrounds, things, people = _backgrounds(), _cut_outs(False), _cut_outs(True)
    print(f"{len(backgrounds)} real backgrounds, {len(things)} things, {len(people)} people", file=sys.stderr)
    return arguments[:at] + arguments[at + 2 :]


def place(rng: np.random.Generator, width: int, height: int) -> np.ndarray:
    """A picture of a place, RGB, uint8 (height, width, 3): a real one, turned over or not, or a drawn one."""
    if not (real := _backgrounds()):
        return texture(rng, width, height)
    picture = real[int(rng.integers(len(real)))]
    scale = max(width / picture.shape[1], height / picture.shape[0])
    size = round(picture.shape[1] * scale), round(picture.shape[0] * scale)
    picture = cv2.resize(picture, (max(size[0], width), max(size[1], height)), interpolation=cv2.INTER_CUBIC)
    left, top = (int(rng.integers(0, n + 1)) for n in (picture.shape[1] - width, picture.shape[0] - height))
    part = picture[top : top + height, left : left + width]
    return np.ascontiguousarray(part[:, ::-1] if rng.random() < 0.5 else part)


def thing(rng: np.random.Generator, width: int, height: int) -> np.ndarray:
    """A thing: a real one, uint8 (rows, columns, 4), of about the height, or a drawn one (height, width, 3)."""
    return _one_of(rng, _cut_outs(False), min(height, _LARGEST)) if _cut_outs(False) else texture(rng, width, height)


def has_people() -> bool:
    """Whether there are real people."""
    return bool(_cut_outs(True))


def person(rng: np.random.Generator, height: float) -> np.ndarray | None:
    """A real person from the head down, uint8 (rows, columns, 4), of a height; ``None`` where there is none."""
    return _head_in_the_middle(_one_of(rng, _cut_outs(True), round(height))) if _cut_outs(True) else None


def _head_in_the_middle(picture: np.ndarray) -> np.ndarray:
    """A person with so much nothing at one side that the head stands in the middle."""
    head = picture[: max(1, picture.shape[0] // 7), :, 3].sum(axis=0, dtype=float)
    middle = round(float((head * np.arange(len(head))).sum() / max(1.0, head.sum())))
    right = 2 * middle - picture.shape[1]  # how much is missing there; at the left where it is below 0
    return np.pad(picture, ((0, 0), (max(0, -right), max(0, right)), (0, 0)))


def _one_of(rng: np.random.Generator, pictures: tuple[np.ndarray, ...], height: int) -> np.ndarray:
    picture = pictures[int(rng.integers(len(pictures)))]
    size = max(2, round(picture.shape[1] * height / picture.shape[0])), height
    return np.asarray(cv2.resize(picture, size, interpolation=cv2.INTER_AREA))


def _files(suffixes: set[str]) -> list[Path]:
    return [] if _folder is None else sorted(p for p in _folder.iterdir() if p.suffix.lower() in suffixes)


@cache
def _backgrounds() -> tuple[np.ndarray, ...]:
    found = []
    for path in _files(_MOVIES):
        with MovieReader(path) as reader:
            picks = np.linspace(0, reader.facts.frames - 1, _FROM_EACH).astype(int)
            found += [reader.frame(int(n)).rgb(reader.facts.width, reader.facts.height) for n in picks]
    pictures = (cv2.imread(str(path), cv2.IMREAD_UNCHANGED) for path in _files(_PICTURES))
    found += [cv2.cvtColor(p, cv2.COLOR_BGR2RGB) for p in pictures if p is not None and p.ndim == 3 and p.shape[2] == 3]
    return tuple(found)


@cache
def _cut_outs(people: bool) -> tuple[np.ndarray, ...]:
    files = [path for path in _files({".png"}) if path.name.lower().startswith("person") == people]
    pictures = (cv2.imread(str(path), cv2.IMREAD_UNCHANGED) for path in files)
    return tuple(cv2.cvtColor(p, cv2.COLOR_BGRA2RGBA) for p in pictures if p is not None and p.shape[2:] == (4,))
