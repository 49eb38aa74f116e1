"""Looking through pictures, stretch by stretch: signals of every frame, evidence of some.

What is seen of a stretch depends on its pictures, and on a few before it,
alone. So it does not matter in how many parts a strip is looked through, nor
where they are done. Whatever needs more (places of cuts, subjects) is decided
from all stretches, laid along the lock.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass

import numpy as np

from ezvar.core.cuts import Meter, Signals
from ezvar.core.media import Picture

from .cadence import Cadence
from .gather import Evidence, Finders, Gatherer

STRETCH = 300
"""Pictures of a stretch, at most. Few, so that the first is known soon."""


@dataclass(frozen=True, eq=False)
class Seen:
    """What was seen of the pictures of a strip from ``start`` on, numbered as there.

    ``damaged`` (pictures,) int32 are those that could not be decoded, or are drawn on from such. ``gone`` says that
    some were not there at all.
    """

    start: int
    signals: Signals
    evidence: Evidence
    damaged: np.ndarray
    gone: bool = False

    @property
    def end(self) -> int:
        """The picture after the last one."""
        return self.start + len(self.signals.change)

    @property
    def nbytes(self) -> int:
        """The memory that it takes."""
        return sum(a.nbytes for a in (*self.signals.arrays().values(), *self.evidence.arrays(), self.damaged))


def looked(
    pictures: Iterable[Picture],
    start: int,
    end: int,
    finders: Finders,
    rate: float,
    also: Callable[[Picture], object] = lambda picture: None,
) -> Iterator[Seen]:
    """What is seen of pictures ``start`` to ``end`` of a strip, a stretch after the other.

    ``rate`` is the lock's, in frames a second. ``pictures`` begin `lead` before, so that it is seen as if all were
    looked through in one go; or with the first one, which is then looked at in full. ``also`` is handed each picture
    of the stretches themselves.
    """
    meter, gatherer, first = Meter(STRETCH), Gatherer(finders, rate), start
    damaged: list[int] = []
    gone = False
    for picture in pictures:
        if picture.index < start:
            gatherer.begin_after(picture, meter.begin_after(picture))
            continue
        if picture.index >= end:
            break
        if picture.index - first == STRETCH:
            yield Seen(first, meter.result(), gatherer.result(), np.array(damaged, np.int32), gone)
            meter, gatherer, first = meter.following(STRETCH), gatherer.following(), picture.index
            damaged, gone = [], False
        if picture.empty:
            meter.skip()
            gone = True
        else:
            gatherer.add(picture, meter.add(picture))
        also(picture)
        if picture.damaged:
            damaged.append(picture.index)
    if meter.count:
        yield Seen(first, meter.result(), gatherer.result(), np.array(damaged, np.int32), gone)


def lead(rate: float) -> int:
    """Frames before a stretch that are looked at with it, at a rate in frames a second: movement is seen in three
    pictures, and what changed shortly before counts."""
    return Cadence(rate).before + 1
