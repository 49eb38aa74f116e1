"""Standing figures, found by the histogram of their gradients.

Source: Dalal and Triggs, "Histograms of Oriented Gradients for Human
Detection", 2005, with the weights that OpenCV brings along. It finds whole
people, upright and not too small, whichever way they look.
"""

from __future__ import annotations

import cv2
import numpy as np

from ..regions import Region

_LONGER_SIDE = 512
_LEAST = 0.5  # the classifier's own measure, from which a figure is noted
_SURE = 1.5
_SLIM = (0.14, 0.04)  # parts of the found window, at its sides and its ends, that are no figure but ground


class FigureFinder:
    """Finds standing figures in pictures."""

    def __init__(self) -> None:
        self._hog = cv2.HOGDescriptor()
        self._hog.setSVMDetector(cv2.HOGDescriptor.getDefaultPeopleDetector())

    def input_size(self, width: int, height: int) -> tuple[int, int]:
        """The size at which a picture of this size is looked at."""
        scale = _LONGER_SIDE / max(width, height)
        return max(96, round(width * scale)), max(160, round(height * scale))

    def find(self, rgb: np.ndarray) -> list[Region]:
        """Figures in an RGB picture, uint8 (height, width, 3), of an `input_size`; the surest first."""
        height, width = rgb.shape[:2]
        grey = cv2.cvtColor(rgb, cv2.COLOR_RGB2GRAY)
        boxes, sure = self._hog.detectMultiScale(
            grey, hitThreshold=_LEAST, winStride=(8, 8), padding=(16, 16), scale=1.1
        )
        found = []
        for (x, y, w, h), s in zip(boxes, np.ravel(sure), strict=True):
            left, top, wide, high = (x + _SLIM[0] * w, y + _SLIM[1] * h, w * (1 - 2 * _SLIM[0]), h * (1 - 2 * _SLIM[1]))
            confidence = round(min(1.0, float(s) / _SURE), 3)
            region = Region("figure", left / width, top / height, wide / width, high / height, confidence)
            found.append(region.in_picture())
        return sorted(found, key=lambda r: -r.confidence)
