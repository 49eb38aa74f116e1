"""What a screen shows of a lock as tasks: the sweep chart's ground, and how loud the sound is."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import cv2
import numpy as np

from ezvar.core.media import fit_within
from ezvar.core.model import Document
from ezvar.core.progress import CancelToken, Progress
from ezvar.core.viewing import Proxy, slit_scan
from ezvar.core.work import Kind, Surroundings, Task, register, task

from .pictures import LockReader
from .placement import used_size
from .proxies import proxy_of
from .sound import peaks
from .strips import lock_content

_SMALL = (192, 108)
_COLUMNS = 1500  # a column of the chart is never finer than the screen


def sweep_task(doc: Document, start: int, end: int, along_y: bool) -> Task:
    """The slit scan of lock frames ``start`` to ``end``, as `slit_scan`."""
    return task("sweep", [lock_content(doc)], start=start, end=end, along_y=along_y)


def loudness_task(doc: Document, columns: int) -> Task:
    """How loud the lock is from end to end, as `peaks`."""
    sounds = sorted(f"{m.id} {m.content}" for m in doc.lock.media if m.has_sound)
    return task("loudness", [lock_content(doc), *sounds], columns=columns)


def _sweep(
    tasks: Sequence[Task], around: Surroundings, progress: Progress, cancel: CancelToken
) -> Iterator[np.ndarray]:
    proxy = proxy_of(around.doc, around.cache)
    try:
        with LockReader(around.doc) as reader:
            for each in tasks:
                yield _scan(each, reader, proxy, progress, cancel)
    finally:
        proxy.close()


def _scan(each: Task, reader: LockReader, proxy: Proxy, progress: Progress, cancel: CancelToken) -> np.ndarray:
    start, end = each.number("start"), each.number("end")
    small = fit_within(*used_size(reader.doc, reader.doc.shot_at(start)), *_SMALL)

    def column(n: int) -> np.ndarray:
        cancel.check()
        progress((n - start) / (end - start), "Drawing the sweep chart")
        rgb = proxy.picture(n)
        return reader.frame(n).rgb(*small) if rgb is None else cv2.resize(rgb, small, interpolation=cv2.INTER_AREA)

    return slit_scan(map(column, range(start, end, max(1, (end - start) // _COLUMNS))), bool(each["along_y"]))


def _loudness(
    tasks: Sequence[Task], around: Surroundings, progress: Progress, cancel: CancelToken
) -> Iterator[np.ndarray]:
    for each in tasks:
        yield peaks(around.doc, each.number("columns"), cancel, progress)


SWEEP = register(Kind("sweep", 1, _sweep))
LOUDNESS = register(Kind("loudness", 1, _loudness))
