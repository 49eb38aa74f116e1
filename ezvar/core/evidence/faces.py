"""Faces, found with the CenterFace network (boxes and five landmarks).

Source: Xu, Yan, Yang, Sun and Luo, "CenterFace: Joint Face Detection and
Alignment Using Face as Point", 2019. Weights and licence: ``ezvar/models``.
"""

from __future__ import annotations

import os
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np
import onnxruntime

MODEL = Path(__file__).parents[2] / "models" / "centerface.onnx"
_LONG_SIDE = 512
_SURE = 0.4
_OVERLAP = 0.3


@dataclass(frozen=True)
class Face:
    """A face: its box as fractions of the picture, confidence 0..1, landmarks (x, y) as fractions.

    Landmarks: both eyes, the nose's tip, both corners of the mouth.
    """

    x: float
    y: float
    width: float
    height: float
    confidence: float
    landmarks: tuple[tuple[float, float], ...] = ()

    @property
    def weight(self) -> float:
        """How much it counts: sure and large faces more."""
        return float(self.confidence * (self.width * self.height) ** 0.5)

    def overlaps(self, other: Face) -> bool:
        """Whether the two boxes share any of their area."""
        return (
            abs(self.x - other.x + (self.width - other.width) / 2) < (self.width + other.width) / 2
            and abs(self.y - other.y + (self.height - other.height) / 2) < (self.height + other.height) / 2
        )

    def part_inside(self, x: float, y: float, width: float, height: float, room: float = 0.0) -> float:
        """The part 0..1 of its box, widened by ``room`` of its size to each side, inside an area.

        What reaches beyond the picture does not count.
        """
        left, right = max(0.0, self.x - room * self.width), min(1.0, self.x + self.width * (1 + room))
        top, foot = max(0.0, self.y - room * self.height), min(1.0, self.y + self.height * (1 + room))
        if right <= left or foot <= top:
            return 0.0
        across = max(0.0, min(right, x + width) - max(left, x)) / (right - left)
        down = max(0.0, min(foot, y + height) - max(top, y)) / (foot - top)
        part = across * down
        return 1.0 if part > 1 - 1e-9 else part


class FaceFinder:
    """Finds faces in pictures. Raises `FileNotFoundError` when the model is not there."""

    def __init__(self, model: os.PathLike[str] = MODEL) -> None:
        if not os.path.exists(model):
            raise FileNotFoundError(model)
        options = onnxruntime.SessionOptions()
        options.log_severity_level = 3
        self._session = onnxruntime.InferenceSession(str(model), options, providers=["CPUExecutionProvider"])
        self._input = self._session.get_inputs()[0].name

    def input_size(self, width: int, height: int) -> tuple[int, int]:
        """The size at which a picture of this size is best handed over: multiples of 32."""
        scale = _LONG_SIDE / max(width, height)
        return max(32, round(width * scale / 32) * 32), max(32, round(height * scale / 32) * 32)

    def find(self, rgb: np.ndarray) -> list[Face]:
        """Faces in an RGB picture, uint8 (height, width, 3), of an `input_size`; the surest first."""
        height, width = rgb.shape[:2]
        tensor = rgb.astype(np.float32).transpose(2, 0, 1)[None]
        heat, scale, offset, marks = self._session.run(None, {self._input: tensor})
        rows, columns = np.where(heat[0, 0] > _SURE)
        found = []
        for r, c in zip(rows, columns, strict=True):
            h, w = np.exp(scale[0, :, r, c]) * 4
            y = (r + offset[0, 0, r, c] + 0.5) * 4 - h / 2
            x = (c + offset[0, 1, r, c] + 0.5) * 4 - w / 2
            points = marks[0, :, r, c].reshape(5, 2)
            landmarks = tuple(
                (round(float((x + px * w) / width), 4), round(float((y + py * h) / height), 4)) for py, px in points
            )
            left, top, wide, high = (round(float(v), 4) for v in (x / width, y / height, w / width, h / height))
            found.append(Face(left, top, wide, high, round(float(heat[0, 0, r, c]), 3), landmarks))
        if not found:
            return []
        boxes = [[f.x * width, f.y * height, f.width * width, f.height * height] for f in found]
        kept = cv2.dnn.NMSBoxes(boxes, [f.confidence for f in found], _SURE, _OVERLAP)
        return sorted((found[int(k)] for k in np.array(kept).ravel()), key=lambda f: -f.confidence)
