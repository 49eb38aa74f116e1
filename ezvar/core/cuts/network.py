"""The learned part of the decision: a small network over time.

It reads the features of `features` and says of each frame whether a shot
begins there and whether it lies in a mix. Dilated convolutions (Yu and
Koltun, 2016) with shortcuts, so that each frame is judged by the 60 around
it. The weights are fitted by ``tools/train_cuts.py`` on generated edits whose
cuts are known, and kept in ``ezvar/models/cuts.npz``.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Literal

import numpy as np

from .features import LAGS, features
from .signals import Signals

WEIGHTS = Path(__file__).parents[2] / "models" / "cuts.npz"
DILATIONS = (1, 2, 4, 8, 12, 1)
"""Frames between the taps of each layer."""
OUTPUTS = ("cut", "inside", "begins", "ends", "dissolve", "fade", "wipe")
"""What is said of each frame; the last three only make sense inside a mix."""
_AT_ONCE = 3000  # frames
_MARGIN = sum(DILATIONS) + max(LAGS)  # frames that a frame's judgement reaches to

Kind = Literal["cut", "mix"]


@dataclass(frozen=True)
class Levels:
    """From ``accept`` on a candidate is a cut, from ``sure`` on without doubt; from ``perhaps`` on worth a look."""

    perhaps: float
    accept: float
    sure: float


@dataclass(frozen=True)
class Weights:
    """Networks whose answers are averaged, each a list of (taps, inputs, outputs) and (outputs,), and the levels."""

    mean: np.ndarray
    scale: np.ndarray
    networks: tuple[tuple[tuple[np.ndarray, np.ndarray], ...], ...]
    levels: dict[Kind, Levels]


@cache
def weights() -> Weights:
    """The weights that are shipped."""
    with np.load(WEIGHTS) as stored:
        layers = len(DILATIONS) + 2
        networks = tuple(
            tuple(
                (stored[f"{k}.{n}.w"].astype(np.float32), stored[f"{k}.{n}.b"].astype(np.float32))
                for n in range(layers)
            )
            for k in range(int(stored["networks"]))
        )
        levels: dict[Kind, Levels] = {kind: Levels(*(float(v) for v in stored[kind])) for kind in ("cut", "mix")}
        return Weights(stored["mean"], stored["scale"], networks, levels)


def judged_frames(signals: Signals) -> np.ndarray:
    """What the networks say of each frame: probabilities, float32 (frames, 7), in the order of ``OUTPUTS``."""
    frames = len(signals.thumbs)
    found = np.zeros((frames, len(OUTPUTS)), np.float32)
    for start in range(0, frames, _AT_ONCE):
        first, last = max(0, start - _MARGIN), min(frames, start + _AT_ONCE + _MARGIN)
        part = probabilities(features(signals.thumbs[first:last], signals.colour[first:last]))
        found[start : start + _AT_ONCE] = part[start - first : start - first + _AT_ONCE]
    return found


def probabilities(given: np.ndarray) -> np.ndarray:
    """The networks' answer to features (frames, features): (frames, 7)."""
    known = weights()
    x = np.clip((given - known.mean) / known.scale, -5, 5)
    said = np.mean([_answer(x, layers) for layers in known.networks], axis=0)
    return np.asarray(1 / (1 + np.exp(-np.clip(said, -30, 30))), np.float32)


def _answer(x: np.ndarray, layers: tuple[tuple[np.ndarray, np.ndarray], ...]) -> np.ndarray:
    (first, bias), *middle, (last, end) = layers
    x = np.maximum(x @ first[0] + bias, 0)
    for (taps, bias), dilation in zip(middle, DILATIONS, strict=True):
        beyond = np.pad(x, ((dilation, dilation), (0, 0)))
        length = len(x)
        x = x + np.maximum(sum(beyond[k * dilation : k * dilation + length] @ taps[k] for k in range(3)) + bias, 0)
    return np.asarray(x @ last[0] + end)
