"""Fit the weights of the cut decision on generated edits, and write ezvar/models/cuts.json.

    python tools/train_cuts.py FOLDER [EDITS]

The edits are those of ``benchmarks/cut_scenes.py`` with seeds below 1000,
drawn into FOLDER where they are not there yet. Takes a quarter of an hour.
"""

from __future__ import annotations

import json
import sys
from pathlib import Path

import numpy as np
from scipy.optimize import minimize

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))

from benchmarks.cut_scenes import Made, make  # noqa: E402
from ezvar.core.cuts.candidates import HARD_COLOUR, Candidate, hard_candidates  # noqa: E402
from ezvar.core.cuts.mixes import MIX_COLOUR, mix_candidates  # noqa: E402
from ezvar.core.cuts.model import WEIGHTS, expanded  # noqa: E402
from ezvar.core.cuts.signals import measure  # noqa: E402
from ezvar.core.media import MovieReader  # noqa: E402

STRICT = {"cut": 0.03, "mix": 0.05}
"""How strongly large weights are held back."""
PERHAPS = {"cut": 0.03, "mix": 0.12}
"""The probabilities below which nothing is worth a look."""
FLAGGED = 0.12
"""The share of right cuts that may be flagged for a look."""


def overlap(a: tuple[int, int], b: tuple[int, int]) -> float:
    """Intersection over union of two spans of frames."""
    return max(0, min(a[1], b[1]) - max(a[0], b[0])) / max(1, max(a[1], b[1]) - min(a[0], b[0]))


def labelled(made: Made, candidates: list[Candidate], hard: bool) -> list[tuple[Candidate, int]]:
    """Candidates with 1 for right, 0 for wrong; those in between are left out."""
    cuts = {c.start for c in made.cuts if c.kind == "cut"}
    mixes = [(c.start, c.end) for c in made.cuts if c.kind != "cut"]
    found = []
    for candidate in candidates:
        if hard:
            inside = any(a - 2 <= candidate.start <= b + 2 for a, b in mixes)
            if not inside or candidate.start in cuts:
                found.append((candidate, int(candidate.start in cuts)))
            else:
                found.append((candidate, 0))
        else:
            best = max((overlap((candidate.start, candidate.end), m) for m in mixes), default=0.0)
            if best >= 0.65 or best < 0.6:  # a part of a mix is wrong too, so that the whole is preferred
                found.append((candidate, int(best >= 0.65)))
    return found


def fit(figures: np.ndarray, right: np.ndarray, strict: float) -> dict[str, object]:
    """Weights by maximum likelihood with a penalty on their squares (L-BFGS)."""
    mean, scale = figures.mean(0), figures.std(0) + 1e-6
    terms = expanded(figures, mean, scale)
    spread = terms.std(0) + 1e-6
    spread[-1] = 1.0
    scaled = terms / spread
    sign = 2.0 * right - 1

    def cost(weights: np.ndarray) -> tuple[float, np.ndarray]:
        margin = sign * (scaled @ weights)
        held = strict * len(right) / 100
        gradient = -(scaled.T @ (sign / (1 + np.exp(np.clip(margin, -30, 30)))))
        penalty = weights.copy()
        penalty[-1] = 0
        return float(np.logaddexp(0, -margin).sum() + held * penalty @ penalty), gradient + 2 * held * penalty

    weights = minimize(cost, np.zeros(scaled.shape[1]), jac=True, method="L-BFGS-B", options={"maxiter": 3000}).x
    return {"mean": mean, "scale": scale, "weights": weights / spread}


def crossed(figures: np.ndarray, right: np.ndarray, groups: np.ndarray, strict: float) -> np.ndarray:
    """Probabilities of each candidate by a model that has not seen its edit."""
    probability = np.zeros(len(right))
    for fold in range(6):
        out = groups % 6 == fold
        model = fit(figures[~out], right[~out], strict)
        raw = expanded(figures[out], model["mean"], model["scale"]) @ model["weights"]
        probability[out] = 1 / (1 + np.exp(-raw))
    return probability


def with_grey(
    figures: np.ndarray, right: np.ndarray, groups: np.ndarray, colour: tuple[int, float]
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """The candidates, and a third of them again as they would be in a film without colour."""
    grey = figures.copy()
    grey[:, colour[0]] = colour[1]
    again = np.random.default_rng(1).random(len(figures)) < 0.35
    return tuple(np.concatenate([a, b[again]]) for a, b in ((figures, grey), (right, right), (groups, groups)))  # type: ignore[return-value]


def best_threshold(probability: np.ndarray, true: np.ndarray) -> float:
    """The probability from which accepting makes the most of right, false and missed ones together (F1)."""
    tried = np.linspace(0.35, 0.5, 31)
    scores = [2 * (true & (probability > t)).sum() / (true.sum() + (probability > t).sum()) for t in tried]
    return float(np.mean(tried[np.array(scores) >= max(scores) - 1e-9]))


def main() -> None:
    folder, edits = Path(sys.argv[1]), int(sys.argv[2]) if len(sys.argv) > 2 else 40
    folder.mkdir(parents=True, exist_ok=True)
    rows: dict[str, list[tuple[np.ndarray, int, int]]] = {"cut": [], "mix": []}
    for seed in range(edits):
        made = make(folder / f"{seed}.mp4", seed)
        with MovieReader(made.path) as reader:
            signals = measure(reader.frames(), reader.facts.frames)
        for name, candidates in (("cut", hard_candidates(signals)), ("mix", mix_candidates(signals))):
            rows[name] += [(c.figures, right, seed) for c, right in labelled(made, candidates, name == "cut")]
        print(f"edit {seed}: {made.frames} frames, {len(made.cuts)} cuts", flush=True)
    models = {}
    for name, kept in rows.items():
        figures, right, groups = with_grey(
            *(np.array([r[k] for r in kept]) for k in range(3)), HARD_COLOUR if name == "cut" else MIX_COLOUR
        )
        probability = crossed(figures, right, groups, STRICT[name])
        said, true = probability > 0.5, right == 1
        print(
            f"{name}: {true.sum()} right of {len(right)}; {(said & ~true).sum()} false, {(~said & true).sum()} missed"
        )
        model = fit(figures, right, STRICT[name])
        accept = best_threshold(probability, true)
        said = probability > accept
        sure = float(np.quantile(probability[said & true], FLAGGED))
        models[name] = {
            **{k: [round(float(v), 6) for v in model[k]] for k in ("mean", "scale", "weights")},  # type: ignore[union-attr]
            "accept": round(accept, 3),
            "sure": round(min(0.9995, max(accept + 0.05, sure)), 5),
            "perhaps": PERHAPS[name],
        }
    WEIGHTS.write_text(json.dumps({"made by": "tools/train_cuts.py", "edits": edits, "models": models}) + "\n")


if __name__ == "__main__":
    main()
