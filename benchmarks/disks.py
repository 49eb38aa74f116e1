"""Disks that are full, only read, or go away in the middle; media that are deleted or cut short while they are used.

    python -m benchmarks.disks [ROUNDS [FIRST SEED [COMMAND ...]]]

Every command, or those that are named, in a small file system of its own, in a name space of its own, so
that nobody needs to be root. It ends in a sentence, or well; what was there
stands, whole; nothing half-made has a final name, no part is left.
"""

from __future__ import annotations

import gc
import os
import random
import shutil
import subprocess
import sys
import tempfile
import threading
import time
from collections import Counter
from collections.abc import Callable
from pathlib import Path

from ezvar.core.errors import EzvarError
from ezvar.core.media import probe
from ezvar.core.store import load_project

from .fuzz.cases import Ended, run_forked
from .fuzz.seeds import FRAMES, make_seeds_apart

APART = ("unshare", "--user", "--map-root-user", "--mount")
_SIZE = 4 << 20  # bytes of the small file system
_FREE = (0, 4096, 12_288, 40_960, 200_000)  # that are left where it is full
WRITING = (
    ("plan", "a.mp4", "--master", "9:16=72x128", "-o", "small/new.ezvar"),
    ("take", "small/plain.ezvar", "back.json"),
    ("captions", "small/plain.ezvar", "--take", "c.srt"),
    ("captions", "small/whole.ezvar", "--give", "srt", "-o", "small/given"),
    ("colours", "small/plain.ezvar", "--table", "t.cube"),
    ("handoff", "small/plain.ezvar", "-o", "small/out"),
    ("make", "small/whole.ezvar", "-o", "small/made"),
    ("still", "small/plain.ezvar", "--master", "9:16", "--at", "3", "-o", "small/s.png"),
    ("still", "small/plain.ezvar", "--master", "9:16", "-o", "small/sheet.png"),
)
READING = (
    ("check", "small/whole.ezvar"),
    ("doubts", "small/plain.ezvar"),
    ("windows", "small/plain.ezvar", "--master", "9:16"),
)


def can_mount() -> bool:
    """Whether this machine lets us have file systems of our own."""
    if shutil.which("unshare") is None or shutil.which("mount") is None:
        return False
    tried = (*APART, "mount", "-t", "tmpfs", "tmpfs", tempfile.gettempdir())  # seen by nobody else
    return not subprocess.run(tried, check=False, stderr=subprocess.DEVNULL).returncode


def mounted(folder: Path) -> Path:
    """The small file system, with the projects on it."""
    small = folder / "small"
    small.mkdir()
    subprocess.run(["mount", "-t", "tmpfs", "-o", f"size={_SIZE}", "tmpfs", small], check=True)
    for name in ("plain.ezvar", "whole.ezvar"):
        shutil.copy(folder / name, small)
    for name in ("a.mp4", "paper.png", "own.ttf"):
        (small / name).symlink_to(folder / name)
    return small


def fill(small: Path, free: int) -> None:
    """Leave so many bytes free."""
    left = os.statvfs(small)
    with (small / "ballast").open("wb") as file:
        file.write(b"x" * max(0, left.f_bavail * left.f_frsize - free))


def wrong_after(folder: Path, ended: Ended, statuses: tuple[int, ...]) -> str:
    """What is wrong once a command has ended; empty where nothing is."""
    if wrong := ended.wrong():
        return wrong
    if ended.status not in statuses:
        return f"exit status {ended.status}: {ended.said.strip()}"
    small = folder / "small"
    try:
        for project in small.glob("*.ezvar"):
            load_project(project)
        for movie in small.glob("made/*.mp4"):
            if probe(movie).frames != FRAMES:
                return f"{movie.name} is not whole"
    except EzvarError as error:
        return str(error)
    parts = [file.name for file in folder.rglob("*.part")]
    return f"left behind: {', '.join(parts)}" if parts else ""


def full(folder: Path, command: tuple[str, ...], rng: random.Random) -> str:
    fill(mounted(folder), rng.choice(_FREE))
    return wrong_after(folder, run_forked(list(command), folder), (0, 1, 2))


def full_cache(folder: Path, command: tuple[str, ...], _: random.Random) -> str:
    """What the program keeps for itself has no room: everything is done all the same."""
    kept = folder / "kept"
    kept.mkdir()
    mounted(folder)
    subprocess.run(["mount", "-t", "tmpfs", "-o", "size=4096", "tmpfs", kept], check=True)
    fill(kept, 0)
    os.environ["EZVAR_CACHE"] = str(kept)
    return wrong_after(folder, run_forked(list(command), folder), (0, 1))


def only_read(folder: Path, command: tuple[str, ...], _: random.Random) -> str:
    subprocess.run(["mount", "-o", "remount,ro", mounted(folder)], check=True)
    return wrong_after(folder, run_forked(list(command), folder), (0, 1) if command in READING else (2,))


def meanwhile(folder: Path, command: tuple[str, ...], rng: random.Random, happens: Callable[[], object]) -> str:
    """What is wrong after a command in the middle of which something happens."""
    small = mounted(folder)
    later = threading.Timer(rng.uniform(0.02, 1.0), happens)
    child = os.fork()  # before there is a thread
    if not child:
        ended = run_forked(list(command), folder)
        (folder / "ended.txt").write_text(f"{ended.status}\n{ended.seconds}\n{ended.said}")
        os._exit(0)
    later.start()
    os.waitpid(child, 0)
    later.cancel()
    later.join()
    status, seconds, *said = (folder / "ended.txt").read_text().split("\n")
    if not (small / "plain.ezvar").exists():  # it has gone away
        return Ended(int(status), float(seconds), "\n".join(said)).wrong()
    return wrong_after(folder, Ended(int(status), float(seconds), "\n".join(said)), (0, 1, 2))


def gone(folder: Path, command: tuple[str, ...], rng: random.Random) -> str:
    return meanwhile(folder, command, rng, lambda: subprocess.run(["umount", "--lazy", folder / "small"], check=False))


def deleted(folder: Path, command: tuple[str, ...], rng: random.Random) -> str:
    return meanwhile(folder, command, rng, lambda: (folder / "a.mp4").unlink())


def cut_short(folder: Path, command: tuple[str, ...], rng: random.Random) -> str:
    return meanwhile(folder, command, rng, lambda: os.truncate(folder / "a.mp4", rng.randrange(60_000)))


HAPPEN = {
    "full": (full, WRITING), "full for what is kept": (full_cache, WRITING + READING),
    "only read": (only_read, WRITING + READING), "gone in the middle": (gone, WRITING + READING),
    "media deleted": (deleted, WRITING), "media cut short": (cut_short, WRITING),
}  # fmt: skip


def rounds(count: int = 3, first: int = 1, *named: str) -> int:
    """Every command, or those that are named, with everything that happens, so many times over; how many went
    wrong."""
    counts: dict[str, Counter[str]] = {name: Counter() for name in HAPPEN}
    with tempfile.TemporaryDirectory() as temp:
        os.environ["EZVAR_CONFIG"] = f"{temp}/config"
        seeds, folder = Path(temp) / "seeds", Path(temp) / "case"
        make_seeds_apart(seeds)
        gc.freeze()
        for seed in range(first, first + count):
            for name, (happens, commands) in HAPPEN.items():
                for command in (each for each in commands if not named or each[0] in named):
                    shutil.copytree(seeds, folder)
                    os.environ["EZVAR_CACHE"] = str(folder / "cache")
                    wrong = happens(folder, command, random.Random(f"{seed} {name} {command}"))
                    counts[name]["wrong" if wrong else "right"] += 1
                    if wrong:
                        print(f"{seed} {name}, {' '.join(command)}: {wrong}", flush=True)
                    for each in ("small", "kept"):
                        subprocess.run(["umount", "--lazy", folder / each], check=False, stderr=subprocess.DEVNULL)
                    shutil.rmtree(folder)
    for name, how in counts.items():
        print(f"{name:24}{how['right']:5} right {how['wrong']:5} wrong")
    return sum(how["wrong"] for how in counts.values())


def main() -> int:
    if os.environ.get("EZVAR_APART") != "yes":
        if not can_mount():
            print("no file systems of our own can be mounted here")
            return 0
        os.environ["EZVAR_APART"] = "yes"
        return subprocess.run([*APART, sys.executable, "-m", "benchmarks.disks", *sys.argv[1:]], check=False).returncode
    begun = time.monotonic()
    wrong = rounds(*(int(word) for word in sys.argv[1:3]), *sys.argv[3:])
    print(f"{time.monotonic() - begun:.0f} s, {wrong} wrong")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
