"""Windows on real footage, against subjects that were named by hand at some moments.

    python -m benchmarks.footage FOLDER

``footage.json`` names, for each movie of the folder, the left and right edge of what an editor would keep, as
fractions of the picture's width. A moment is kept where the window holds all of it, or, of what is wider than the
window, is filled by it. The table goes into docs/FRAMING.md; movies that are not there are left out with a word.
"""

from __future__ import annotations

import json
import sys
from pathlib import Path

from ezvar.core import edits
from ezvar.core.evidence import Analysis, Finders, looked
from ezvar.core.framing import NEEDS_A_LOOK, crop_windows, sentences, solve
from ezvar.core.media import Picture, Planes
from ezvar.core.model import doubt

from .alike import Clip, clips_of_movie, document

NAMED = Path(__file__).with_suffix(".json")
PAGE = Path(__file__).resolve().parent.parent / "docs" / "FRAMING.md"
HEADING = "## On real footage"
_ROOM = 0.012  # of the width, by which edges named by hand may be off
SAID = """Subjects named by hand at some moments of movies that nobody here shot (`benchmarks/footage.json`;
`python -m benchmarks.footage FOLDER`). Kept is a moment whose subject the window holds whole, or, where it is wider
than the window, that fills it; partly kept one of which more than half shows.
"""


def kept(window: tuple[float, float], named: tuple[float, float]) -> float:
    """The part of what was named that a window shows; of what is wider, the part of the window that it fills."""
    inside = min(window[1], named[1] + _ROOM) - max(window[0], named[0] - _ROOM)
    return max(0.0, inside) / min(window[1] - window[0], named[1] - named[0])


def rows_of(clip: Clip, named: dict, finders: Finders) -> list[str]:
    high, wide = clip.pictures[0].shape[:2]
    made = (Picture(k, Planes.of_rgb(p), wide, high) for k, p in enumerate(clip.pictures))
    analysis = Analysis.of_stretches(list(looked(made, 0, len(clip.pictures), finders, float(clip.rate))))
    doc, rows = document(clip), []
    for master in doc.masters:
        (framing,) = solve(doc, master, analysis, doc.shots)
        windows = [w.window for w in crop_windows(edits.set_framings(doc, [framing]), master)]
        parts = []
        for frame, edges in named["moments"].items():
            w = windows[int(frame)]
            parts.append(kept(((w.cx - w.width / 2) / wide, (w.cx + w.width / 2) / wide), tuple(edges)))
        whole, half = sum(p >= 0.97 for p in parts), sum(0.5 <= p < 0.97 for p in parts)
        figure = doubt(framing.reasons)
        said = " ".join(sentences(framing.reasons)[:1]) if figure >= NEEDS_A_LOOK else ""
        rows.append(
            f"| {clip.name} | {named['what']} | {master.name} | {whole} of {len(parts)} | {half} | "
            f"{len(framing.panes[0].keys)} | {figure} | {said} |"
        )
    return rows


def main() -> None:
    folder, finders, rows = Path(sys.argv[1]), Finders(), []
    for name, named in json.loads(NAMED.read_text()).items():
        if not (folder / name).exists():
            print(f"{name} is not in {folder}: left out")
            continue
        for clip in clips_of_movie(str(folder / name)):
            rows += rows_of(clip, named, finders)
            print(*rows[-3:], sep="\n", flush=True)
    table = "\n".join([
        "| movie | named | shape | moments kept | partly | keyframes | doubt | what it says |",
        "| --- | --- | --- | ---: | ---: | ---: | ---: | --- |", *rows,
    ])  # fmt: skip
    page = PAGE.read_text().partition(HEADING)[0].rstrip()
    PAGE.write_text(f"{page}\n\n{HEADING}\n\n{SAID}\n{table}\n")


if __name__ == "__main__":
    main()
