"""People, animals, vehicles, sports gear and other things, found with the NanoDet-g network.

Source: RangiLyu, "NanoDet", 2020: a detector without anchors that gives for
each cell the score of every class and, as in Li et al., "Generalized Focal
Loss", 2020, a distribution over the distance to each side of the box. It was
trained on the 80 classes of COCO; names of single classes are unreliable
(animals most of all), their groups are not. Weights: ``ezvar/models``.
"""

from __future__ import annotations

import os
from pathlib import Path
from typing import Literal

import cv2
import numpy as np

from ..regions import Region, RegionKind
from .detector import Detector

MODEL = Path(__file__).parents[3] / "models" / "things.onnx"
LEAST = 0.18
"""Confidence from which something is noted; what is joined through time may be less sure than what stands alone."""
_SOME = 0.1  # score of a group from which it says that something is there at all
Way = Literal["plain", "turned", "both"]
_CELLS = (8, 16, 32)
_FURTHEST = 11  # steps of a cell's size in which a side's distance is given
_OVERLAP = 0.55
_MEAN = np.array([103.53, 116.28, 123.675], np.float32)  # blue, green, red
_SPREAD = np.array([57.375, 57.12, 58.395], np.float32)
_GREY = 114
_STEP = 32
_ANIMAL = range(14, 24)
_VEHICLE = (1, 2, 3, 4, 5, 6, 7, 8)
_SPORT = range(29, 39)
_FURNITURE = (9, 10, 11, 12, 13, 56, 57, 58, 59, 60, 61, 62, 68, 69, 70, 71, 72)
"""Classes that stand about: signs, benches, chairs, tables, sinks, screens; no window follows them."""


def _kind_of(number: int) -> RegionKind | None:
    if number == 0:
        return "person"
    if number in _ANIMAL:
        return "animal"
    if number in _VEHICLE:
        return "vehicle"
    if number in _SPORT:
        return "sport"
    return None if number in _FURNITURE else "thing"


_KINDS = tuple(_kind_of(number) for number in range(80))
GROUPS: tuple[RegionKind, ...] = ("person", "animal", "vehicle", "sport", "thing")
_ROWS = {kind: [k for k, of in enumerate(_KINDS) if of == kind] for kind in GROUPS}


class ThingFinder(Detector):
    """Finds people and things in pictures. Raises `FileNotFoundError` when the model is not there."""

    long_side = 416

    def __init__(self, model: os.PathLike[str] = MODEL) -> None:
        super().__init__(model)

    def input_size(self, width: int, height: int) -> tuple[int, int]:
        """The size at which a picture of this size is looked at; its shape is kept."""
        scale = self.long_side / max(width, height)
        return max(_STEP, round(width * scale)), max(_STEP, round(height * scale))

    def find(self, rgb: np.ndarray, way: Way = "both") -> list[Region]:
        """People and things in an RGB picture, uint8 (height, width, 3), of an `input_size`; the surest first.

        It is looked at as it is (``plain``), as in a mirror (``turned``), or both ways, of which the mean counts: then
        what is found does not depend on which way something looks.
        """
        height, width = rgb.shape[:2]
        padded = np.full((-(-height // _STEP) * _STEP, -(-width // _STEP) * _STEP, 3), _GREY, np.uint8)
        padded[:height, :width] = rgb[..., ::-1]
        tensor = ((padded.astype(np.float32) - _MEAN) / _SPREAD).transpose(2, 0, 1)
        ways = [tensor] if way == "plain" else [tensor[..., ::-1]] if way == "turned" else [tensor, tensor[..., ::-1]]
        outputs = [_turned_back(o, way) for o in self.run(np.stack(ways))]
        boxes, scores, kinds = [], [], []
        for cell, said, sides in zip(_CELLS, outputs[::2], outputs[1::2], strict=True):
            mean = said.mean(axis=0)
            each = np.stack([mean[_ROWS[kind]].max(axis=0) for kind in GROUPS])
            # Something that might be this or that is there more surely than it is either.
            sure = 1 - np.prod(1 - np.where(each >= _SOME, each, 0), axis=0)
            rows, columns = np.nonzero(sure >= LEAST)
            away = np.mean([_distances(s[:, rows, columns]) for s in sides], axis=0)
            boxes.append(_boxes(away * cell, (columns + 0.5) * cell, (rows + 0.5) * cell))
            scores.append(sure[rows, columns])
            kinds.append(each[:, rows, columns].argmax(axis=0))
        corners = np.clip(np.concatenate(boxes), 0, (width, height, width, height))
        sure, group = np.concatenate(scores), np.concatenate(kinds)
        found = []
        for k in _kept(corners, sure):
            left, top, right, foot = (float(v) for v in corners[k] / (width, height, width, height))
            x, y, wide, high = (round(v, 4) for v in (left, top, right - left, foot - top))
            found.append(Region(GROUPS[group[k]], x, y, wide, high, round(float(sure[k]), 3)))
        return found


def _turned_back(output: np.ndarray, way: Way) -> np.ndarray:
    """Scores or distributions over sides (n, ...) of a picture looked at in a way, as of the picture itself."""
    if way == "plain":
        return output
    mirror = output[-1:, ..., ::-1]
    if output.shape[1] == 4 * _FURTHEST:  # left and right change places
        mirror = mirror.reshape(1, 4, _FURTHEST, *mirror.shape[2:])[:, [2, 1, 0, 3]].reshape(mirror.shape)
    return mirror if way == "turned" else np.concatenate([output[:1], mirror])


def _distances(sides: np.ndarray) -> np.ndarray:
    """How far the left, top, right and foot are (n, 4), in cells, from the distributions (44, n) over that."""
    each = sides.T.reshape(-1, 4, _FURTHEST).astype(np.float64)
    likely = np.exp(each - each.max(axis=2, keepdims=True))
    return np.asarray((likely / likely.sum(axis=2, keepdims=True)) @ np.arange(_FURTHEST))


def _boxes(away: np.ndarray, x: np.ndarray, y: np.ndarray) -> np.ndarray:
    """Boxes (n, 4) in pixels from the distances (n, 4) of their sides to places (n,)."""
    return np.stack([x - away[:, 0], y - away[:, 1], x + away[:, 2], y + away[:, 3]], axis=1)


def _kept(corners: np.ndarray, sure: np.ndarray) -> list[int]:
    """Those of overlapping boxes that are surest, the surest of all first."""
    wide = [[float(a), float(b), float(c - a), float(d - b)] for a, b, c, d in corners]
    chosen = cv2.dnn.NMSBoxes(wide, [float(s) for s in sure], LEAST, _OVERLAP)
    return sorted((int(k) for k in np.array(chosen).ravel()), key=lambda k: -sure[k])
