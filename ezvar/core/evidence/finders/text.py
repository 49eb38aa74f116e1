"""Blocks of text, found with the text detector of PP-OCRv4.

Source: Liao, Wan, Yao, Chen and Bai, "Real-time Scene Text Detection with
Differentiable Binarization", 2020, whose map of shrunken text regions is
grown back by area times ratio over perimeter. Weights: ``ezvar/models``.
"""

from __future__ import annotations

import os
from pathlib import Path

import cv2
import numpy as np

from ..regions import Region
from .detector import Detector

MODEL = Path(__file__).parents[3] / "models" / "text.onnx"
_INK, _SURE = 0.3, 0.6
_GROWN = 1.6
_SMALLEST = 4  # samples of the map; less is no legible letter
_SHARP = 0.16  # of its contrast a sample, that its steepest tenth reaches; rows of blurred lights do not
_WIDER = 2.0  # a line of text is this many times wider than high; blots and lone signs are not


class TextFinder(Detector):
    """Finds blocks of text in pictures. Raises `FileNotFoundError` when the model is not there."""

    long_side = 576

    def __init__(self, model: os.PathLike[str] = MODEL) -> None:
        super().__init__(model)

    def find(self, rgb: np.ndarray) -> list[Region]:
        """Blocks of text in an RGB picture, uint8 (height, width, 3), of an `input_size`.

        Lines that stand close together make one block.
        """
        height, width = rgb.shape[:2]
        ink = self.run((rgb[..., ::-1].astype(np.float32) / 127.5 - 1).transpose(2, 0, 1))[0][0, 0]
        mask = cv2.dilate((ink > _INK).astype(np.uint8), np.ones((2, 2), np.uint8))
        grey = rgb[..., 1].astype(np.float32)
        slope = np.hypot(cv2.Sobel(grey, cv2.CV_32F, 1, 0), cv2.Sobel(grey, cv2.CV_32F, 0, 1)) / 4
        lines = []
        for contour in cv2.findContours(mask, cv2.RETR_LIST, cv2.CHAIN_APPROX_SIMPLE)[0]:
            x, y, w, h = cv2.boundingRect(contour)
            if h < _SMALLEST or w < _WIDER * h:
                continue
            part = ink[y : y + h, x : x + w]
            inside = part[part > _INK]
            sure = float(inside.mean()) if inside.size else 0.0
            low, high = np.percentile(grey[y : y + h, x : x + w], (5, 98))
            if sure < _SURE or np.percentile(slope[y : y + h, x : x + w], 90) < _SHARP * (high - low):
                continue
            grow = w * h * _GROWN / (2 * (w + h))
            lines.append((x - grow, y - grow, x + w + grow, y + h + grow, sure))
        return [
            Region("text", a / width, b / height, (c - a) / width, (d - b) / height, round(sure, 3)).in_picture()
            for a, b, c, d, sure in _blocks(lines)
        ]


_Line = tuple[float, float, float, float, float]


def _blocks(lines: list[_Line]) -> list[_Line]:
    """Lines joined whose boxes, widened by half their height, touch."""
    blocks: list[_Line] = []
    for line in sorted(lines, key=lambda v: v[1]):
        joined = line
        while near := next((b for b in blocks if _touch(b, joined)), None):
            blocks.remove(near)
            joined = (
                min(near[0], joined[0]), min(near[1], joined[1]), max(near[2], joined[2]), max(near[3], joined[3]),
                max(near[4], joined[4]),
            )  # fmt: skip
        blocks.append(joined)
    return blocks


def _touch(a: _Line, b: _Line) -> bool:
    room = 0.5 * min(a[3] - a[1], b[3] - b[1])
    return a[0] - room < b[2] and b[0] - room < a[2] and a[1] - room < b[3] and b[1] - room < a[3]
