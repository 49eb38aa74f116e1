"""One reading of a movie that gathers all that cuts and framings are decided from."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ezvar.core.cuts import Candidate, Meter, Signals, measure, weigh
from ezvar.core.media import Picture
from ezvar.core.progress import CancelToken, Progress, silent
from ezvar.core.store import Cache

from .gather import KINDS, LOOK, ROW, Evidence, Gatherer
from .stills import STILL, contrast_centre
from .subject import Subject
from .subjects import subjects_of

_VERSION = 13  # to be raised when what is measured changes
_WORTH_KEEPING = 50  # frames


@dataclass(frozen=True, eq=False)
class Analysis:
    """What was seen of a movie: change signals of every frame, evidence of some."""

    signals: Signals
    evidence: Evidence

    @cached_property
    def candidates(self) -> tuple[Candidate, ...]:
        """Places that may be cuts; weighed on the first asking, which takes its time on a long movie."""
        return weigh(self.signals)

    @cached_property
    def _known(self) -> dict[tuple[int, int], tuple[Subject, ...]]:
        return {}

    def subjects(self, start: int, end: int) -> tuple[Subject, ...]:
        """The subjects of lock frames ``start`` to ``end``, as `subjects_of`; joined once, since drags and masters ask
        for the same again."""
        if (start, end) not in self._known:
            self._known[start, end] = subjects_of(self.evidence, start, end)
        return self._known[start, end]

    def contrast(self, start: int, end: int) -> tuple[float, float] | None:
        """Where most contrast is in lock frames ``start`` to ``end``, as `contrast_centre`."""
        return contrast_centre(self.evidence.stills_of(start, end))


def analyse(
    pictures: Callable[[int], Iterable[Picture]],
    frames: int,
    content: str,
    cache: Cache,
    progress: Progress = silent,
    cancel: CancelToken | None = None,
) -> Analysis:
    """Look through the ``frames`` pictures of a lock once, or take what is kept of it under the name ``content``.

    ``pictures`` gives those from a frame on. What was seen when this is
    stopped is kept as well, and the next time goes on from there.
    """

    def told(fraction: float, _: str) -> None:
        progress(fraction, "Looking for cuts, people, text and movement")

    kept = cached_analysis(content, frames, cache)
    if kept is not None:
        return kept
    begun = _stored(f"{content}-begun", cache)
    meter = Meter(frames, begun.signals if begun else None)
    gatherer = Gatherer(begun.evidence.before(meter.count) if begun else None)
    if begun is not None and begun.evidence.finders != gatherer.finders:
        meter, gatherer = Meter(frames), Gatherer()
    try:
        signals = measure(pictures(meter.count), frames, told, cancel, meter, gatherer.add)
    except BaseException:
        if meter.count > _WORTH_KEEPING:
            _keep(Analysis(meter.result(), gatherer.result()), f"{content}-begun", cache)
        raise
    analysis = Analysis(signals, gatherer.result())
    _keep(analysis, content, cache)
    return analysis


def cached_analysis(content: str, frames: int, cache: Cache) -> Analysis | None:
    """What is kept of a movie, or ``None``."""
    found = _stored(content, cache)
    return found if found is not None and len(found.signals.change) == frames else None


def _stored(name: str, cache: Cache) -> Analysis | None:
    arrays = cache.arrays(f"analysis-{_VERSION}-{name}")
    if arrays is None or set(arrays) != {*Signals.__dataclass_fields__, "rows", "looks", "finders", "stills"}:
        return None
    rows, looks, finders, stills = (arrays[name] for name in ("rows", "looks", "finders", "stills"))
    if (
        rows.dtype != ROW
        or looks.dtype != LOOK
        or stills.dtype != STILL
        or not all(0 <= k < len(KINDS) for k in finders)
    ):
        return None  # a damaged cache is worth no more than none
    signals = Signals(**{name: arrays[name] for name in Signals.__dataclass_fields__})
    return Analysis(signals, Evidence(rows, looks, tuple(KINDS[k] for k in finders), stills))


def _keep(analysis: Analysis, name: str, cache: Cache) -> None:
    evidence = analysis.evidence
    finders = np.array([KINDS.index(k) for k in evidence.finders], np.uint8)
    arrays = {**analysis.signals.arrays(), "rows": evidence.rows, "looks": evidence.looks, "finders": finders,
              "stills": evidence.stills}  # fmt: skip
    cache.put_arrays(f"analysis-{_VERSION}-{name}", arrays)
