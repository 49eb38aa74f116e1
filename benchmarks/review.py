"""What a handoff costs, and comparing what comes back: three thousand shots in four masters, without pictures.

Run by `make bench`.
"""

from __future__ import annotations

import tempfile
import time
from dataclasses import replace
from fractions import Fraction

from ezvar.core.framing import plain
from ezvar.core.model import Document, Keyframe, Lock, Master, Media, Pane, Reason, Shot, Source
from ezvar.core.planning import handed_out
from ezvar.core.review import compare, read_return
from ezvar.core.timing import Rate

SHOTS, LENGTH = 3000, 100
SHAPES = {"9:16": (1080, 1920), "4:5": (1080, 1350), "1:1": (1080, 1080), "2:1": (1920, 960)}


def long_document() -> Document:
    """A lock of many shots, with a moving and doubtful framing of each in every master."""
    frames = SHOTS * LENGTH
    media = Media("m", "/media/lock.mov", 1920, 1080, Rate(25), frames, 0, True, "0" * 16)
    lock = Lock("long", Rate(25), frames, 1920, 1080, 0, False, (media,))
    shots = tuple(Shot(f"s{k}", k * LENGTH, (k + 1) * LENGTH, Source("m", Fraction(k * LENGTH))) for k in range(SHOTS))
    doc = Document(lock, shots, tuple(Master(n, n, *size) for n, size in SHAPES.items()))
    path = Pane((Keyframe(0, 0.3), Keyframe(40, 0.5), Keyframe(90, 0.6)))
    doubtful = (Reason("face cut", 0.4),)
    framings = (replace(plain(doc, s, m), panes=(path,), reasons=doubtful) for s in shots for m in doc.masters)
    return replace(doc, framings=tuple(framings))


def main() -> None:
    doc = long_document()
    with tempfile.TemporaryDirectory() as folder:
        begun = time.perf_counter()
        handed, files = handed_out(doc, folder)
        took = time.perf_counter() - begun
        size = sum(file.stat().st_size for file in files) / 1e6
        print(
            f"review       a handoff of {SHOTS} shots in {len(SHAPES)} masters: {took:.1f} s, {size:.0f} MB   (aim 10)"
        )
        for suffix in (".json", ".csv", ".edl", ".otio"):
            file = next(file for file in files if file.suffix == suffix)
            begun = time.perf_counter()
            count = sum(len(compare(handed, each)[0]) for each in read_return(handed, file))
            took = time.perf_counter() - begun
            print(f"review       {count} decisions of a {suffix} compared: {took:.2f} s   (aim 2)", flush=True)


if __name__ == "__main__":
    main()
