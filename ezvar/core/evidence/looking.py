"""Looking through pictures, stretch by stretch: signals of every frame, evidence of some.

What is seen of a stretch depends on its pictures, and on a few before it,
alone. So it does not matter in how many parts a lock is looked through, nor
where they are done. Whatever needs more (places of cuts, subjects) is decided
from all stretches joined.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from ezvar.core.cuts import Meter, Signals
from ezvar.core.lock import STRETCH
from ezvar.core.media import Picture

from .cadence import Cadence
from .gather import Evidence, Finders, Gatherer


@dataclass(frozen=True, eq=False)
class Seen:
    """What was seen of the frames from ``start`` on, to the end of the stretch or of the lock.

    ``damaged`` (frames,) int32 are those that could not be decoded, or are drawn on from such.
    """

    start: int
    signals: Signals
    evidence: Evidence
    damaged: np.ndarray


def looked(
    pictures: Iterable[Picture],
    start: int,
    end: int,
    finders: Finders,
    rate: float,
    also: Callable[[Picture], object] = lambda picture: None,
) -> Iterator[Seen]:
    """What is seen of frames ``start``, where a stretch begins, to ``end``, a stretch after the other.

    ``rate`` is the lock's, in frames a second. ``pictures`` begin `lead` frames before, or at the first one there is;
    ``also`` is handed each picture of the stretches themselves.
    """
    meter, gatherer, first = Meter(STRETCH), Gatherer(finders, rate), start
    damaged: list[int] = []
    for picture in pictures:
        if picture.index < start:
            gatherer.begin_after(picture, meter.begin_after(picture))
            continue
        if picture.index >= end:
            break
        if picture.index - first == STRETCH:
            yield Seen(first, meter.result(), gatherer.result(), np.array(damaged, np.int32))
            meter, gatherer, first = meter.following(STRETCH), gatherer.following(), picture.index
            damaged = []
        if picture.empty:
            meter.skip()
        else:
            gatherer.add(picture, meter.add(picture))
        also(picture)
        if picture.damaged:
            damaged.append(picture.index)
    if meter.count:
        yield Seen(first, meter.result(), gatherer.result(), np.array(damaged, np.int32))


def lead(rate: float) -> int:
    """Frames before a stretch that are looked at with it, at a rate in frames a second: movement is seen in three
    pictures, and what changed shortly before counts."""
    return Cadence(rate).before + 1


def joined_stretches(parts: Sequence[Seen]) -> tuple[Signals, Evidence, np.ndarray]:
    """What was seen of stretches that follow one another from the first frame on, and the damaged frames."""
    arrays = [part.signals.arrays() for part in parts]
    signals = Signals(**{name: np.concatenate([a[name] for a in arrays]) for name in arrays[0]})
    rows, looks, stills, flows, bars = (
        _by_frame([part.evidence.rows for part in parts]),
        _by_frame([part.evidence.looks for part in parts]),
        _by_frame([part.evidence.stills for part in parts]),
        _by_frame([part.evidence.flows for part in parts]),
        _by_frame([part.evidence.bars for part in parts]),
    )
    damaged = np.concatenate([part.damaged for part in parts])
    first = parts[0].evidence
    return signals, Evidence(rows, looks, first.finders, stills, flows, bars, first.rate), damaged


def _by_frame(arrays: Sequence[np.ndarray]) -> np.ndarray:
    whole = np.concatenate(arrays)
    return whole[np.argsort(whole["frame"], kind="stable")]
