"""Fit the networks of the cut decision on generated edits, and write ezvar/models/cuts.npz.

    python tools/train_cuts.py FOLDER [EDITS]

Needs PyTorch, which nothing else here does (``pip install torch``). The edits
are those of ``benchmarks/cut_scenes.py`` with seeds below 1000, drawn into
FOLDER where they are not there yet; half of what the networks see are clips
of ``tools/cut_clips.py``. Two networks fitted on one half of the edits each
say where the levels belong, from the edits that they have not seen; three
fitted on all are shipped. Takes about an hour on two cores for 180 edits.
"""

from __future__ import annotations

import multiprocessing
import sys
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
import torch
from torch import nn

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))

from benchmarks.cut_scenes import make  # noqa: E402
from ezvar.core.cuts.candidates import Candidate, hard_candidates, mix_candidates  # noqa: E402
from ezvar.core.cuts.features import FEATURES, features  # noqa: E402
from ezvar.core.cuts.network import DILATIONS, OUTPUTS, WEIGHTS, Kind, Levels  # noqa: E402
from ezvar.core.cuts.signals import measure  # noqa: E402
from ezvar.core.media import MovieReader  # noqa: E402
from tools.cut_clips import LENGTH, Change, Strip, composed, labels, shots_of  # noqa: E402

WIDTH = 64
"""Channels of the networks."""
CLIPS = 4000
"""Clips put together, half of them from each half of the edits."""
STEPS, BATCH = 2000, (12, 12)
"""Steps of fitting, and clips put together and parts of edits in each."""
FLAGGED = 0.03
"""The share of right cuts that may be flagged for a look."""
ASKED = 0.92
"""The share of missed changes that must be among what is worth a look."""
FAINTEST, PLAIN = 0.004, 0.2
"""Between these parts of the accepting score a candidate begins to be worth a look."""


@dataclass
class Edit:
    """A generated edit: its frames, its changes and the features of its frames."""

    seed: int
    strip: Strip
    changes: list[Change]
    features: np.ndarray = field(repr=False)


@dataclass
class Weighed:
    """Scores of candidates, each with whether it is right, and for each true change the best score near it."""

    candidates: list[tuple[float, bool]] = field(default_factory=list)
    changes: list[float] = field(default_factory=list)


class Network(nn.Module):
    """As ``ezvar/core/cuts/network.py`` computes it."""

    def __init__(self, mean: np.ndarray, scale: np.ndarray) -> None:
        super().__init__()
        self.register_buffer("mean", torch.tensor(mean))
        self.register_buffer("scale", torch.tensor(scale))
        self.first = nn.Conv1d(FEATURES, WIDTH, 1)
        self.middle = nn.ModuleList(nn.Conv1d(WIDTH, WIDTH, 3, padding=d, dilation=d) for d in DILATIONS)
        self.last = nn.Conv1d(WIDTH, len(OUTPUTS), 1)

    def forward(self, given: torch.Tensor) -> torch.Tensor:
        x = torch.clamp((given - self.mean) / self.scale, -5, 5).transpose(1, 2)
        x = torch.relu(self.first(x))
        for layer in self.middle:
            x = x + torch.relu(layer(x))
        return self.last(x).transpose(1, 2)


def edit(task: tuple[Path, int]) -> Edit:
    """An edit drawn and measured, or read where that was done before."""
    folder, seed = task
    made = make(folder / f"{seed}.mp4", seed, mixes=0.3 if seed < 100 else 0.6)
    kept = folder / f"{seed}.npz"
    if not kept.exists():
        with MovieReader(made.path) as reader:
            signals = measure(reader.frames(), reader.facts.frames)
        np.savez(kept, thumbs=signals.thumbs, colour=signals.colour)
    with np.load(kept) as arrays:
        strip = Strip(arrays["thumbs"], arrays["colour"])
    changes = [(c.kind, c.start, c.end) for c in made.cuts]
    return Edit(seed, strip, changes, features(strip.thumbs, strip.colour))


def clips(task: tuple[list[Edit], int, int]) -> tuple[np.ndarray, np.ndarray]:
    """Figures and labels of clips put together from edits."""
    edits, count, seed = task
    rng = np.random.default_rng(seed)
    shots = [s for e in edits for s in shots_of(e.strip, e.changes)]
    made = [composed(rng, shots) for _ in range(count)]
    return (
        np.stack([features(s.thumbs, s.colour) for s, _ in made]).astype(np.float16),
        np.stack([said for _, said in made]).astype(np.float16),
    )


def fit(edits: list[Edit], composites: tuple[np.ndarray, np.ndarray], seed: int) -> Network:
    """A network fitted with AdamW on clips and parts of edits, half and half."""
    rng = np.random.default_rng(seed)
    torch.manual_seed(seed)
    known = np.concatenate([e.features for e in edits])
    network = Network(known.mean(axis=0), known.std(axis=0) + 1e-3)
    truths = [labels(e.changes, len(e.strip)) for e in edits]
    optimizer = torch.optim.AdamW(network.parameters(), 1e-3, weight_decay=0.03)
    schedule = torch.optim.lr_scheduler.OneCycleLR(optimizer, 4e-3, total_steps=STEPS, pct_start=0.1)
    heavy, rare = (
        torch.tensor(v)[None, None] for v in ([3.0, 1, 1, 1, 0.5, 0.5, 0.5], [2.0, 1, 2, 2, 1, 1, 1])
    )  # how much each output and how much its rarer answer counts
    for step in range(STEPS):
        given, wanted = _batch(rng, edits, truths, composites)
        said = network(given + torch.randn_like(given) * network.scale * 0.05)
        loss = nn.functional.binary_cross_entropy_with_logits(said, wanted, reduction="none", pos_weight=rare)
        loss = (loss * heavy)[:, 8:-8].mean()
        optimizer.zero_grad()
        loss.backward()
        nn.utils.clip_grad_norm_(network.parameters(), 1.0)
        optimizer.step()
        schedule.step()
        if step % 200 == 0:
            print(f"network {seed}, step {step} of {STEPS}: {loss.item():.4f}", flush=True)
    return network.eval()


def _batch(
    rng: np.random.Generator, edits: list[Edit], truths: list[np.ndarray], composites: tuple[np.ndarray, np.ndarray]
) -> tuple[torch.Tensor, torch.Tensor]:
    chosen = rng.integers(0, len(composites[0]), BATCH[0])
    given, wanted = [[*part[chosen].astype(np.float32)] for part in composites]
    for _ in range(BATCH[1]):
        k = int(rng.integers(len(edits)))
        first = int(rng.integers(0, len(truths[k]) - LENGTH + 1))
        given.append(edits[k].features[first : first + LENGTH])
        wanted.append(truths[k][first : first + LENGTH])
    return torch.from_numpy(np.stack(given)), torch.from_numpy(np.stack(wanted))


def overlap(a: tuple[int, int], b: tuple[int, int]) -> float:
    """Intersection over union of two spans of frames."""
    return max(0, min(a[1], b[1]) - max(a[0], b[0])) / max(1, max(a[1], b[1]) - min(a[0], b[0]))


def weighed(network: Network, edits: list[Edit]) -> dict[Kind, Weighed]:
    """What a network says of edits that it has not seen."""
    found: dict[Kind, Weighed] = {"cut": Weighed(), "mix": Weighed()}
    for each in edits:
        with torch.no_grad():
            said = torch.sigmoid(network(torch.from_numpy(each.features)[None]))[0].numpy()
        both = {"cut": hard_candidates(said), "mix": mix_candidates(said)}
        for kind, candidates in both.items():
            found[kind].candidates += [(c.score, _right(c, each.changes)) for c in _best(candidates)]
        for what, start, end in each.changes:
            kind: Kind = "cut" if what == "cut" else "mix"
            near = (c.score for c in both[kind] if c.start <= max(end, start) + 2 and start - 2 <= c.end)
            found[kind].changes.append(max(near, default=0.0))
    return found


def _best(candidates: list[Candidate]) -> list[Candidate]:
    taken: list[Candidate] = []
    for candidate in sorted(candidates, key=lambda c: -c.score):
        if not any(o.start < candidate.end + 3 and candidate.start < o.end + 3 for o in taken):
            taken.append(candidate)
    return taken


def _right(candidate: Candidate, changes: list[Change]) -> bool:
    if candidate.kind == "cut":
        return ("cut", candidate.start, candidate.start) in changes
    return any(
        kind != "cut" and overlap((candidate.start, candidate.end), (start, end)) >= 0.6 for kind, start, end in changes
    )


def levels(found: Weighed) -> Levels:
    """Where accepting makes the most of right, false and missed ones together (F1), and what lies around it."""
    score, right = (np.array(column) for column in zip(*found.candidates, strict=True))
    tried = np.linspace(0.2, 0.9, 71)
    merit = np.array([2 * (right & (score > t)).sum() / (right.sum() + (score > t).sum()) for t in tried])
    accept = float(tried[merit >= merit.max() - 0.001].mean())
    sure = float(np.quantile(score[(score > accept) & right], FLAGGED))
    missed = np.array([s for s in found.changes if s <= accept] or [accept])
    perhaps = float(np.clip(np.quantile(missed, 1 - ASKED), FAINTEST * accept, PLAIN * accept))
    print(
        f"accept from {accept:.2f} (F1 of candidates {merit.max():.4f}), sure from {sure:.4f}, look from {perhaps:.3f}"
    )
    return Levels(perhaps, accept, max(sure, accept + 0.01))


def write(networks: list[Network], said: dict[Kind, Levels]) -> None:
    arrays: dict[str, np.ndarray] = {
        "networks": np.array(len(networks)), "mean": networks[0].mean.numpy(), "scale": networks[0].scale.numpy(),
        **{kind: np.array([v.perhaps, v.accept, v.sure]) for kind, v in said.items()},
    }  # fmt: skip
    for k, network in enumerate(networks):
        for n, layer in enumerate([network.first, *network.middle, network.last]):
            arrays[f"{k}.{n}.w"] = layer.weight.detach().numpy().transpose(2, 1, 0).astype(np.float16)
            arrays[f"{k}.{n}.b"] = layer.bias.detach().numpy().astype(np.float16)
    np.savez_compressed(WEIGHTS, **arrays)  # type: ignore[arg-type]


def main() -> None:
    folder, count = Path(sys.argv[1]), int(sys.argv[2]) if len(sys.argv) > 2 else 180
    folder.mkdir(parents=True, exist_ok=True)
    kept = folder / f"clips-{count}-{CLIPS}.npz"
    with multiprocessing.Pool() as pool:
        edits = pool.map(edit, [(folder, seed) for seed in range(count)], chunksize=4)
        halves = [[e for e in edits if e.seed % 2 == half] for half in (0, 1)]
        if not kept.exists():
            made = pool.map(clips, [(halves[k % 2], CLIPS // 8, k) for k in range(8)], chunksize=1)
            given, wanted = (
                np.stack([np.concatenate([m[part] for m in made[h::2]]) for h in (0, 1)]) for part in (0, 1)
            )
            np.savez(kept, given=given, wanted=wanted)
    with np.load(kept) as arrays:
        given, wanted = arrays["given"], arrays["wanted"]  # (half, clip, frame, …)
    unseen = [weighed(fit(halves[h], (given[h], wanted[h]), h), halves[1 - h]) for h in (0, 1)]
    both = np.concatenate(given), np.concatenate(wanted)
    networks = [fit(edits, both, seed) for seed in (10, 11, 12)]
    kinds: tuple[Kind, ...] = ("cut", "mix")
    joined = {
        kind: Weighed([c for u in unseen for c in u[kind].candidates], [c for u in unseen for c in u[kind].changes])
        for kind in kinds
    }
    write(networks, {kind: levels(found) for kind, found in joined.items()})


if __name__ == "__main__":
    main()
