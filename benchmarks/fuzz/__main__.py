"""Thousands of damaged and hostile files through the real command line.

    python -m benchmarks.fuzz [COUNT [FIRST SEED]]

Prints what went wrong, and a table of kinds: how many were taken, taken with
problems, refused in a sentence; the slowest. Each failing file is made as
small as it still fails, and kept in the folder ``fuzz-failures``.
"""

from __future__ import annotations

import gc
import os
import shutil
import subprocess
import sys
import tempfile
import time
from collections import Counter, defaultdict
from pathlib import Path

from .cases import Case, Ended, case_of, run_forked
from .kinds import KINDS
from .seeds import make_seeds_apart

WORKERS = 2
KEPT = Path("fuzz-failures")


def tried(case: Case, seeds: Path, folder: Path) -> tuple[str, list[Ended]]:
    """What is wrong with a case, empty where nothing is, and how its commands ended."""
    case.put(seeds, folder)
    ends = []
    try:
        for command in case.kind.commands:
            os.environ["EZVAR_CONFIG"] = str(folder)
            ends.append(run_forked(case.words(command), folder))
            if wrong := ends[-1].wrong():
                return f"{' '.join(case.words(command))}: {wrong}", ends
        if case.local and case.kind.good is not None and (good := case.kind.good(folder)) < case.kind.whole - 1:
            return f"one of {case.kind.whole} was damaged, {good} came in", ends
        return "", ends
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def smaller(case: Case, seeds: Path, folder: Path, seconds: float = 60.0) -> Case:
    """The case with as much of its file taken out as can be while it still goes wrong."""
    until, step = time.monotonic() + seconds, max(1, len(case.data) // 2)
    while step >= 1 and time.monotonic() < until:
        at, found = 0, False
        while at < len(case.data) and time.monotonic() < until:
            less = Case(case.seed, case.kind, case.data[:at] + case.data[at + step :], case.how, False)
            if tried(less, seeds, folder)[0]:
                case, found = less, True
            else:
                at += step
        if not found:
            step //= 2
    return case


def work(seeds: Path, temp: Path, first: int, count: int, part: int) -> int:
    """Every other case; prints a line for each that goes wrong and, at the end, what the parent counts."""
    counts: dict[str, Counter[str]] = defaultdict(Counter)
    slowest = (0.0, 0)
    for seed in range(first + part, first + count, WORKERS):
        case, folder = case_of(seed, seeds), temp / f"case-{part}"
        wrong, ends = tried(case, seeds, folder)
        slowest = max([slowest, *((each.seconds, seed) for each in ends)])
        if wrong:
            counts[case.kind.name]["wrong"] += 1
            print(f"{seed} {case.kind.name}, {case.how}: {wrong}", flush=True)
            KEPT.mkdir(exist_ok=True)
            (KEPT / f"{seed}-{case.kind.file}").write_bytes(smaller(case, seeds, folder).data)
        else:
            counts[case.kind.name][["taken", "listed", "refused"][max(each.status for each in ends)]] += 1
    for name, each in counts.items():
        print("=", name, *(each[how] for how in ("taken", "listed", "refused", "wrong")), sep="\t")
    print("=", "slowest", *slowest, sep="\t")
    return 0


def main() -> int:
    words = sys.argv[1:]
    if words[:1] == ["--part"]:
        gc.freeze()
        return work(Path(words[1]), Path(words[2]), *(int(n) for n in words[3:6]))
    count, first = (int(words[k]) if len(words) > k else usual for k, usual in enumerate((2000, 1)))
    begun = time.monotonic()
    with tempfile.TemporaryDirectory() as temp:
        os.environ.update(EZVAR_CACHE=f"{temp}/cache", EZVAR_CONFIG=f"{temp}/config")
        seeds = Path(temp) / "seeds"
        make_seeds_apart(seeds)
        parts = [
            subprocess.Popen(
                [sys.executable, "-m", "benchmarks.fuzz", "--part", seeds, temp, str(first), str(count), str(k)],
                stdout=subprocess.PIPE, text=True,
            )
            for k in range(WORKERS)
        ]  # fmt: skip
        totals: dict[str, list[int]] = {kind.name: [0, 0, 0, 0] for kind in KINDS}
        slowest, wrong = (0.0, 0), 0
        for part in parts:
            assert part.stdout is not None
            for line in part.stdout:
                if not line.startswith("=\t"):
                    print(line, end="", flush=True)
                    continue
                _, name, *figures = line.split("\t")
                if name == "slowest":
                    slowest = max(slowest, (float(figures[0]), int(figures[1])))
                else:
                    totals[name] = [a + int(b) for a, b in zip(totals[name], figures, strict=True)]
            if part.wait():
                print(f"a worker ended with {part.returncode}")
                wrong += 1
    print(f"{'kind':20} {'taken':>6} {'listed':>7} {'refused':>8} {'wrong':>6}")
    for name, figures in totals.items():
        print(f"{name:20} {figures[0]:6} {figures[1]:7} {figures[2]:8} {figures[3]:6}")
    wrong += sum(figures[3] for figures in totals.values())
    took = time.monotonic() - begun
    print(f"{count} cases from seed {first} in {took:.0f} s, {wrong} wrong")
    print(f"the slowest command took {slowest[0]:.1f} s (seed {slowest[1]})")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
