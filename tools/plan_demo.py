"""Plan the demo project anew, and write what was seen in it, which ships with it.

Run by hand after the finders or the solver have changed; the results are
committed:

    python tools/plan_demo.py
"""

from __future__ import annotations

import shutil
import tempfile
from dataclasses import replace
from pathlib import Path

import numpy as np

from ezvar.core import edits
from ezvar.core.evidence import look_through
from ezvar.core.framing import solve
from ezvar.core.model import Document
from ezvar.core.store import Cache, load_project, save_project
from ezvar.core.text import shipped_zones, take_captions, zones_for
from ezvar.demo import DEMO_CAPTIONS, DEMO_PROJECT, DEMO_SEEN


def main() -> None:
    doc = load_project(DEMO_PROJECT)
    with tempfile.TemporaryDirectory() as temp:
        analysis = look_through(doc, Cache(temp))
        shutil.rmtree(DEMO_SEEN, ignore_errors=True)
        DEMO_SEEN.mkdir()
        for path in Path(temp).glob("*.npz"):
            with np.load(path) as arrays:
                np.savez_compressed(DEMO_SEEN / path.name, **arrays)
    framings = [f for master in doc.masters for f in solve(doc, master, analysis, doc.shots)]
    save_project(with_captions(edits.set_framings(doc, framings)), DEMO_PROJECT)


def with_captions(doc: Document) -> Document:
    """The demo with the captions of its file, and an app's overlay zones over its tall master."""
    for track in doc.tracks:
        doc = edits.remove_track(doc, track.id)
    doc, taken = take_captions(doc, DEMO_CAPTIONS)
    doc = edits.change_track(doc, replace(taken.track, name="English"))
    tall = next(m for m in doc.masters if m.height > 1.5 * m.width)
    return edits.change_master(doc, replace(tall, zones=zones_for(tall, shipped_zones())[0]))


if __name__ == "__main__":
    main()
