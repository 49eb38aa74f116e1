"""The simulated transcription service: reads a request, and answers line by line, slowly, and not always to the end.

    python -m ezvar.speech [--pace SECONDS] [--mood well|fails|breaks|any]

It knows nothing of Ezvar but docs/TRANSCRIPTION.md, and no speech but that of
the demo, which stands in `lantern-night.json`. With mood "any", one in eight
requests fails and one in eight breaks off.
"""

from __future__ import annotations

import argparse
import json
import random
import sys
import time
from pathlib import Path

KNOWN = {"lantern-night": Path(__file__).with_name("lantern-night.json")}
_FAILS, _BREAKS = 0.125, 0.25


def _say(**values: object) -> None:
    print(json.dumps(values), flush=True)


def main() -> int:
    parser = argparse.ArgumentParser(prog="python -m ezvar.speech", description="A transcription service that pretends")
    parser.add_argument("--pace", type=float, default=0.12, help="seconds it takes for each stretch of speech")
    parser.add_argument("--mood", choices=("well", "fails", "breaks", "any"), default="any")
    options = parser.parse_args()
    try:
        asked = json.loads(sys.stdin.readline())
        name, begins, ends = str(asked["name"]).lower().replace(" ", "-"), float(asked["from"]), float(asked["to"])
        if asked["version"] != 1 or not Path(asked["sound"]).is_file():
            raise ValueError("the request is not understood")
    except (ValueError, KeyError, TypeError):
        _say(error="the request is not understood")
        return 1
    draw = random.random()
    mood = options.mood
    if mood == "any":
        mood = "fails" if draw < _FAILS else "breaks" if draw < _BREAKS else "well"
    if name not in KNOWN:
        _say(error="it hears no speech that it knows")
        return 1
    if mood == "fails":
        _say(error="all its ears are taken")
        return 1
    stretches = json.loads(KNOWN[name].read_text())
    for k, stretch in enumerate(stretches):
        if mood == "breaks" and k == len(stretches) * 2 // 3:
            return 1
        time.sleep(options.pace)
        heard = [
            {**word, "start": word["start"] - begins, "end": word["end"] - begins}
            for word in stretch
            if begins <= word["start"] and word["end"] <= ends
        ]
        _say(progress=(k + 1) / len(stretches), words=heard)
    _say(done=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())
