"""Commands killed at random moments: the project before or after, whole; nothing half-made; leftovers gone afterwards.

    python -m benchmarks.kills [COUNT [FIRST SEED]]

Planning, taking returns and captions in, handing out and making are killed by
turns, and once in a while saving while another program takes in.
"""

from __future__ import annotations

import os
import random
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from collections import Counter
from pathlib import Path

from ezvar.core.errors import EzvarError
from ezvar.core.media import probe
from ezvar.core.store import load_project

from .fuzz.seeds import make_seeds

COMMANDS = {
    "plan": ("plan", "a.mp4", "--master", "9:16=72x128", "-o", "plain.ezvar", "--replace"),
    "take": ("take", "plain.ezvar", "back.json"),
    "captions": ("captions", "plain.ezvar", "--take", "c.srt"),
    "handoff": ("handoff", "plain.ezvar", "-o", "out"),
    "make": ("make", "whole.ezvar", "-o", "made"),
}
_OLD = 300  # seconds that leftovers are made older by, so that the next run takes them for such


def length_of(words: tuple[str, ...], folder: Path) -> float:
    """How long a command takes where nobody kills it."""
    begun = time.monotonic()
    subprocess.run([sys.executable, "-m", "ezvar", *words], cwd=folder, check=False, capture_output=True)
    return time.monotonic() - begun


def killed(words: tuple[str, ...], folder: Path, after: float) -> bool:
    """Kill a command and all that it began; whether it was still at work."""
    with subprocess.Popen(
        [sys.executable, "-m", "ezvar", *words], cwd=folder, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        start_new_session=True,
    ) as under_way:  # fmt: skip
        try:
            under_way.wait(after)
        except subprocess.TimeoutExpired:
            os.killpg(under_way.pid, signal.SIGKILL)
            return True
    return False


def wrong_after(folder: Path, words: tuple[str, ...]) -> str:
    """What is wrong in a folder after a kill; empty where nothing is."""
    try:
        for name in ("plain.ezvar", "whole.ezvar"):
            load_project(folder / name)
        for movie in (folder / "made").glob("*.mp4"):
            if probe(movie).frames != probe(folder / "a.mp4").frames:
                return f"{movie.name} is not whole"
    except EzvarError as error:
        return str(error)
    for file in folder.rglob("*.part"):
        os.utime(file, (time.time() - _OLD,) * 2)
    done = subprocess.run(
        [sys.executable, "-m", "ezvar", *words], cwd=folder, capture_output=True, text=True, check=False
    )
    if done.returncode not in (0, 1):
        return f"the next run says: {done.stderr.strip()}"
    left = [file.name for file in folder.rglob("*") if file.name.endswith((".part", ".parts", ".lock"))]
    return f"left behind: {', '.join(left)}" if left else ""


def main() -> None:
    count, first = (int(sys.argv[k]) if len(sys.argv) > k else usual for k, usual in ((1, 100), (2, 1)))
    counts: Counter[str] = Counter()
    with tempfile.TemporaryDirectory() as temp:
        os.environ.update(EZVAR_CACHE=f"{temp}/cache", EZVAR_CONFIG=f"{temp}/config")
        seeds, folder = Path(temp) / "seeds", Path(temp) / "case"
        seeds.mkdir()
        make_seeds(seeds)
        shutil.copytree(seeds, folder)
        takes = {name: length_of(words, folder) for name, words in COMMANDS.items()}
        for seed in range(first, first + count):
            rng = random.Random(seed)
            name = list(COMMANDS)[seed % len(COMMANDS)]
            shutil.rmtree(folder)
            shutil.copytree(seeds, folder)
            if killed(COMMANDS[name], folder, rng.uniform(0.2, takes[name])):
                counts["killed at work"] += 1
            if wrong := wrong_after(folder, COMMANDS[name]):
                counts["wrong"] += 1
                print(f"{seed} {name}: {wrong}", flush=True)
    print(f"{count} kills, {counts['killed at work']} at work, {counts['wrong']} wrong")


if __name__ == "__main__":
    main()
