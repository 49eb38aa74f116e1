"""Editing that somebody kills: small edits, kept in the journal, saved now and then. Run by `benchmarks.kills`."""

from __future__ import annotations

import time
from dataclasses import replace
from pathlib import Path
from typing import TextIO

from ezvar.core.edits import set_framings
from ezvar.core.model import Document
from ezvar.core.store import Journal, leftovers, read_project, save_project

_EACH, _SAVED_EACH, _MOST = 0.01, 20, 1000
_STEP = 1e-4  # by which an edit moves a window: how the edits are counted afterwards


def with_count(doc: Document, count: int) -> Document:
    """The document after so many edits."""
    framing = doc.framings[0]
    pane = framing.panes[0]
    moved = replace(pane, keys=(replace(pane.keys[0], cx=count * _STEP), *pane.keys[1:]))
    return set_framings(doc, [replace(framing, panes=(moved, *framing.panes[1:]))])


def count_of(doc: Document) -> int:
    """How many edits a document has seen."""
    return round(doc.framings[0].panes[0].keys[0].cx / _STEP)


def newest(project: Path, folder: Path) -> int:
    """How many edits are there after a kill: in the project, or in what the next start offers. Takes that away."""
    counts = [count_of(read_project(project)[0])]
    for left in leftovers(folder):
        counts.append(count_of(left.document()))
        left.discard()
    return max(counts)


def edit(project: Path, folder: Path, out: TextIO) -> None:
    """Edit and save, with the journal in a folder.

    Says, a line each, what was done and when: ``edited 7 12.345`` is the
    seventh edit, by the machine's monotonic clock.
    """
    doc, revision = read_project(project)
    journal = Journal(folder)
    for count in range(1, _MOST):
        doc = with_count(doc, count)
        journal.note(doc, project, revision)
        print("edited", count, time.monotonic(), file=out, flush=True)
        if count % _SAVED_EACH == 0:
            revision = save_project(doc, project, revision)
            journal.forget()
            print("saved", count, time.monotonic(), file=out, flush=True)
        time.sleep(_EACH)
