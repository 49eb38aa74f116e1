"""How much a framing deserves a look, and why.

Doubt = 100·(1 − ∏(1 − weight)) over named reasons.
"""

from __future__ import annotations

from collections.abc import Iterable
from math import prod

import numpy as np

from ezvar.core.evidence import Face
from ezvar.core.model import Cut, Master, Reason

from .geometry import Size, Window

NEEDS_A_LOOK = 40
"""Framings from this doubt on need a look."""

_SENTENCES = {
    "face cut": "A face is cut by the window's edge.",
    "text cut": "Text is cut by the window's edge.",
    "subject leaves": "The subject, or much of what moves, is outside the window for a while.",
    "two subjects": "There is a second face that the window cannot keep.",
    "at the speed limit": "The window moves as fast as its pace allows.",
    "enlarged": "The picture is enlarged beyond 150 %.",
    "nothing found": "No face was found and little moves; the window stays near the middle.",
    "cut uncertain": "The cut that begins this shot is uncertain.",
}


def doubt(reasons: Iterable[Reason]) -> int:
    """The doubt, 0..100, that reasons add up to.

    >>> doubt([Reason("face cut", 0.5), Reason("enlarged", 0.5)])
    75
    """
    return round(100 * (1 - prod(1 - r.weight for r in reasons)))


def sentences(reasons: Iterable[Reason]) -> list[str]:
    """Each reason in a plain sentence, the heaviest first."""
    return [_SENTENCES[r.name] for r in sorted(reasons, key=lambda r: -r.weight)]


def enlargement(window: Window, surface_height: float) -> float:
    """How far picture pixels are enlarged on a surface of this height that shows the window; 1 = not at all."""
    return surface_height / window.height


def reasons_for(
    window: Window, size: Size, master: Master, faces: list[list[Face]], motion: np.ndarray, cut: Cut | None
) -> tuple[Reason, ...]:
    """The reasons for doubt about a window that stays where it is through a shot."""
    area = (window.left / size.width, window.top / size.height, window.width / size.width, window.height / size.height)
    seen = [sample for sample in faces if sample]
    found: list[Reason] = []

    def note(name: str, weight: float) -> None:
        if weight >= 0.02:
            found.append(Reason(name, round(min(1.0, weight), 3)))  # type: ignore[arg-type]

    gone = 0.0
    if seen:
        parts = [[f.part_inside(*area) for f in sample if _matters(f, sample)] for sample in seen]
        out = [[p <= 0.08 for p in sample] for sample in parts]
        gone = float(np.mean([all(sample) for sample in out]))
        note("face cut", 0.9 * float(np.mean([any(0.08 < p < 0.97 for p in sample) for sample in parts])))
        note("two subjects", 0.6 * float(np.mean([any(sample) and not all(sample) for sample in out])))
    moving = float(motion.sum())
    outside = 1 - _share_inside(motion, area) if moving else 0.0
    if not seen and moving <= _LITTLE:
        note("nothing found", 0.5 * (1 - area[2] * area[3]))
    else:
        stray = max(0.0, outside - 0.25) / 0.75 if moving > _LITTLE else 0.0
        note("subject leaves", max(0.9 * gone, (0.9 if not seen else 0.5) * stray))
    note("enlarged", 0.25 * (enlargement(window, master.height) - 1.5))
    if cut is not None and cut.doubt >= 30 and not cut.settled:
        note("cut uncertain", cut.doubt / 250)
    return tuple(found)


_LITTLE = 0.5  # mean levels of movement in a shot below which nothing is said to move


def _matters(face: Face, sample: list[Face]) -> bool:
    return face.weight >= 0.4 * max(f.weight for f in sample)


def _share_inside(motion: np.ndarray, area: tuple[float, float, float, float]) -> float:
    """The share of a motion map (rows, columns) that lies in an area given as fractions."""
    rows, columns = motion.shape
    x, y, width, height = area
    across = np.clip(
        np.minimum(np.arange(1, columns + 1) / columns, x + width) - np.maximum(np.arange(columns) / columns, x),
        0,
        None,
    )
    down = np.clip(
        np.minimum(np.arange(1, rows + 1) / rows, y + height) - np.maximum(np.arange(rows) / rows, y), 0, None
    )
    return float(down @ motion @ across * rows * columns / motion.sum())
