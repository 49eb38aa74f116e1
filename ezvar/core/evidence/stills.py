"""Small pictures kept of a movie now and then, and what can be read off them: contrast, sharpness."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import cv2
import numpy as np

from ezvar.core.media import Picture

from .regions import Region

SIZE = (96, 54)
"""Width and height of a still."""
STILL = np.dtype([("frame", "i4"), ("luma", "u1", (SIZE[1], SIZE[0]))])
_LEAST_SHARP = 0.3  # what the softest of several regions counts beside the sharpest
_SIDE = 96  # pixels to which a region is brought before its sharpness is read
_LEAST_CONTRAST = 4.0  # levels, below which a picture is taken to be even


def still_of(luma: np.ndarray) -> np.ndarray:
    """A still, uint8 (54, 96), of a picture's luminance."""
    return np.asarray(cv2.resize(luma, SIZE, interpolation=cv2.INTER_AREA))


def weighed_by_sharpness(picture: Picture, regions: Sequence[Region]) -> list[Region]:
    """Several regions of a picture with strengths by how sharp they are, the sharpest 1; a single one as it is."""
    if len(regions) < 2:
        return list(regions)
    luma = picture.planes().y
    sharp = [_sharpness(luma, r) for r in regions]
    most = max(max(sharp), 1e-6)
    return [replace(r, strength=round(max(_LEAST_SHARP, s / most), 4)) for r, s in zip(regions, sharp, strict=True)]


def _sharpness(luma: np.ndarray, region: Region) -> float:
    """The part of a region's contrast that is fine, 0..1."""
    high, wide = luma.shape
    left, top = int(max(0, region.x) * wide), int(max(0, region.y) * high)
    right, foot = int(np.ceil((region.x + region.width) * wide)), int(np.ceil((region.y + region.height) * high))
    part = luma[top : max(foot, top + 2), left : max(right, left + 2)]
    if min(part.shape) < 2:
        return 0.0
    scale = min(1.0, _SIDE / max(part.shape))
    size = max(2, round(part.shape[1] * scale)), max(2, round(part.shape[0] * scale))
    small = cv2.resize(part, size, interpolation=cv2.INTER_AREA).astype(np.float32)
    fine = small - cv2.GaussianBlur(small, (0, 0), 1.2)
    coarse = small - cv2.GaussianBlur(small, (0, 0), 12)
    return float(fine.std() / (coarse.std() + 2.0))


def contrast_centre(stills: np.ndarray) -> tuple[float, float] | None:
    """Where most contrast is in stills (n,) of `STILL`, as fractions of the picture; ``None`` where there is none.

    Contrast is what stands out from a wide surrounding (centre against
    surround, as in Itti, Koch and Niebur's model of 1998, at one scale).
    """
    if not len(stills):
        return None
    luma = np.median(stills["luma"].astype(np.float32), axis=0)
    map_ = np.abs(cv2.GaussianBlur(luma, (0, 0), 1.5) - cv2.GaussianBlur(luma, (0, 0), 10))
    if map_.max() < _LEAST_CONTRAST:
        return None
    weight = np.clip(map_ - np.median(map_), 0, None) ** 2
    rows, columns = np.mgrid[: SIZE[1], : SIZE[0]]
    total = weight.sum() + 1e-6
    return (
        float((weight * (columns + 0.5)).sum() / total / SIZE[0]),
        float((weight * (rows + 0.5)).sum() / total / SIZE[1]),
    )
