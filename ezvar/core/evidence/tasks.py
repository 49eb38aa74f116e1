"""Looking through a lock as tasks, one a stretch: what is seen, and the proxy's pictures, from one decoding."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from time import monotonic

import numpy as np

from ezvar.core.cuts import Signals
from ezvar.core.errors import EzvarError
from ezvar.core.lock import LockReader, lock_content, proxy_of, stretches
from ezvar.core.media import Picture
from ezvar.core.model import Document
from ezvar.core.progress import CancelToken, Progress, silent
from ezvar.core.store import Cache
from ezvar.core.viewing import Proxy, proxy_kept, proxy_picture
from ezvar.core.work import Kind, Surroundings, Task, register, run_here, task

from .analysis import Analysis
from .finders.bars import BARS
from .finders.flow import FLOW
from .gather import KINDS, LOOK, ROW, Evidence, Finders
from .looking import Seen, joined_stretches, lead, looked
from .stills import STILL

_VERSION = 17  # to be raised when what is measured changes
_MOST_PENDING = 4  # pictures that wait to be drawn small
_ARRAYS = ("rows", "looks", "finders", "stills", "flows", "bars", "damaged")
_EACH_PART, _PART_COSTS = 3.0, 10.0  # seconds, and times what it takes to join, after which what is known is told
_SAID = "Looking for cuts, people, text and movement"


def look_tasks(doc: Document, finders: Finders, proxy: bool) -> list[Task]:
    """The tasks of looking through a document's lock, with a proxy made on the way or without."""
    content = lock_content(doc)
    return [
        task("look", [content], start=start, end=end, finders=list(finders.kinds), proxy=proxy)
        for start, end in stretches(doc.lock.frames)
    ]


def look_through(
    doc: Document, cache: Cache, progress: Progress = silent, cancel: CancelToken | None = None,
    proxy_told: Callable[[EzvarError], object] | None = None,
    part: Callable[[Analysis], object] | None = None,
) -> Analysis:  # fmt: skip
    """What is seen in a lock; stretches that were looked through before are taken from the cache.

    What was seen when this is stopped is kept, so that the next time goes on from there. Missing media of a timeline
    show nothing; of a flat lock they raise `MediaError`. A proxy is made on the way where there is somebody to be told
    (``proxy_told``) what the disk refuses of it. ``part`` is handed what is known so far, after the first stretch and
    then every few seconds.
    """
    around = Surroundings(doc, cache, proxy_told or (lambda error: None))
    tasks = look_tasks(doc, _finders(), proxy_told is not None)
    parts: list[Seen] = []
    told, takes = -_EACH_PART, 0.0
    for seen in run_here(tasks, around, progress, cancel):
        parts.append(seen)
        begun = monotonic()
        if part is not None and len(parts) < len(tasks) and begun - told > max(_EACH_PART, _PART_COSTS * takes):
            part(joined_so_far(parts, doc.lock.frames))
            told = monotonic()
            takes = told - begun
    return joined(parts)


def kept_analysis(doc: Document, cache: Cache) -> Analysis | None:
    """What was seen in a lock, where all of it is kept from an earlier time; nothing is read."""
    around = Surroundings(doc, cache, lambda error: None)
    parts = [_kept(each, around) for each in look_tasks(doc, _finders(), proxy=False)]
    return joined([part for part in parts if part is not None]) if all(parts) else None


def joined_so_far(parts: Sequence[Seen], frames: int) -> Analysis:
    """What the stretches that were read say of a lock of so many frames; nothing of the rest."""
    signals, evidence, damaged = joined_stretches(parts)
    read = len(signals.change)
    padded = {
        name: np.concatenate([values, np.zeros((frames - read, *values.shape[1:]), values.dtype)])
        for name, values in signals.arrays().items()
    }
    return Analysis(Signals(**padded), evidence, damaged, read)


def joined(parts: Sequence[Seen]) -> Analysis:
    """The analysis of all stretches, in their order."""
    return Analysis(*joined_stretches(parts))


_LOADED: list[Finders] = []


def _finders() -> Finders:
    """The finders, loaded once a program."""
    if not _LOADED:
        _LOADED.append(Finders())
    return _LOADED[0]


def _look(tasks: Sequence[Task], around: Surroundings, progress: Progress, cancel: CancelToken) -> Iterator[Seen]:
    first, last, rate = tasks[0].number("start"), tasks[-1].number("end"), float(around.doc.lock.rate.fraction)
    proxy = proxy_of(around.doc, around.cache) if tasks[0]["proxy"] else None
    small: list[Future[bytes]] = []
    empties: dict[tuple[int, int], Future[bytes]] = {}  # by size, of media that are not there

    known = [part for part in (_seen_before(each, around) for each in tasks) if part is not None]
    again = len(known) == len(tasks)  # nothing is looked at, only the proxy is drawn

    def pictures(reader: LockReader) -> Iterator[Picture]:
        for picture in reader.frames(first if again else max(0, first - lead(rate))):
            cancel.check()
            if picture.index % 25 == 0:
                progress(max(0, picture.index - first) / (last - first), _SAID)
            yield picture

    def empty(picture: Picture) -> Future[bytes]:
        size = picture.width, picture.height
        if size not in empties:
            empties[size] = drawer.submit(proxy_picture, picture)
        return empties[size]

    def also(picture: Picture) -> None:
        if proxy is not None:
            small.append(empty(picture) if picture.empty else drawer.submit(proxy_picture, picture))
            if len(small) > _MOST_PENDING:
                small[-_MOST_PENDING].result()  # so that pictures do not pile up

    with LockReader(around.doc, _raise_if_flat(around.doc)) as reader, ThreadPoolExecutor(1, "proxy") as drawer:
        shown = pictures(reader)
        parts = _drawn(known, shown, also) if again else looked(shown, first, last, _finders(), rate, also)
        for each, seen in zip(tasks, parts, strict=True):
            if proxy is not None:
                proxy = _put(proxy, seen.start, small, around)
            if not again:
                _keep(each, seen, around.cache)
            yield seen
    if proxy is not None:
        proxy.close()


def _drawn(known: Sequence[Seen], pictures: Iterator[Picture], also: Callable[[Picture], object]) -> Iterator[Seen]:
    """What was seen before, a stretch after the other, once all its pictures were handed on."""
    for seen in known:
        for _ in range(len(seen.signals.change)):
            also(next(pictures))
        yield seen


def _put(proxy: Proxy, start: int, small: list[Future[bytes]], around: Surroundings) -> Proxy | None:
    """Keep a stretch of the proxy. What is seen is worth the work without one, where the disk has no room for it."""
    try:
        proxy.put(start, [picture.result() for picture in small])
    except EzvarError as error:
        around.tell(error)
        proxy.close()
        return None
    finally:
        small.clear()
    return proxy


def _raise_if_flat(doc: Document) -> Callable[[str, EzvarError], None]:
    def missing(media: str, error: EzvarError) -> None:
        if doc.lock.flat:
            raise error

    return missing


def _name(each: Task) -> str:
    """The name under which what is seen is kept: with or without a proxy the same."""
    return task(each.kind, each.inputs, **{k: v for k, v in each.parameters if k != "proxy"}).result(_VERSION)


def _kept(each: Task, around: Surroundings) -> Seen | None:
    """What is kept of a stretch; ``None`` where it is damaged, or the proxy of it is wanted and not there."""
    start, end = each.number("start"), each.number("end")
    if each["proxy"] and not proxy_kept(around.cache.folder, each.inputs[0], start, end):
        return None
    return _seen_before(each, around)


def _seen_before(each: Task, around: Surroundings) -> Seen | None:
    arrays = around.cache.arrays(_name(each))
    if arrays is None or set(arrays) != {*Signals.__dataclass_fields__, *_ARRAYS}:
        return None
    rows, looks, finders, stills, flows, bars, damaged = (arrays[name] for name in _ARRAYS)
    signals = Signals(**{name: arrays[name] for name in Signals.__dataclass_fields__})
    if (
        rows.dtype != ROW
        or looks.dtype != LOOK
        or stills.dtype != STILL
        or flows.dtype != FLOW
        or bars.dtype != BARS
        or damaged.dtype != np.int32
        or not all(0 <= k < len(KINDS) for k in finders)
        or len(signals.change) != each.number("end") - each.number("start")
    ):
        return None
    evidence = Evidence(
        rows, looks, tuple(KINDS[k] for k in finders), stills, flows, bars, float(around.doc.lock.rate.fraction)
    )
    return Seen(each.number("start"), signals, evidence, damaged)


def _keep(each: Task, seen: Seen, cache: Cache) -> None:
    evidence = seen.evidence
    finders = np.array([KINDS.index(k) for k in evidence.finders], np.uint8)
    arrays = {**seen.signals.arrays(), "rows": evidence.rows, "looks": evidence.looks, "finders": finders,
              "stills": evidence.stills, "flows": evidence.flows,
              "bars": evidence.bars, "damaged": seen.damaged}  # fmt: skip
    cache.put_arrays(_name(each), arrays)


LOOK_THROUGH = register(Kind("look", _VERSION, _look, _kept))
