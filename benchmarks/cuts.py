"""How well cuts are found: a table of right, false and missed ones on generated edits.

    python -m benchmarks.cuts [FOLDER] [FIRST] [LAST] [--real FOLDER]

Seeds from 1000 on are for judging; nothing was fitted on them. A hard cut is
right on its very frame, a mix where its span overlaps the true one by 0.6 of
their union. Writes docs/CUTS.md when run on the judging seeds.
"""

from __future__ import annotations

import sys
import tempfile
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path

from ezvar.core.cuts import Signals, judge, measure
from ezvar.core.media import MovieReader
from ezvar.core.model import CUT_NEEDS_A_LOOK, Cut

from . import real
from .cut_scenes import FPS, Made, make

ROOT = Path(__file__).resolve().parent.parent
FIRST, LAST = 1000, 1090
OVERLAP = 0.6


@dataclass
class Score:
    """Counts over many edits; ``owned`` mistakes are among what the editor is asked about."""

    right: Counter[str] = field(default_factory=Counter)
    false: Counter[str] = field(default_factory=Counter)
    missed: Counter[str] = field(default_factory=Counter)
    flagged: int = 0  # right ones that are asked about
    owned: int = 0
    said: Counter[int] = field(default_factory=Counter)  # cuts taken, by tens of doubt
    wrong: Counter[int] = field(default_factory=Counter)  # those of them that are false
    frames: int = 0
    by: dict[str, list[int]] = field(default_factory=dict)  # difficulty: right, missed
    traps: Counter[str] = field(default_factory=Counter)
    fell: Counter[str] = field(default_factory=Counter)
    errors: list[str] = field(default_factory=list)

    def f1(self, *kinds: str) -> float:
        right, false, missed = (sum(c[k] for k in kinds) for c in (self.right, self.false, self.missed))
        return 2 * right / max(1, 2 * right + false + missed)

    @property
    def mistakes(self) -> int:
        return sum(self.false.values()) + sum(self.missed.values())


def overlap(cut: Cut, start: int, end: int) -> float:
    inside = min(cut.end, end) - max(cut.start, start)
    return max(0, inside) / max(1, max(cut.end, end) - min(cut.start, start))


def add(score: Score, truth: Made, signals: Signals) -> None:
    """Count what is judged of an edit against what is true."""
    judged = judge(signals)
    asked = [c for c in (*judged.cuts, *judged.passed) if c.doubt >= CUT_NEEDS_A_LOOK]
    left = list(judged.cuts)
    score.frames += truth.frames
    for true in truth.cuts:
        hard = true.kind == "cut"
        fits = (
            [c for c in left if c.kind == "cut" and c.start == true.start]
            if hard
            else [c for c in left if c.kind != "cut" and overlap(c, true.start, true.end) >= OVERLAP]
        )
        kind = "cut" if hard else "wipe" if true.kind == "wipe" else "mix"
        counts = score.by.setdefault(true.how, [0, 0])
        if fits:
            best = max(fits, key=lambda c: overlap(c, true.start, max(true.end, true.start + 1)))
            left.remove(best)
            score.right[kind] += 1
            score.said[best.doubt // 10] += 1
            score.flagged += best.doubt >= CUT_NEEDS_A_LOOK
            counts[0] += 1
        else:
            score.missed[kind] += 1
            counts[1] += 1
            near = (true.start - 2, max(true.end, true.start + 1) + 2)
            owned = any(c.start < near[1] and near[0] < max(c.end, c.start + 1) for c in asked)
            score.owned += owned
            score.errors.append(f"{truth.path.stem}: missed {true} {'asked' if owned else ''}")
    for cut in left:
        score.false["cut" if cut.kind == "cut" else "wipe" if cut.kind == "wipe" else "mix"] += 1
        score.owned += cut.doubt >= CUT_NEEDS_A_LOOK
        score.said[cut.doubt // 10] += 1
        score.wrong[cut.doubt // 10] += 1
        trap = next((t for t in truth.traps if t[1] - 2 <= cut.frame <= t[2] + 2), None)
        score.errors.append(f"{truth.path.stem}: false {cut.kind} {cut.start}-{cut.end} {trap} doubt {cut.doubt}")
    for what, start, end in truth.traps:
        score.traps[what] += 1
        score.fell[what] += any(start - 1 <= c.frame <= end + 1 for c in left)


def table(score: Score) -> str:
    """The published table."""
    minutes, cuts = score.frames / FPS / 60, sum(score.right.values()) + sum(score.missed.values())
    right, owned = sum(score.right.values()), score.owned
    lines = [
        "# How well cuts are found", "",
        f"On {minutes:.0f} minutes of generated edits with {cuts} changes of shot "
        f"(`benchmarks/cut_scenes.py`, judging seeds; `python -m benchmarks.cuts` makes this page).", "",
        "| what | right | false | missed | F1 |", "| --- | ---: | ---: | ---: | ---: |",
    ]  # fmt: skip
    for words, kinds in (
        ("hard cuts, on the very frame", ("cut",)),
        ("dissolves and fades, spans overlapping 0.6", ("mix",)),
        ("wipes, spans overlapping 0.6", ("wipe",)),
    ):
        counts = (sum(c[k] for k in kinds) for c in (score.right, score.false, score.missed))
        lines.append(f"| {words} | {' | '.join(str(c) for c in counts)} | {score.f1(*kinds):.3f} |")
    lines += [
        "", f"{owned} of {score.mistakes} mistakes are among what the editor is asked about (doubt 30 and more),",
        f"and {score.flagged} of {right} right ones.", "",
        "| doubt of what was taken | taken | wrong | |", "| --- | ---: | ---: | ---: |",
        *(f"| {10 * d} to {10 * d + 9} | {n} | {score.wrong[d]} | {100 * score.wrong[d] / n:.1f} % |"
          for d, n in sorted(score.said.items())), "",
        "| what there was | right | missed |", "| --- | ---: | ---: |",
        *(f"| {how} | {a} | {b} |" for how, (a, b) in sorted(score.by.items(), key=lambda i: -sum(i[1]))), "",
        "| what is no cut | there were | taken for one |", "| --- | ---: | ---: |",
        *(f"| {what} | {n} | {score.fell[what]} |" for what, n in score.traps.most_common()), "",
    ]  # fmt: skip
    return "\n".join(lines)


def main() -> None:
    given = real.taken(sys.argv[1:])
    first, last = (int(a) for a in given[1:3]) if len(given) > 2 else (FIRST, LAST)
    with tempfile.TemporaryDirectory() as temp:
        folder = Path(given[0]) if given else Path(temp)
        score = Score()
        for seed in range(first, last):
            truth = make(folder / f"{seed}.mp4", seed)
            with MovieReader(truth.path) as reader:
                add(score, truth, measure(reader.frames(), reader.facts.frames))
        print(table(score))
        if (first, last, given) == (FIRST, LAST, sys.argv[1:]):
            (ROOT / "docs" / "CUTS.md").write_text(table(score))


if __name__ == "__main__":
    main()
