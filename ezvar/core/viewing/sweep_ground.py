"""The slit scan of a shot: each frame squeezed to one column of a chart."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

_PLAIN = 6.0  # levels of difference that every row counts for, so that a still shot shows its mean


def slit_scan(frames: Iterable[np.ndarray], along_y: bool = False) -> np.ndarray:
    """Squeeze RGB pictures, uint8 (height, width, 3) each, into a chart, uint8 (places, frames, 3).

    Row 0 of the chart is the picture's right edge (or its top with
    ``along_y``), time runs to the right. A column is the mean over the
    other direction, weighted by how far each sample differs from the shot's
    median picture, so that movers stand out as streaks.
    """
    stack = np.stack(list(frames)).astype(np.float32)
    if along_y:
        stack = stack.transpose(0, 2, 1, 3)
    few = stack[:: max(1, len(stack) // 48)]
    median = np.median(few, axis=0)
    weight = np.abs(stack - median).mean(axis=3) + _PLAIN
    column = (stack * weight[..., None]).sum(axis=1) / weight.sum(axis=1)[..., None]
    chart = np.clip(column, 0, 255).astype(np.uint8).transpose(1, 0, 2)
    return np.ascontiguousarray(chart if along_y else chart[::-1])
