"""Looking through a lock as tasks, one a stretch: what is seen, and the proxy's pictures, from one decoding."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import closing
from dataclasses import replace
from time import monotonic

import numpy as np

from ezvar.core.errors import EzvarError
from ezvar.core.lock import LockReader, Run, proxy_of, runs
from ezvar.core.media import Picture
from ezvar.core.model import Document
from ezvar.core.names import readable
from ezvar.core.progress import CancelToken, Progress, silent
from ezvar.core.store import Cache, Piece, covering, gaps, pack_arrays, piece_name, unpack_arrays
from ezvar.core.viewing import Proxy, proxy_picture
from ezvar.core.work import Kind, Runner, Surroundings, Task, Travel, register, run_here, task

from .analysis import Analysis
from .cadence import Cadence
from .gather import Finders
from .keeping import from_arrays, to_arrays
from .laid import laid
from .looking import STRETCH, Seen, lead, looked
from .shelf import Shelf

_VERSION = 19  # to be raised when what is measured changes
_MOST_PENDING = 8  # pictures that wait to be drawn small
_EACH_PART, _PART_COSTS = 3.0, 10.0  # seconds, and times what it takes to lay out, after which what is known is told
_SAID = "Looking for cuts, people, text and movement"


def look_tasks(doc: Document, cache: Cache, proxy: bool) -> list[Task]:
    """The tasks of looking at what a document's lock shows and the cache does not know, in the order of the lock.

    Of each source a little more is looked at than is shown, before and after: by so much a clip can be made longer
    without reading again. With a ``proxy`` it is made on the way, and drawn where only that is missing.
    """
    all_runs = runs(doc)
    return _tasks(doc, all_runs, _shelf(doc, all_runs, cache), proxy_of(doc, cache) if proxy else None)


def look_through(
    doc: Document, cache: Cache, progress: Progress = silent, cancel: CancelToken | None = None,
    proxy_told: Callable[[EzvarError], object] | None = None,
    part: Callable[[Analysis], object] | None = None,
    wanted: Callable[[], int] = lambda: 0,
    runner: Runner = run_here,
) -> Analysis:  # fmt: skip
    """What is seen in a lock. What was seen before of the same media, in whatever lock, is taken from the cache.

    What was seen when this is stopped is kept, so that the next time goes on from there. Missing media of a timeline
    show nothing; of a flat lock they raise `MediaError`. A proxy is made on the way where there is somebody to be told
    (``proxy_told``) what the disk refuses of it. ``part`` is handed what is known so far, after the first stretch and
    then every few seconds. The lock is read from its beginning on; but from the stretch that holds the ``wanted`` lock
    frame, asked for after each stretch, where that is not read yet. A ``runner`` may do it elsewhere.
    """
    all_runs = runs(doc)
    shelf = _shelf(doc, all_runs, cache)
    proxy = proxy_of(doc, cache) if proxy_told is not None else None
    tasks = _tasks(doc, all_runs, shelf, proxy)
    if proxy is not None:
        proxy.close()
    around = Surroundings(doc, cache, proxy_told or (lambda error: None))
    told, takes = -_EACH_PART, 0.0
    for left, each, found in _in_turn(tasks, around, progress, cancel, lambda: _strip_at(all_runs, wanted()), runner):
        if each.kind == LOOK_THROUGH.name:
            shelf.put(each.inputs[0], _kept_as(each.inputs[0]), found)
        begun = monotonic()
        if part is not None and left and begun - told > max(_EACH_PART, _PART_COSTS * takes):
            part(laid(all_runs, shelf, _finders().kinds))
            told = monotonic()
            takes = told - begun
    return laid(all_runs, shelf, _finders().kinds)


def kept_analysis(doc: Document, cache: Cache) -> Analysis | None:
    """What was seen in a lock, where all of it is kept from an earlier time; nothing is read."""
    all_runs = runs(doc)
    shelf = _shelf(doc, all_runs, cache)
    if _tasks(doc, all_runs, shelf, None):
        return None
    return laid(all_runs, shelf, _finders().kinds)


_LOADED: list[Finders] = []


def _finders() -> Finders:
    """The finders, loaded once a program."""
    if not _LOADED:
        _LOADED.append(Finders())
    return _LOADED[0]


def _strip_at(all_runs: Sequence[Run], frame: int) -> tuple[str, int]:
    """The strip and its picture that a lock frame shows."""
    run = next((run for run in all_runs if run.start <= frame < run.end), all_runs[0])
    return run.strip, run.first + frame - run.start


def _in_turn(
    tasks: Sequence[Task], around: Surroundings, progress: Progress, cancel: CancelToken | None,
    wanted: Callable[[], tuple[str, int]], runner: Runner,
) -> Iterator[tuple[int, Task, Seen]]:  # fmt: skip
    """Each task done, with how many are left and what it came to: those first that hold the wanted picture, then those
    that follow them, and what was passed over at the end."""
    left = list(tasks)

    def turned() -> bool:
        strip, n = wanted()
        holds = (each.inputs[0] == strip and each.number("start") <= n < each.number("end") for each in left)
        at = next((k for k, held in enumerate(holds) if held), 0)
        left[:] = left[at:] + left[:at]
        return at > 0

    while left:
        turned()
        done = 1 - len(left) / len(tasks)

        def within(fraction: float, said: str, done: float = done) -> None:
            progress(done + fraction * (1 - done), said)

        with closing(runner(tuple(left), around, within, cancel)) as running:
            for found in running:
                each = left.pop(0)
                yield len(left), each, found
                if turned():
                    break


def _tasks(
    doc: Document, all_runs: Sequence[Run], shelf: Shelf, proxy: Proxy | None
) -> list[Task]:  # fmt: skip
    """What is to be looked at, or only to be drawn for a proxy, in the order of the lock."""
    handle = Cadence(float(doc.lock.rate.fraction)).people
    looks = {run.strip: list(shelf.pieces(run.strip)) for run in all_runs}
    drawn = {} if proxy is None else {run.strip: proxy.pieces(run.strip) for run in all_runs}
    found: list[Task] = []
    for run in all_runs:
        if not run.strip:
            continue
        known = looks[run.strip]
        for start, end, follows in _missing(run, known, handle):
            found += _each("look", run.strip, start, end, follows=follows, proxy=proxy is not None)
            known.append((start, end))
            drawn.setdefault(run.strip, []).append((start, end))
        if proxy is not None:
            for start, end, follows in _missing(run, drawn[run.strip], 0):
                found += _each("draw", run.strip, start, end, follows=follows, proxy=True)
                drawn[run.strip].append((start, end))
    return found


def _missing(run: Run, known: Sequence[Piece], handle: int) -> list[tuple[int, int, bool]]:
    """Which pictures of a run are not known, with those around that are to be read with them; and whether they follow
    known ones."""
    found = []
    for start, end in gaps(run.first, run.last, known):
        least = max((b for a, b in known if a <= start and b <= start), default=run.low)
        most = min((a for a, b in known if a >= end), default=run.high)
        first = max(start - handle, least, run.low) if start == run.first else start
        last = min(end + handle, most, run.high) if end == run.last else end
        found.append((first, last, any(b == first for _, b in known)))
    return found


def _each(kind: str, strip: str, start: int, end: int, follows: bool, proxy: bool) -> Iterator[Task]:
    for first in range(start, end, STRETCH):
        yield task(
            kind, [strip], start=first, end=min(end, first + STRETCH), proxy=proxy, follows=follows or first > start
        )


def _stretches(tasks: Sequence[Task]) -> Iterator[list[Task]]:
    """Tasks in groups of those that follow one another along a strip."""
    group: list[Task] = []
    for each in tasks:
        if group and (group[-1].inputs, group[-1]["end"]) != (each.inputs, each["start"]):
            yield group
            group = []
        group.append(each)
    if group:
        yield group


def _look(tasks: Sequence[Task], around: Surroundings, progress: Progress, cancel: CancelToken) -> Iterator[Seen]:
    rate = float(around.doc.lock.rate.fraction)
    by_strip = {run.strip: run for run in runs(around.doc)}
    with _Drawer(tasks, around) as drawer, _reader(around.doc) as reader:
        told = _Told(tasks, progress, cancel)
        for group in _stretches(tasks):
            run, first, last = by_strip[group[0].inputs[0]], group[0].number("start"), group[-1].number("end")
            begin = max(run.low, first - lead(rate)) if group[0]["follows"] else first
            pictures = told.each(reader.strip(run, begin, last), first)
            for seen in looked(pictures, first, last, _finders(), rate, drawer.draw):
                drawer.keep(run.strip, seen.start, seen.gone)
                yield seen


def _draw(tasks: Sequence[Task], around: Surroundings, progress: Progress, cancel: CancelToken) -> Iterator[None]:
    by_strip = {run.strip: run for run in runs(around.doc)}
    with _Drawer(tasks, around) as drawer, _reader(around.doc) as reader:
        told = _Told(tasks, progress, cancel)
        for each in tasks:
            strip, start, end, gone = each.inputs[0], each.number("start"), each.number("end"), False
            for picture in told.each(reader.strip(by_strip[strip], start, end), start):
                drawer.draw(picture)
                gone = gone or picture.empty
            drawer.keep(strip, start, gone)
            yield None


class _Told:
    """How far tasks are, told now and then."""

    def __init__(self, tasks: Sequence[Task], progress: Progress, cancel: CancelToken) -> None:
        self._all = sum(each.number("end") - each.number("start") for each in tasks)
        self._done, self._progress, self._cancel = 0, progress, cancel

    def each(self, pictures: Iterator[Picture], first: int) -> Iterator[Picture]:
        """Pictures handed on; those before ``first`` are none of a task's own."""
        for picture in pictures:
            self._cancel.check()
            if picture.index % 25 == 0:
                self._progress(self._done / self._all, _SAID)
            self._done += picture.index >= first
            yield picture


class _Drawer:
    """Draws the proxy's pictures beside the looking, where it is wanted and the disk has room for it."""

    def __init__(self, tasks: Sequence[Task], around: Surroundings) -> None:
        self._around = around
        self._proxy = proxy_of(around.doc, around.cache) if tasks[0]["proxy"] else None
        self._small: list[Future[bytes]] = []
        self._thread = ThreadPoolExecutor(1, "proxy")

    def __enter__(self) -> _Drawer:
        return self

    def __exit__(self, *_: object) -> None:
        self._thread.shutdown()
        if self._proxy is not None:
            self._proxy.close()

    def draw(self, picture: Picture) -> None:
        """Draw the next picture."""
        if self._proxy is None:
            return
        self._small.append(self._thread.submit(proxy_picture, picture))
        if len(self._small) > _MOST_PENDING:
            self._small[-_MOST_PENDING].result()  # so that pictures do not pile up

    def keep(self, strip: str, start: int, gone: bool) -> None:
        """Keep what was drawn of a strip, from its picture ``start`` on, unless some of it was ``gone``."""
        if (proxy := self._proxy) is None:
            return
        try:
            if not gone:
                proxy.put(strip, start, [picture.result() for picture in self._small])
        except EzvarError as error:  # what is seen is worth the work without a proxy
            self._around.tell(error)
            proxy.close()
            self._proxy = None
        finally:
            self._small.clear()


def _reader(doc: Document) -> LockReader:
    return LockReader(doc, _raise_if_flat(doc), glancing=True)


def _raise_if_flat(doc: Document) -> Callable[[str, EzvarError], None]:
    def missing(media: str, error: EzvarError) -> None:
        if doc.lock.flat:
            raise error

    return missing


def kept_name(strip: str, start: int, end: int) -> str:
    """The name under which what is seen of pictures of a strip is kept."""
    return piece_name(_kept_as(strip), start, end)


def _kept_as(strip: str) -> str:
    return task("look", [strip], finders=list(_finders().kinds)).result(_VERSION)


def _shelf(doc: Document, all_runs: Sequence[Run], cache: Cache) -> Shelf:
    """What is kept of the strips that a lock shows, as far as it is sound."""
    rate, known = float(doc.lock.rate.fraction), cache.pieces()
    shelf, before = Shelf(cache, rate), Cadence(rate).text
    for run in all_runs:
        if run.strip:
            there = covering(run.first - before, run.last + before, known.get(_kept_as(run.strip), ()))
            shelf.take_up(run.strip, _kept_as(run.strip), set(there) - set(shelf.pieces(run.strip)))
    return shelf


def _media_of(each: Task, doc: Document) -> set[str]:
    """The media of a task's strip."""
    return {run.shot.source.media for run in runs(doc) if run.strip == each.inputs[0]}


def _named(each: Task, doc: Document) -> str:
    """What a task looks at, in words."""
    known = {m.id: m for m in doc.lock.media}
    media = " ".join(readable(known[id].name or known[id].path) for id in sorted(_media_of(each, doc)))
    rate = doc.lock.rate
    start, end = (f"{float(rate.seconds(each.number(name))):.1f}" for name in ("start", "end"))
    return f"looking at {media} from {start} to {end} s"


def _keep(each: Task, seen: Seen, around: Surroundings) -> None:
    if not seen.gone:
        around.cache.put_arrays(kept_name(each.inputs[0], seen.start, seen.end), to_arrays(seen))


def _pack(seen: Seen) -> bytes:
    return pack_arrays({**to_arrays(seen), "gone": np.array(seen.gone)})


def _unpack(each: Task, data: bytes, around: Surroundings) -> Seen:
    """What `_pack` made. Raises `ValueError` for anything else."""
    start, end, rate = each.number("start"), each.number("end"), float(around.doc.lock.rate.fraction)
    arrays = unpack_arrays(data)
    gone = bool(np.any(arrays.pop("gone", np.array(False))))
    seen = from_arrays(arrays, start, end, rate)
    if seen is None:
        raise ValueError("what was seen is not what was asked for")
    return replace(seen, gone=gone)


LOOK_THROUGH = register(Kind("look", _VERSION, _look, travel=Travel(_pack, _unpack, _media_of, _named, keep=_keep)))
_DRAW = register(Kind("draw", 1, _draw, travel=Travel(lambda _: b"", lambda *_: None, _media_of, _named)))
