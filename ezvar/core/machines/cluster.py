"""Tasks done by the workers of a Dask scheduler.

It decides where what is done, and does it again elsewhere where a worker
dies. Nothing here is loaded before somebody asks for it.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Generator, Iterable, Iterator, Sequence
from concurrent.futures import CancelledError, ThreadPoolExecutor
from contextlib import suppress
from dataclasses import dataclass, field
from itertools import count, groupby
from queue import Empty, SimpleQueue
from typing import Any

from distributed import Client, Future
from distributed.scheduler import KilledWorker

from ezvar.core.errors import MachineError
from ezvar.core.names import readable
from ezvar.core.progress import CancelToken, Progress, portion, silent
from ezvar.core.work import Kind, Surroundings, Task, kind_of, run_here

from .dask_worker import TOPIC, do_errand, facts, handed_on
from .dividing import next_share
from .errand import Errand, Needed, SentDocument, as_sent, errand_text
from .machine import Machine
from .needed import Files, as_it_is
from .proof import programs, token_in
from .ways import Way
from .worker import Answer, read_answer

_TURN = 0.25  # seconds between looks at whether to go on
_LOOK, _ANSWER = 2.0, 3.5  # seconds between asking the scheduler whether it is there, and waiting for its answer
_PATIENCE = 5.0  # seconds for a connection
_TRIES = 3  # for what was lost on the way
_WAIT = 30.0  # seconds for a first worker
_GONE = 60.0  # seconds without any worker
_FETCHING, _FETCH = 4, 120.0  # results that are fetched side by side, and seconds for one


@dataclass(eq=False)
class _Lot:
    """Tasks that are sent together, and what has become of them."""

    first: int  # of all tasks
    tasks: tuple[Task, ...]
    key: str = ""
    future: Future | None = None
    not_on: dict[str, str] = field(default_factory=dict)  # machines that cannot do it, and why
    tries: int = 0
    alone: bool = False  # tried with nothing else under way
    done: float = 0.0
    came: object = None  # what it came to, as it came
    failed: Exception | None = None


class Cluster:
    """The workers at a scheduler's address.

    ``ways`` say where files are on other machines. Raises `MachineError` where
    no scheduler answers, and for what only its user can mend. Closed with
    `close`; what it was asked to do is then done by nobody.
    """

    def __init__(self, address: str, ways: Iterable[Way] = ()) -> None:
        self.address, self.ways = address, tuple(ways)
        try:
            self._client = Client(address, timeout=_PATIENCE, set_as_default=False, name="ezvar")
        except (OSError, ValueError, ImportError) as error:
            raise MachineError(
                f"no scheduler answers at {address}", remedy="Start one, or write its address like tcp://host:8786"
            ) from error
        self._lock = threading.Lock()
        self._workers: dict[str, Machine] = {}
        self._asking: dict[str, Future] = {}  # what workers are, by their addresses
        self._fetching = ThreadPoolExecutor(_FETCHING, "results")
        self._lots: dict[str, _Lot] = {}
        self._numbers = count()
        self._name = f"{self._client.id}"
        self._asked, self._gone = 0.0, False
        self._client.subscribe_topic(TOPIC, self._said)

    def close(self) -> None:
        """Leave the scheduler; what is still being done for this program is stopped."""
        self._client.close(timeout=_PATIENCE)
        self._fetching.shutdown(wait=False, cancel_futures=True)

    def __enter__(self) -> Cluster:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def machines(self) -> list[Machine]:
        """The workers as they were when they were last asked for, in the order of their names."""
        with self._lock:
            return sorted(self._workers.values(), key=lambda each: (each.name, each.address))

    def there(self) -> bool:
        """Whether the scheduler is there."""
        return bool(self._client.status == "running") and not self._gone

    def run(
        self, tasks: Sequence[Task], around: Surroundings, progress: Progress = silent,
        cancel: CancelToken | None = None,
    ) -> Generator[Any]:  # fmt: skip
        """Do tasks, as `run_here` does, but elsewhere, those of kinds that travel.

        What has come back when it is closed, cancelled, or when something goes
        wrong, and was not given yet, is kept as its kind says. Where a task
        has ended the workers that tried it, all others are done, and then
        `MachineError` is raised, which names it.
        """
        token = cancel or CancelToken()
        found = [(task, kind_of(task), kind_of(task).kept(task, around)) for task in tasks]
        done = 0
        for (missing, kind), group in groupby(found, key=lambda each: (each[2] is None, each[1])):
            those = [task for task, _, _ in group]
            within = portion(progress, done / len(tasks), (done + len(those)) / len(tasks))
            if not missing:
                yield from (kept for _, _, kept in found[done : done + len(those)])
            elif kind.travel is None:
                yield from run_here(those, around, within, token)
            else:
                yield from _Sending(self, kind, those, around, within, token).results()
            done += len(those)

    def look(self) -> None:
        """Ask the scheduler who is there, and those that are new what they are. Raises `MachineError` where it does not
        answer."""
        told = self._identity() or self._identity()  # a busy machine may be late once
        if told is None:
            self._gone = True
            raise MachineError(
                f"the scheduler at {self.address} no longer answers",
                remedy="What is done is kept. Start it again, or go on on this machine",
            )
        there = {address: (str(w["host"]), int(w["nthreads"])) for address, w in told["workers"].items()}
        with self._lock:
            for gone in self._asking.keys() - there.keys():
                del self._asking[gone]
                self._workers.pop(gone, None)
            new = [address for address in there if address not in self._asking]
        for address in new:
            self._ask(address, *there[address])
        self._asked = time.monotonic()

    def _identity(self) -> dict[str, Any] | None:
        """What the scheduler says of itself and its workers; ``None`` where it does not answer."""
        try:
            told = self._client.sync(self._client.scheduler.identity, n_workers=-1, callback_timeout=_ANSWER)
        except (OSError, ValueError, RuntimeError):
            return None
        return dict(told)

    def _ask(self, address: str, host: str, threads: int) -> None:
        """Ask a new worker what it is; it counts from its answer on."""
        key = f"ezvar-facts-{self._name}-{next(self._numbers)}"
        asking = self._client.submit(facts, key=key, workers=[address], pure=False, priority=10)
        with self._lock:
            self._asking[address] = asking

        def answered(future: Future) -> None:
            try:
                answer = future.result(timeout=_PATIENCE)
            except (TimeoutError, CancelledError):  # what it said is lost: it is asked anew
                with self._lock:
                    if self._asking.get(address) is asking:
                        del self._asking[address]
                return
            except Exception:  # it has no Ezvar, or quite another
                answer = None
            with self._lock:
                if self._asking.get(address) is asking:
                    self._workers[address] = _machine(address, host, threads, answer)

        self._once_done(asking, answered)

    def _once_done(self, future: Future, then: Callable[[Future], object]) -> None:
        """Have something done on a thread once it is known what became of a future: all that waits there, and what it
        came to may be lost with its worker at any time, holds up nothing else."""

        def done(future: Future) -> None:
            with suppress(RuntimeError):  # it is closed: nobody waits any more
                self._fetching.submit(then, future)

        future.add_done_callback(done)

    def look_now_and_then(self) -> None:
        """As `look`, where that is some time ago."""
        if time.monotonic() - self._asked > _LOOK:
            self.look()

    def able(self) -> list[Machine]:
        """The workers that can do something."""
        return [machine for machine in self.machines() if not machine.refused]

    def wait_for_workers(self, cancel: CancelToken) -> None:
        """Wait until some worker is there that can do something. Raises `MachineError` where none comes."""
        begun = time.monotonic()
        self.look()
        while not self.able():
            if refused := [m for m in self.machines() if m.refused]:
                raise MachineError(f"{refused[0].name} cannot work: {refused[0].refused}", remedy=None)
            if time.monotonic() - begun > _WAIT:
                raise MachineError(f"the scheduler at {self.address} has no worker", remedy="Start one")
            cancel.check()
            time.sleep(_TURN)
            self.look()

    def submit(self, lot: _Lot, text: bytes, document: Future, ended: SimpleQueue[_Lot]) -> None:
        """Have a lot done by whoever can. A worker that has just come is first asked what it is; with something long to
        do it could not say so. Only where all who can are gone, any other may."""
        lot.key = f"ezvar-{lot.tasks[0].kind}-{self._name}-{next(self._numbers)}"
        able = [m.address for m in self.able() if m.address not in lot.not_on]
        with self._lock:
            self._lots[lot.key] = lot
        lot.future = self._client.submit(
            do_errand, text, document, key=lot.key, workers=able or None, allow_other_workers=True, pure=False
        )

        def fetch(future: Future) -> None:
            """Have what it came to here, while others are waited for."""
            try:
                lot.came = future.result(timeout=_FETCH)
            except TimeoutError as error:
                if future.status == "pending":  # it was lost with its worker, and is being done again
                    self._once_done(future, fetch)
                    return
                lot.failed = error
            except Exception as error:  # of whatever kind it was there
                lot.failed = error
            ended.put(lot)

        self._once_done(lot.future, fetch)

    def hand_on(self, document: SentDocument) -> Future:
        """A document for whoever needs it: sent once, and from one worker to the other."""
        return self._client.submit(handed_on, document.packed, key=f"ezvar-document-{document.name}", pure=True)

    def forget(self, lots: Iterable[_Lot]) -> None:
        """Have lots done no longer."""
        those = list(lots)
        with self._lock:
            for lot in those:
                self._lots.pop(lot.key, None)
        futures = [lot.future for lot in those if lot.future is not None]
        if futures and self._client.status == "running":
            self._client.cancel(futures)

    def forget_quietly(self, lot: _Lot) -> None:
        """Know no more of a lot that has ended."""
        with self._lock:
            self._lots.pop(lot.key, None)

    def _said(self, event: tuple[float, Any]) -> None:
        """Take in what a worker says of itself; whatever is no such thing is passed over."""
        words = event[1]
        if not isinstance(words, dict):
            return
        done, doing, address = words.get("done"), words.get("doing"), words.get("address")
        with self._lock:
            lot = self._lots.get(str(words.get("key")))
            if lot is not None and isinstance(done, (int, float)) and 0 <= done <= 1:
                lot.done = done
            known = self._workers.get(str(address))
            if known is not None and lot is not None:
                self._workers[str(address)] = Machine(
                    known.name, known.address, known.threads, readable(str(doing))[:80], known.refused
                )


def _machine(address: str, host: str, threads: int, answer: object) -> Machine:
    """What a worker says that it is."""
    if not isinstance(answer, dict) or not all(isinstance(each, str) for each in answer.values()):
        return Machine(host, address, threads, refused="it has no Ezvar, or quite another")
    name = readable(answer.get("machine") or host)[:60]
    own = programs()
    for program in own:
        if answer.get(program) != own[program]:
            said = f"it has {program} {answer.get(program, 'not at all')}, this machine {own[program]}"
            return Machine(name, address, threads, refused=f"{said}. Install the same Ezvar on all machines")
    return Machine(name, address, threads)


class _Sending:
    """One run of tasks of one kind."""

    def __init__(
        self, cluster: Cluster, kind: Kind[Any], tasks: Sequence[Task], around: Surroundings, progress: Progress,
        cancel: CancelToken,
    ) -> None:  # fmt: skip
        assert kind.travel is not None
        self._cluster, self._kind, self._travel, self._around = cluster, kind, kind.travel, around
        self._tasks, self._progress, self._cancel = tasks, progress, cancel
        self._ended: SimpleQueue[_Lot] = SimpleQueue()
        self._under_way: set[_Lot] = set()
        self._waiting: list[_Lot] = []  # those that were sent before, and are to be sent again
        self._next = self._sent = 0
        self._suspects: list[_Lot] = []  # single tasks that ended their workers, or lay beside one that did
        self._given_up: list[str] = []
        self._results: dict[int, Any] = {}
        self._finished, self._last_seen = 0, time.monotonic()
        self._files = Files(around.doc)

    def results(self) -> Iterator[Any]:
        given = 0
        try:
            self._cluster.wait_for_workers(self._cancel)
            self._document = self._cluster.hand_on(self._files.sent)
            while given < len(self._tasks):
                self._cancel.check()
                self._cluster.look_now_and_then()
                self._check_somebody_works()
                self._send()
                self._take(_TURN)
                while given in self._results:
                    yield self._results.pop(given)
                    given += 1
                if not self._under_way and not self._waiting and self._next == len(self._tasks):
                    self._judge()
        finally:
            self._cluster.forget(self._under_way)
            for n in sorted(self._results):
                self._travel.keep(self._tasks[n], self._results[n], self._around)

    def _check_somebody_works(self) -> None:
        now = time.monotonic()
        if self._cluster.able():
            self._last_seen = now
        elif now - self._last_seen > _GONE:
            raise MachineError(
                f"the scheduler at {self._cluster.address} has no worker any more",
                remedy="What is done is kept. Start workers again, or go on on this machine",
            )

    def _send(self) -> None:
        """Send as many lots as there are threads."""
        threads = sum(machine.threads for machine in self._cluster.able())
        while len(self._under_way) < threads and (lot := self._next_lot(threads)) is not None:
            self._under_way.add(lot)
            self._cluster.submit(lot, errand_text(self._errand(lot)), self._document, self._ended)

    def _next_lot(self, threads: int) -> _Lot | None:
        if self._waiting:
            return self._waiting.pop(0)
        together = next_share(self._sent, len(self._tasks) - self._next, threads)
        if not together:
            return None
        lot = _Lot(self._next, tuple(self._tasks[self._next : self._next + together]))
        self._next += together
        self._sent += 1
        return lot

    def _errand(self, lot: _Lot) -> Errand:
        media: set[str] = set()
        files: list[Needed] = []
        folders: dict[str, None] = {str(self._around.cache.folder): None}
        for task in lot.tasks:
            media |= self._travel.media(task, self._around.doc)
            folders.update(dict.fromkeys(self._travel.folders(task)))
            files += [as_it_is(path) for path in self._travel.files(task)]
        return Errand(
            programs(), self._kind.name, self._kind.version, as_sent(lot.tasks), self._files.sent.name,
            (*self._files.needed(media), *files), tuple(token_in(folder) for folder in folders), self._cluster.ways,
        )  # fmt: skip

    def _take(self, seconds: float) -> None:
        """Take in what has come to an end, waiting for it a little."""
        try:
            lot = self._ended.get(timeout=seconds)
            while True:
                if lot in self._under_way:
                    self._under_way.remove(lot)
                    self._taken(lot)
                lot = self._ended.get_nowait()
        except Empty:
            pass
        under_way = sum(lot.done * len(lot.tasks) for lot in list(self._under_way))
        machines = len({machine.name for machine in self._cluster.able()})
        on = "1 machine" if machines == 1 else f"{machines} machines"
        self._progress(min(1.0, (self._finished + under_way) / len(self._tasks)), f"At work on {on}")

    def _taken(self, lot: _Lot) -> None:
        """What a lot has come to: its results, or what is to be done about it."""
        self._cluster.forget_quietly(lot)
        if lot.failed is None:
            self._answered(lot, lot.came)
        elif isinstance(lot.failed, KilledWorker):
            self._killed(lot)
        else:
            self._lost(lot)

    def _killed(self, lot: _Lot) -> None:
        """A lot that ended its workers: each task of it by itself, until it is known which does."""
        if len(lot.tasks) > 1:
            self._waiting += [_Lot(lot.first + k, (task,)) for k, task in enumerate(lot.tasks)]
        elif lot.alone:
            self._given_up.append(self._travel.name(lot.tasks[0], self._around.doc))
        else:
            self._suspects.append(lot)

    def _judge(self) -> None:
        """Once all else is done, find which task ended the workers. What lay on them beside it, or was done and not
        fetched yet, is blamed with it: of several each is tried by itself, those that were blamed last first, but for
        the last one where all others were innocent."""
        if not self._given_up and len(self._suspects) == 1:
            self._given_up.append(self._travel.name(self._suspects[0].tasks[0], self._around.doc))
        elif self._suspects:
            lot = self._suspects.pop()
            self._waiting.append(_Lot(lot.first, lot.tasks, alone=True))
            return
        if self._given_up:
            raise MachineError(
                f"{self._given_up[0]} ended every worker that tried it, and is given up",
                remedy="All else is done. Look at that file, or do it on this machine",
            )

    def _lost(self, lot: _Lot) -> None:
        """A lot of which the scheduler knows nothing any more, or which a worker could not even begin."""
        lot.tries += 1
        if lot.tries >= _TRIES:
            said = " ".join(str(lot.failed).split())[:200]
            raise MachineError(f"the workers cannot do it: {said}", remedy="Look at what they say")
        lot.failed = None
        self._cluster.look()
        self._waiting.append(lot)

    def _answered(self, lot: _Lot, came: object) -> None:
        try:
            if not isinstance(came, list) or not all(isinstance(each, bytes) for each in came) or not came:
                raise ValueError("what came back is no answer")
            answer = read_answer(came[0])
            results = [self._travel.unpack(t, each, self._around) for t, each in zip(lot.tasks, came[1:], strict=False)]
        except ValueError as error:
            lot.failed = error
            self._lost(lot)
            return
        for n, result in enumerate(results):
            self._results[lot.first + n] = result
        self._finished += len(results)
        for wrong in answer.told:
            self._around.tell(wrong.error())
        if len(results) < len(lot.tasks):
            self._unfinished(lot, len(results), answer)

    def _unfinished(self, lot: _Lot, done: int, answer: Answer) -> None:
        """A lot that a machine did not do, or not all of."""
        if answer.wrong is not None:
            raise answer.wrong.error()
        if answer.mistake:
            raise MachineError(f"{answer.machine}: {answer.mistake.rstrip('.')}")
        rest = _Lot(lot.first + done, lot.tasks[done:], not_on=dict(lot.not_on), tries=lot.tries)
        if answer.refused:
            for machine in self._cluster.machines():
                if machine.name == answer.machine:
                    rest.not_on[machine.address] = f"{machine.name} cannot do it: {answer.refused}"
            if all(machine.address in rest.not_on for machine in self._cluster.able()):
                raise MachineError(next(iter(rest.not_on.values()), answer.refused))
        self._waiting.append(rest)
