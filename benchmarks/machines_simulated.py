"""How far more machines carry, on paper: a list of errands with measured times, given to so many workers.

What is in it: errands go out one after the other, each after a part of a second of this program and the scheduler; a
worker takes the measured time for one; all reading and writing shares one disk; what is done here at the end (framing,
joining) follows, and then the checks, each of a whole movie by one worker. What is not: machines that die, networks
that are busy, disks that slow down when many read.

Run as ``python -m benchmarks.machines_simulated [DISK_MB_A_SECOND]``.
"""

from __future__ import annotations

import heapq
import math
import sys
from dataclasses import dataclass

THREADS = 4
"""Workers of one machine."""


@dataclass(frozen=True)
class Work:
    """A job: errands of so many seconds each, of a worker; megabytes that each reads and writes; the seconds that
    follow on this machine; and how many movies are checked after that, for how many seconds each."""

    name: str
    errands: int
    seconds: float
    megabytes: float
    here: float
    movies: int = 0
    check: float = 0.0


@dataclass(frozen=True)
class Costs:
    """What one errand costs this program and the scheduler, in seconds, and what the shared disk gives, in MB a
    second."""

    journey: float
    disk: float


def takes(work: Work, workers: int, costs: Costs) -> tuple[float, str]:
    """How long a job takes with so many workers, and what bounds it."""
    free = [0.0] * min(workers, work.errands)
    heapq.heapify(free)
    sent = 0.0
    for _ in range(work.errands):
        begun = max(sent, heapq.heappop(free))
        sent = begun + costs.journey if begun > sent else sent + costs.journey
        heapq.heappush(free, begun + work.seconds)
    worked, read = max(free), work.errands * work.megabytes / costs.disk
    parts = {"the work itself": worked, "the shared disk": read}
    if work.errands * costs.journey > 0.9 * worked:
        parts["handing out"] = worked
    bound = max(parts, key=lambda name: parts[name])
    if work.errands <= workers and bound == "the work itself":
        parts["one errand's length"] = parts.pop(bound)
    parts["what is done here"] = work.here
    parts["checking a movie, by one worker"] = checked = math.ceil(work.movies / workers) * work.check
    return max(worked, read) + work.here + checked, max(parts, key=lambda name: parts[name])


def table(jobs: list[Work], costs: Costs) -> list[str]:
    """A line for each job and number of machines."""
    lines = ["| job | 1 | 10 | 100 | 1,000 machines | where it ends |", "|---|---|---|---|---|---|"]
    for work in jobs:
        found = [takes(work, machines * THREADS, costs) for machines in (1, 10, 100, 1000)]
        times = (f"{seconds / 60:.0f} min" if seconds > 90 else f"{seconds:.0f} s" for seconds, _ in found)
        lines.append(f"| {work.name} | {' | '.join(times)} | {found[-1][1]} |")
    return lines


def main() -> None:
    disk = float(sys.argv[1]) if len(sys.argv) > 1 else 1000.0
    print("\n".join(table(JOBS, Costs(JOURNEY, disk))))


JOURNEY = 0.014
"""Measured: what this program (6 ms) and the scheduler (8 ms) themselves work on an errand."""
JOBS = [
    # 300 pictures in HD, 6.3 s of a worker that has one processor; 12 s of a mezzanine of 184 Mbit a second; framing
    # 936 shots in three masters takes 300 s here
    Work("reading a feature of 100 min", 500, 6.3, 276, 500),
    Work("reading 40 episodes of 25 min", 5000, 6.3, 276, 5000),
    # 320 pictures of a master in HD, 35 s of such a worker; joining takes 0.6 ms a picture here, while the sound, which
    # takes as long, is ready before; a check takes 25 s a minute
    Work("a master of the feature", 450, 35, 315, 85, 1, 2500),
    Work("a master of the episodes", 4500, 35, 315, 850, 40, 625),
]

if __name__ == "__main__":
    main()
