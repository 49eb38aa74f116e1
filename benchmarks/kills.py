"""Commands killed at random moments: the project before or after, whole; nothing half-made; leftovers gone afterwards.

    python -m benchmarks.kills [COUNT [FIRST SEED]]

Planning, taking returns and captions in, handing out, making, and editing with
a journal and savings are killed by turns. Of edits at most the last second may
be gone, of what was saved nothing.
"""

from __future__ import annotations

import gc
import os
import random
import shutil
import sys
import tempfile
import time
from collections import Counter
from pathlib import Path

from ezvar.core.errors import EzvarError
from ezvar.core.media import probe
from ezvar.core.store import load_project

from .editing import edit, newest
from .fuzz.cases import forked, run_forked, waited
from .fuzz.seeds import make_seeds_apart

COMMANDS = {
    "plan": ("plan", "a.mp4", "--master", "9:16=72x128", "-o", "new.ezvar", "--replace"),
    "take": ("take", "plain.ezvar", "back.json"),
    "captions": ("captions", "plain.ezvar", "--take", "c.srt"),
    "handoff": ("handoff", "plain.ezvar", "-o", "out"),
    "make": ("make", "whole.ezvar", "-o", "made"),
}
_KINDS = (*COMMANDS, "edit")
_SECOND, _SLACK = 1.0, 0.3  # of edits that may be gone, and what this machine's load adds
_LEAST, _LONGEST = 0.1, 3.0  # seconds until editing is killed
_OLD = 300  # seconds that leftovers are made older by, so that the next run takes them for such


def length_of(words: tuple[str, ...], folder: Path) -> float:
    """How long a command takes where nobody kills it."""
    begun = time.monotonic()
    waited(forked(list(words), folder), 60)
    return time.monotonic() - begun


def make_old(folder: Path) -> None:
    """Have what a killed command left behind look as if it were from long ago."""
    for file in (*folder.rglob("*.part"), *folder.rglob("*.lock")):
        os.utime(file, (time.time() - _OLD,) * 2)


def lost_by_killing(folder: Path, after: float) -> str:
    """Edit, save, be killed: what is lost beyond the last second; empty where nothing is."""
    told = folder / "edited.txt"
    child = os.fork()
    if not child:
        with told.open("w") as out:
            edit(folder / "plain.ezvar", folder / "kept", out)
        os._exit(0)
    waited(child, after)
    at = time.monotonic()
    steps = [line.split() for line in told.read_text().splitlines(True) if line.endswith("\n")]
    due = max(
        (int(count) for what, count, when in steps if what == "saved" or float(when) < at - _SECOND - _SLACK), default=0
    )
    make_old(folder)
    there = newest(folder / "plain.ezvar", folder / "kept")
    return f"{there} of {due} edits are there" if there < due else ""


def wrong_after(folder: Path, words: tuple[str, ...]) -> str:
    """What is wrong in a folder after a kill; empty where nothing is."""
    try:
        for project in folder.glob("new.ezvar"):
            load_project(project)
        for name in ("plain.ezvar", "whole.ezvar"):
            load_project(folder / name)
        for movie in (folder / "made").glob("*.mp4"):
            if probe(movie).frames != probe(folder / "a.mp4").frames:
                return f"{movie.name} is not whole"
    except EzvarError as error:
        return str(error)
    make_old(folder)
    ended = run_forked(list(words), folder)
    if ended.wrong() or ended.status == 2:
        return f"the next run says: {ended.said.strip()}"
    left = [file.name for file in folder.rglob("*") if file.name.endswith((".part", ".parts", ".lock"))]
    return f"left behind: {', '.join(left)}" if left else ""


def main() -> None:
    count, first = (int(sys.argv[k]) if len(sys.argv) > k else usual for k, usual in ((1, 100), (2, 1)))
    counts: Counter[str] = Counter()
    with tempfile.TemporaryDirectory() as temp:
        seeds, folder = Path(temp) / "seeds", Path(temp) / "case"
        os.environ.update(EZVAR_CACHE=str(folder / "cache"), EZVAR_CONFIG=str(folder / "config"))
        make_seeds_apart(seeds)
        gc.freeze()
        shutil.copytree(seeds, folder)
        takes = {name: length_of(words, folder) for name, words in COMMANDS.items()}
        for seed in range(first, first + count):
            rng = random.Random(seed)
            name = _KINDS[seed % len(_KINDS)]
            shutil.rmtree(folder)
            shutil.copytree(seeds, folder)
            wrong = ""
            if name == "edit":
                wrong = lost_by_killing(folder, rng.uniform(_LEAST, _LONGEST))
                counts["killed at work"] += 1
            elif waited(forked(list(COMMANDS[name]), folder), rng.uniform(0.02, takes[name])) is None:
                counts["killed at work"] += 1
            if wrong := wrong or wrong_after(folder, COMMANDS.get(name, COMMANDS["captions"])):
                counts["wrong"] += 1
                print(f"{seed} {name}: {wrong}", flush=True)
    print(f"{count} kills, {counts['killed at work']} at work, {counts['wrong']} wrong")


if __name__ == "__main__":
    main()
