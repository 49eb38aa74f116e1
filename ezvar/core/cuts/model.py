"""The learned part of the decision: logistic models over figures and their products.

The weights are fitted by ``tools/train_cuts.py`` on generated edits whose
cuts are known, and kept in ``ezvar/models/cuts.json``.
"""

from __future__ import annotations

import json
from dataclasses import dataclass
from functools import cache
from pathlib import Path

import numpy as np

WEIGHTS = Path(__file__).parents[2] / "models" / "cuts.json"


_AT_ONCE = 1000  # candidates expanded at a time, so that long movies take no more memory


@dataclass(frozen=True)
class Logistic:
    """A logistic model over standardised figures, their squares and products.

    ``mean`` and ``scale`` are of the figures (figures,), ``weights`` of the
    expanded ones, the last of them the constant. From the probability
    ``accept`` on a candidate is taken for a cut, from ``sure`` on without
    doubt; below ``perhaps`` it is not worth a look.
    """

    mean: np.ndarray
    scale: np.ndarray
    weights: np.ndarray
    accept: float
    sure: float
    perhaps: float

    def probability(self, figures: np.ndarray) -> np.ndarray:
        """The probability that candidates are cuts, (candidates,), from their figures (candidates, figures)."""
        parts = (figures[k : k + _AT_ONCE] for k in range(0, len(figures), _AT_ONCE))
        margin = np.concatenate([expanded(part, self.mean, self.scale) @ self.weights for part in parts])
        return np.asarray(1 / (1 + np.exp(-np.clip(margin, -30, 30))))


def expanded(figures: np.ndarray, mean: np.ndarray, scale: np.ndarray) -> np.ndarray:
    """Standardised figures, their squares and products, and a constant: (candidates, terms).

    Figures are held within 2.5 deviations, so that what was never seen in
    training cannot outweigh everything else.
    """
    z = np.clip((figures - mean) / scale, -2.5, 2.5)
    rows, columns = np.triu_indices(z.shape[1])
    return np.concatenate([z, z[:, rows] * z[:, columns], np.ones((len(z), 1))], axis=1)


@cache
def models() -> dict[str, Logistic]:
    """The models for hard cuts ("cut") and for mixes ("mix")."""
    stored = json.loads(WEIGHTS.read_text())
    return {
        name: Logistic(
            np.array(m["mean"]), np.array(m["scale"]), np.array(m["weights"]), m["accept"], m["sure"], m["perhaps"]
        )
        for name, m in stored["models"].items()
    }
