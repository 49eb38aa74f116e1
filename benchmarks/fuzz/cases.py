"""One case: a damaged file among good ones, the commands that read it, and what is wrong with how they end."""

from __future__ import annotations

import contextlib
import os
import random
import resource
import shutil
import signal
import sys
import time
from dataclasses import dataclass
from pathlib import Path

import scipy.ndimage  # noqa: F401 what commands load late is there before a child is begun

import ezvar.core.output
import ezvar.core.planning
import ezvar.core.problems
import ezvar.core.review
import ezvar.core.text  # noqa: F401

from .kinds import KINDS, Kind

LONGEST = 20.0
"""Seconds that a command may take."""
SAID = "said.txt"
"""The file of a folder with what a command said on standard error."""


@dataclass(frozen=True)
class Case:
    """A seed, and what it stands for."""

    seed: int
    kind: Kind
    data: bytes
    how: str
    local: bool

    def put(self, seeds: Path, folder: Path) -> Path:
        """The good files in a folder, one of them damaged: that one."""
        shutil.copytree(seeds, folder)
        file = folder / self.kind.file
        file.write_bytes(self.data)
        return file

    def words(self, command: tuple[str, ...]) -> list[str]:
        return [word.replace("{file}", self.kind.file) for word in command]


def case_of(seed: int, seeds: Path) -> Case:
    """The case of a seed: the same each time."""
    rng = random.Random(seed)
    kind = KINDS[seed % len(KINDS)]
    data = (seeds / kind.file).read_bytes()
    local = kind.local is not None and rng.random() < 0.4
    mutation = kind.local if local and kind.local is not None else rng.choice(kind.mutations)
    return Case(seed, kind, mutation(data, rng), mutation.__name__.strip("_"), local)


@dataclass(frozen=True)
class Ended:
    """How a command ended: its exit status, below 0 a signal; seconds; what it said on standard error."""

    status: int
    seconds: float
    said: str

    def wrong(self) -> str:
        """What is wrong with it; empty where nothing is."""
        lines = self.said.strip().splitlines()
        if self.status < 0:
            return f"killed by {signal.Signals(-self.status).name}"
        if self.seconds > LONGEST:
            return "took too long"
        if "Traceback" in self.said or "made a mistake" in self.said:
            return next(line for line in lines if "mistake" in line or "Traceback" in line)[:200]
        if self.status not in (0, 1, 2):
            return f"exit status {self.status}"
        if self.status == 2 and (len(lines) != 1 or not lines[0].startswith("ezvar: ")):
            return f"said {len(lines)} lines: {self.said[:200]!r}"
        return ""


def run_forked(words: list[str], folder: Path) -> Ended:
    """Run a command in a child of this process, which has everything loaded and no threads."""
    begun, child = time.monotonic(), forked(words, folder)
    status = waited(child, LONGEST + 1)
    return Ended(status or 0, time.monotonic() - begun, (folder / SAID).read_text(errors="replace"))


def forked(words: list[str], folder: Path) -> int:
    """Begin a command in such a child, in a group of its own; its number. A file of the folder takes what it says."""
    child = os.fork()
    if not child:
        _be_the_command(words, folder)
    return child


def waited(child: int, seconds: float) -> int | None:
    """The exit status of a child, below 0 a signal; `None` where it took longer and was killed, with all it began."""
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        found, code = os.waitpid(child, os.WNOHANG)
        if found:
            return os.waitstatus_to_exitcode(code)
        time.sleep(0.005)
    with contextlib.suppress(ProcessLookupError):  # it has no group of its own yet
        os.killpg(child, signal.SIGKILL)
    with contextlib.suppress(ProcessLookupError):
        os.kill(child, signal.SIGKILL)
    os.waitpid(child, 0)
    return None


def _be_the_command(words: list[str], folder: Path) -> None:
    os.setsid()
    os.chdir(folder)
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    nowhere, errors = os.open(os.devnull, os.O_RDWR), os.open(SAID, os.O_WRONLY | os.O_CREAT | os.O_TRUNC)
    for stream, where in ((0, nowhere), (1, nowhere), (2, errors)):
        os.dup2(where, stream)
    sys.stdin, sys.stdout, sys.stderr = (os.fdopen(k, "rw"[k > 0]) for k in range(3))
    status = 70
    try:
        from ezvar.cli import main

        status = main(words)
    except SystemExit as ended:
        status = ended.code if isinstance(ended.code, int) else 70
    finally:
        sys.stdout.flush()
        sys.stderr.flush()
        os._exit(status)
