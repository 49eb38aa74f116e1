"""The simulated receiver: takes a finished movie, slowly, and accepts it, refuses it with a reason, or breaks off.

    python -m ezvar.receiver [--inbox FOLDER] [--pace SECONDS] [--mood well|refuses|breaks|any]

It knows nothing of Ezvar but docs/RECEIVING.md. What it has of a movie it
keeps in its inbox under the movie's digest, so that sending can go on. With
mood "any", one in eight movies is refused and one in eight sendings breaks off.
"""

from __future__ import annotations

import argparse
import hashlib
import json
import random
import re
import sys
import tempfile
import time
from pathlib import Path

_BLOCK = 65_536
_REFUSES, _BREAKS = 0.125, 0.25
_TAKEN = (".mp4", ".mov", ".mkv", ".webm")
_LARGEST = 4_000_000_000


def _say(**values: object) -> None:
    print(json.dumps(values), flush=True)


def _digest(path: Path) -> str:
    found = hashlib.sha256()
    with path.open("rb") as file:
        while block := file.read(_BLOCK):
            found.update(block)
    return found.hexdigest()


def main() -> int:
    parser = argparse.ArgumentParser(prog="python -m ezvar.receiver", description="A receiver of masters that pretends")
    parser.add_argument("--inbox", default=str(Path(tempfile.gettempdir()) / "ezvar-receiver"))
    parser.add_argument("--pace", type=float, default=0.15, help="seconds it takes for each megabyte")
    parser.add_argument("--mood", choices=("well", "refuses", "breaks", "any"), default="any")
    options = parser.parse_args()
    try:
        offered = json.loads(sys.stdin.buffer.readline(_BLOCK))
        name, size, digest = str(offered["name"]), int(offered["size"]), str(offered["digest"])
        if offered["version"] != 1 or not 0 < size <= _LARGEST or not re.fullmatch("[0-9a-f]{64}", digest):
            raise ValueError("the offer is not understood")
    except (ValueError, KeyError, TypeError):
        _say(refused="the offer is not understood")
        return 1
    draw = random.random()
    mood = options.mood
    if mood == "any":
        mood = "refuses" if draw < _REFUSES else "breaks" if draw < _BREAKS else "well"
    if not name.lower().endswith(_TAKEN):
        _say(refused="it takes movies only")
        return 1
    inbox = Path(options.inbox)
    inbox.mkdir(parents=True, exist_ok=True)
    part = inbox / f"{digest}.part"
    have = min(size, part.stat().st_size) if part.exists() else 0
    _say(have=have)
    stop = have + (size - have) * 3 // 5 if mood == "breaks" else size
    with part.open("ab") as file:
        while have < size:
            block = sys.stdin.buffer.read(min(_BLOCK, size - have))
            if not block or have >= stop:
                return 1
            file.write(block)
            file.flush()
            have += len(block)
            time.sleep(options.pace * len(block) / 1e6)
            _say(taken=have)
    if _digest(part) != digest:
        part.unlink()
        _say(refused="what came is not what was offered")
        return 1
    if mood == "refuses":
        part.unlink()
        _say(refused="its shelf is full")
        return 1
    part.rename(inbox / f"{digest}{Path(name).suffix.lower()}")
    _say(accepted=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())
