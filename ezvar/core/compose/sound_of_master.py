"""What is heard in a master: the lock's sound, or that of the shot in a pane where this was chosen."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence

import numpy as np

from ezvar.core.framing import pane_shot
from ezvar.core.lock import Silence, lock_sound
from ezvar.core.media import SOUND_RATE
from ezvar.core.model import Document, Master, Shot


def master_sound(
    doc: Document, master: Master, start: int = 0, end: int | None = None, channels: int = 2,
    on_silence: Callable[[Silence], object] = lambda silence: None, tracks: Sequence[int] = (),
) -> Iterator[np.ndarray]:  # fmt: skip
    """The sound of a master under lock frames ``start`` to ``end``, as `lock_sound` gives it.

    A pane's shot that ends sooner is followed by silence.
    """
    last = doc.lock.frames if end is None else end
    own = start
    for shot in doc.shots:
        if shot.end <= start or last <= shot.start or (other := _other(doc, shot, master)) is None:
            continue
        begins, ends = max(start, shot.start), min(last, shot.end)
        yield from lock_sound(doc, own, begins, channels, on_silence, tracks)
        yield from _in_place(doc, other, begins - shot.start, (begins, ends), channels, on_silence, tracks)
        own = ends
    yield from lock_sound(doc, own, last, channels, on_silence, tracks)


def _other(doc: Document, shot: Shot, master: Master) -> Shot | None:
    framing = doc.framing(shot.id, master.id)
    if framing is None or framing.sound < 0:
        return None
    other = pane_shot(doc, shot, framing.panes[framing.sound])
    return None if other is shot else other


def _in_place(
    doc: Document,
    other: Shot,
    offset: int,
    span: tuple[int, int],
    channels: int,
    on_silence: Callable[[Silence], object],
    tracks: Sequence[int],
) -> Iterator[np.ndarray]:
    """The sound of another shot, from ``offset`` frames in, exactly as long as a span of lock frames."""
    seconds = doc.lock.rate.seconds
    wanted = round(seconds(span[1]) * SOUND_RATE) - round(seconds(span[0]) * SOUND_RATE)
    first = min(other.start + offset, other.end)
    for block in lock_sound(doc, first, min(other.end, first + span[1] - span[0]), channels, on_silence, tracks):
        part = block[:, :wanted]
        wanted -= part.shape[1]
        if part.shape[1]:
            yield part
    if wanted:
        yield np.zeros((channels, wanted), np.float32)
