"""Small pictures of shots and of what masters show of them."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import cv2
import numpy as np

from ezvar.core import compose
from ezvar.core.compose import LockPictures
from ezvar.core.errors import OutputError
from ezvar.core.framing import framed, pane_picture_size, pane_window
from ezvar.core.lock import LockReader
from ezvar.core.model import Document, Master, Shot
from ezvar.core.progress import CancelToken, Progress, silent

_QUALITY = 82  # of JPEG pictures


@dataclass(frozen=True)
class ShotStills:
    """A shot's picture in its middle, and its first, middle and last frame as each master shows it, by the master's id;
    all as JPEG."""

    shot: Shot
    picture: bytes
    masters: dict[str, tuple[bytes, bytes, bytes]]


def moments(shot: Shot) -> tuple[int, int, int]:
    """The first, the middle and the last frame of a shot, in lock frames."""
    return shot.start, (shot.start + shot.end - 1) // 2, shot.end - 1


def shot_stills(
    doc: Document, shots: Sequence[Shot], masters: Sequence[Master], high: int, progress: Progress = silent,
    cancel: CancelToken | None = None,
) -> Iterator[ShotStills]:  # fmt: skip
    """Stills of shots, ``high`` pixels high, in order. What cannot be read is black. Long."""
    with LockReader(doc, lambda media, error: None) as reader, LockPictures(reader) as pictures:
        for k, shot in enumerate(shots):
            if cancel is not None:
                cancel.check()
            progress(k / len(shots), "Drawing stills")
            made: dict[str, list[bytes]] = {m.id: [] for m in masters}
            first, middle, last = moments(shot)
            for frame in (first, middle, last):
                for master in masters:
                    drawn = compose.frame(doc, master, frame, pictures, small_scale(master, high))
                    made[master.id].append(jpeg(drawn.rgb()))
            picture = pictures.of_shot(shot, middle)
            width = max(2, round(high * picture.width / picture.height))
            yield ShotStills(shot, jpeg(picture.rgb(width, high)), {m: (a, b, c) for m, (a, b, c) in made.items()})


def small_scale(master: Master, high: int) -> float:
    """The scale at which a master's picture is so many pixels high, never above its own."""
    return min(1.0, high / master.height)


def jpeg(rgb: np.ndarray) -> bytes:
    """A picture, uint8 (height, width, 3), as JPEG."""
    good, data = cv2.imencode(".jpg", np.ascontiguousarray(rgb[..., ::-1]), [cv2.IMWRITE_JPEG_QUALITY, _QUALITY])
    if not good:
        raise OutputError("a picture cannot be coded")
    return data.tobytes()


def outlines(doc: Document, shot: Shot, master: Master, frame: int) -> list[np.ndarray]:
    """The corners (4, 2) of a master's windows at a frame of the shot, as fractions of its picture; of panes that show
    another shot none."""
    found = []
    for pane in framed(doc, shot, master).panes:
        if not pane.shot:
            size = pane_picture_size(doc, shot, pane)
            found.append(pane_window(pane, master, size, frame).corners() / (size.width, size.height))
    return found
