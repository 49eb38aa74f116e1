"""What it costs to read files apart: the same files read in a warm program apart, and here, in turns.

The first of each here and there is not counted: libraries are loaded then. Of
commands, which have nothing warm yet, what a whole one takes beside the same
one that reads here.

Run by `make bench`, or ``python -m benchmarks.apart``.
"""

from __future__ import annotations

import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from statistics import median

import cv2
import numpy as np

from ezvar.core.apart import task, warm
from ezvar.core.media import read_still, still_here
from ezvar.core.text import read_captions
from ezvar.core.text.formats.ttml import read_ttml
from ezvar.core.timelines import read_timeline_apart, timeline_here
from ezvar.demo import DEMO_PROJECT

from .fuzz.seeds import make_seeds_apart
from .large import EVENTS, make_media, make_otio

ROUNDS = 7
_TTML = '<tt xmlns="http://www.w3.org/ns/ttml"><body><div>{}</div></body></tt>'
_CUE = '<p begin="{0}.0s" end="{0}.9s">Line {0}<br/>goes on.</p>'
_HERE = """
import sys
from ezvar.core.apart import asking, serving, task
from ezvar.core.timelines import read_apart
import ezvar.core.timelines as timelines
class Told:
    def __init__(self, done): self.told, self.data = done[0], b"".join(bytes(each) for each in done[1])
read_apart.run_apart = lambda asked, family, token=None: Told(read_apart.timeline_here(asked))
import ezvar.cli
ezvar.cli.warm = lambda *kinds: None
sys.exit(ezvar.cli.main(sys.argv[1:]))
"""


def seconds(run: Callable[[], object]) -> float:
    begun = time.perf_counter()
    run()
    return time.perf_counter() - begun


def in_turns(name: str, here: Callable[[], object], apart: Callable[[], object], most: float, rounds: int) -> None:
    here()
    apart()
    both = [(seconds(here), seconds(apart)) for _ in range(rounds)]
    bare, ours = (median(each) for each in zip(*both, strict=True))
    print(
        f"{name:24}here {bare:6.3f} s   apart {ours:6.3f} s   {ours - bare:+.3f} s   (aim at most {most})", flush=True
    )


def main() -> None:
    warm("timeline", "still", "captions")
    with tempfile.TemporaryDirectory() as temp:
        folder = Path(temp)
        demo, large = DEMO_PROJECT.with_name("lantern-night.otio"), folder / "large.otio"
        make_otio(make_media(folder), large)
        still, captions = folder / "still.png", folder / "c.ttml"
        cv2.imwrite(str(still), np.random.default_rng(1).integers(0, 255, (1080, 1920, 3)).astype(np.uint8))
        captions.write_text(_TTML.format("".join(_CUE.format(n) for n in range(1000))))
        for name, path in (("the demo's timeline", demo), (f"{EVENTS:,} events", large)):
            asked = task("timeline", [str(path)], rate=None)
            in_turns(name, lambda a=asked: timeline_here(a), lambda p=path: read_timeline_apart(p, None), 0.15, ROUNDS)
        asked = task("still", [str(still)])
        in_turns("a still of 1080 lines", lambda: still_here(asked), lambda: read_still(still), 0.15, ROUNDS)
        in_turns(
            "1,000 captions", lambda: read_ttml(captions.read_bytes()), lambda: read_captions(captions), 0.15, ROUNDS
        )
        make_seeds_apart(folder / "seeds")
        words = [
            "plan",
            str(folder / "seeds" / "cut.otio"),
            "--master",
            "9:16=72x128",
            "-o",
            f"{temp}/p.ezvar",
            "--replace",
        ]
        in_turns(
            "the command, whole",
            lambda: subprocess.run([sys.executable, "-c", _HERE, *words], check=False, stdout=subprocess.DEVNULL),
            lambda: subprocess.run([sys.executable, "-m", "ezvar", *words], check=False, stdout=subprocess.DEVNULL),
            0.4,
            3,
        )


if __name__ == "__main__":
    main()
