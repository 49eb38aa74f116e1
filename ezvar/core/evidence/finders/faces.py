"""Faces, found with the CenterFace network (boxes, and which way they look by five landmarks).

Source: Xu, Yan, Yang, Sun and Luo, "CenterFace: Joint Face Detection and
Alignment Using Face as Point", 2019. Weights and licence: ``ezvar/models``.
"""

from __future__ import annotations

import os
from dataclasses import replace
from pathlib import Path

import cv2
import numpy as np

from ..regions import Region
from .detector import Detector

MODEL = Path(__file__).parents[3] / "models" / "centerface.onnx"
_LEAST = 0.25  # confidence from which a face is noted; what is joined through time may be less sure
_OVERLAP = 0.3


class FaceFinder(Detector):
    """Finds faces in pictures. Raises `FileNotFoundError` when the model is not there."""

    def __init__(self, model: os.PathLike[str] = MODEL) -> None:
        super().__init__(model)

    def find(self, rgb: np.ndarray, turned: bool = False) -> list[Region]:
        """Faces in an RGB picture, uint8 (height, width, 3), of an `input_size`; the surest first.

        It is looked at as in a mirror where it is to be ``turned``.
        """
        if turned:
            return [replace(f, x=round(1 - f.x - f.width, 4), look=-f.look) for f in self.find(rgb[:, ::-1])]
        height, width = rgb.shape[:2]
        heat, scale, offset, marks = self.run(rgb.astype(np.float32).transpose(2, 0, 1))
        rows, columns = np.where(heat[0, 0] > _LEAST)
        found = []
        for r, c in zip(rows, columns, strict=True):
            h, w = np.exp(scale[0, :, r, c]) * 4
            y = (r + offset[0, 0, r, c] + 0.5) * 4 - h / 2
            x = (c + offset[0, 1, r, c] + 0.5) * 4 - w / 2
            look = _look(marks[0, :, r, c].reshape(5, 2))
            left, top, wide, high = (round(float(v), 4) for v in (x / width, y / height, w / width, h / height))
            found.append(Region("face", left, top, wide, high, round(float(heat[0, 0, r, c]), 3), look=look))
        if not found:
            return []
        boxes = [[f.x * width, f.y * height, f.width * width, f.height * height] for f in found]
        kept = cv2.dnn.NMSBoxes(boxes, [f.confidence for f in found], _LEAST, _OVERLAP)
        return sorted((found[int(k)] for k in np.array(kept).ravel()), key=lambda f: -f.confidence)


def _look(marks: np.ndarray) -> float:
    """Which way a face looks, -1..1, from its landmarks (5, 2) as (y, x): where the nose stands between the eyes."""
    left, right = sorted((float(marks[0, 1]), float(marks[1, 1])))
    apart = max(1e-3, right - left)
    return round(float(np.clip(2 * (marks[2, 1] - (left + right) / 2) / apart, -1, 1)), 3)
