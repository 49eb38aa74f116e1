"""Boxes, (..., 4): left, top, right and foot as fractions of the picture; how far they cover each other."""

from __future__ import annotations

import numpy as np

_LEAST = 1e-9  # area of a box, so that one without any is not divided by


def covered(boxes: np.ndarray, others: np.ndarray) -> np.ndarray:
    """The part of each box (..., 4) that another (..., 4) covers, (...,) 0..1.

    >>> float(covered(np.array([0.0, 0.0, 0.2, 0.2]), np.array([0.1, 0.0, 0.9, 0.9])))
    0.5
    """
    return np.asarray(_common(boxes, others) / np.maximum(_area(boxes), _LEAST))


def shared(boxes: np.ndarray, others: np.ndarray) -> np.ndarray:
    """The part of the smaller of two boxes (..., 4) that both cover, (...,) 0..1; the same whichever is named first."""
    return np.asarray(_common(boxes, others) / np.maximum(np.minimum(_area(boxes), _area(others)), _LEAST))


def _common(boxes: np.ndarray, others: np.ndarray) -> np.ndarray:
    sides = np.minimum(boxes[..., 2:], others[..., 2:]) - np.maximum(boxes[..., :2], others[..., :2])
    return np.asarray(np.clip(sides, 0, None).prod(axis=-1))


def _area(boxes: np.ndarray) -> np.ndarray:
    return np.asarray((boxes[..., 2:] - boxes[..., :2]).prod(axis=-1))
