"""A gentle move over a still, chosen from what is in it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ezvar.core.evidence import Subject
from ezvar.core.model import Keyframe, Pane

from ..windows.geometry import Size, placed_window

_FASTEST = 0.05  # widths a second that such a move goes at most
_CLOSER = 1.12  # at most that much tighter at its end
_CLOSER_A_SECOND = 0.025
_FAR = 0.12  # of the picture, between two subjects from which the move goes from one to the other


def gentle_keys(
    pane: Pane, aspect: float, picture: Size, seconds: float, frames: int, subjects: Sequence[Subject],
    contrast: tuple[float, float] | None, zoom: float,
) -> tuple[tuple[Keyframe, ...], str]:  # fmt: skip
    """Two keyframes over a shot of ``frames`` frames, and in a sentence why they are so.

    With two subjects apart it goes from the second to the first, with one it
    comes closer to it, with none it goes from the middle towards most
    contrast. It is never quicker than the eye is at ease with, and shows no
    edge where the window fills.
    """
    places = [_middle(s) for s in subjects[:2]]
    end = places[0] if places else np.array(contrast or (0.5, 0.5))
    closer = min(_CLOSER, 1 + _CLOSER_A_SECOND * seconds)
    if len(places) == 2 and np.abs(places[0] - places[1]).max() > _FAR:
        begin, zooms, why = places[1], (zoom, zoom), "A gentle move from the second subject to the first."
    elif places:
        begin, zooms, why = end, (zoom, zoom * closer), "A gentle move closer to the subject."
    else:
        begin, zooms, why = np.array([0.5, 0.5]), (zoom, zoom * closer), "A gentle move towards most contrast."
    most = _FASTEST * seconds
    begin = end + np.clip(begin - end, -most, most)
    ends = [
        placed_window(picture, aspect, float(at[0]), float(at[1]), z, trim=pane.trim)
        for at, z in ((begin, zooms[0]), (end, zooms[1]))
    ]
    keys = tuple(
        Keyframe(n, round(w.cx / picture.width, 5), round(w.cy / picture.height, 5), z)
        for n, w, z in zip((0, max(1, frames - 1)), ends, zooms, strict=True)
    )
    return keys, why


def _middle(subject: Subject) -> np.ndarray:
    return np.asarray((subject.boxes[:, :2] + subject.boxes[:, 2:]).mean(axis=0) / 2)
