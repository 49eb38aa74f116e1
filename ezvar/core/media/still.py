"""Still pictures, read once and shown for as long as is wanted."""

from __future__ import annotations

import os
from dataclasses import astuple, dataclass
from pathlib import Path
from typing import Any

import cv2
import numpy as np

from ezvar.core.apart import Done, Plain, Task, run_apart, task
from ezvar.core.errors import MediaError
from ezvar.core.way_in import check_regular, read_bytes

from .colours.tags import ColourTags
from .picture import Picture
from .planes import Planes

STILL_SUFFIXES = frozenset({".png", ".jpg", ".jpeg", ".tif", ".tiff", ".bmp", ".webp"})
"""The endings of files that are read as stills."""

_MOST_PIXELS = 16_384**2 // 2


@dataclass(frozen=True)
class Still:
    """A still: its path, its upright size in pixels, its picture over black, and where it is seen: ``opacity``
    (height, width) uint8, ``None`` where all of it is."""

    path: Path
    width: int
    height: int
    picture: Picture
    opacity: np.ndarray | None = None


def read_still(path: str | os.PathLike[str]) -> Still:
    """Read a still picture, turned upright as its file says; what is transparent becomes black.

    It is read apart. Raises `MediaError` for what is no picture, or one too
    large to handle.
    """
    check_regular(path, MediaError)
    answer = run_apart(task("still", [os.fspath(path)]), MediaError)
    told: Any = answer.told
    width, height, seen_through = told["width"], told["height"], told["opacity"]
    half = (-(-height // 2), -(-width // 2))
    shapes = ((height, width), half, half, *(((height, width),) if seen_through else ()))
    samples, at = np.frombuffer(answer.data, np.uint8), 0
    found: list[np.ndarray] = []
    for tall, wide in shapes:
        found.append(samples[at : at + tall * wide].reshape(tall, wide))
        at += tall * wide
    y, u, v = found[:3]
    planes = Planes(y, u, v, ColourTags(*told["tags"]))
    return Still(Path(path), width, height, Picture(0, planes, width, height), found[3] if seen_through else None)


def still_here(task: Task) -> Done:
    """Do the task of `read_still`."""
    path = task.inputs[0]
    data = np.frombuffer(read_bytes(path, MediaError, "a still"), np.uint8)
    remedy = "Export it again as PNG or JPEG"
    try:
        image = cv2.imdecode(data, cv2.IMREAD_COLOR) if data.size else None
        mask = cv2.imdecode(data, cv2.IMREAD_UNCHANGED) if image is not None else None
    except cv2.error as error:
        raise MediaError("it is not a picture that can be read", file=path, remedy=remedy) from error
    if image is None:
        raise MediaError("it is not a picture that can be read", file=path, remedy=remedy)
    height, width = image.shape[:2]
    if width * height > _MOST_PIXELS or min(width, height) < 2:
        raise MediaError(f"{width} × {height} pixels cannot be used", file=path, remedy="Choose another size")
    opacity = []
    if mask is not None and mask.ndim == 3 and mask.shape[2] == 4 and mask.shape[:2] == image.shape[:2]:
        full = np.iinfo(mask.dtype).max if np.issubdtype(mask.dtype, np.integer) else 1.0
        share = mask[..., 3].astype(np.float32) / full
        image = np.asarray(image * share[..., None], np.uint8)
        opacity = [np.asarray(np.round(share * 255), np.uint8)]
    planes = Planes.of_rgb(np.ascontiguousarray(image[..., ::-1]))
    told: Plain = {
        "width": width, "height": height, "opacity": bool(opacity), "tags": list(astuple(planes.tags))
    }  # fmt: skip
    return told, [np.ascontiguousarray(each) for each in (planes.y, planes.u, planes.v, *opacity)]


def black(width: int, height: int) -> Picture:
    """A black picture."""
    sizes = (height, width), *(((height + 1) // 2, (width + 1) // 2),) * 2
    y, u, v = (np.full(size, level, np.uint8) for size, level in zip(sizes, (16, 128, 128), strict=True))
    return Picture(0, Planes(y, u, v, ColourTags(1, 1, 1, 1)), width, height)
