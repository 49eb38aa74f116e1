"""What a handoff is, in plain words, for whoever receives it."""

from __future__ import annotations

from collections.abc import Sequence

from ezvar.core.model import Document, Master
from ezvar.core.timing import timecode

_LINE = 78


def read_me(doc: Document, masters: Sequence[Master], files: Sequence[tuple[str, str]]) -> str:
    """The text that goes with ``files``, each a name and what it is in a sentence."""
    lock = doc.lock
    first, last = (timecode(lock.start + n, lock.rate, lock.drop) for n in (0, lock.frames - 1))
    shapes = [f"  {m.name}, {m.width} x {m.height} pixels: {_verdicts(doc, m)}" for m in masters]
    listed = [line for name, said in files for line in (f"  {name}", f"      {said}")]
    return "\n".join([
        f"{lock.name}: how it is framed in other shapes",
        "",
        f"The edit is locked: {len(doc.shots)} shots, {lock.frames} frames at {lock.rate} a second,",
        f"from {first} to {last}. For each shot and each shape below, a window says",
        "which part of the picture is shown. Nothing else of the edit changes.",
        "",
        "Shapes",
        *shapes,
        "",
        "Files",
        *listed,
        "",
        "How to read a window",
        "  Windows are given in pixels of the shot's own picture, upright and with",
        "  square pixels, from its upper left: x, y, width, height, and an angle in",
        "  degrees, clockwise about the window's middle. Between two keyframes a",
        "  window moves as the first one's ease says.",
        "",
        "How to answer",
        "  Change a window or a verdict in the table, in a list, in the JSON file or",
        "  in a timeline, and send that file back under any name. Shots are known by",
        "  where they are in the edit; what is not changed stays as it is.",
        "",
        f"Whether the files came whole: sha256sum -c {'checksums.sha256'}",
        "",
    ])  # fmt: skip


def _verdicts(doc: Document, master: Master) -> str:
    framings = [f for f in doc.framings if f.master == master.id]
    counts = [(sum(f.verdict == verdict for f in framings), verdict) for verdict in ("agreed", "change", "open")]
    return ", ".join(f"{count} {verdict}" for count, verdict in counts if count) or "no decisions yet"
