"""One run of tasks of one kind by a scheduler's workers: what goes out, what comes back, and what is done about what is
lost on the way."""

from __future__ import annotations

import time
from collections.abc import Iterator, Sequence
from queue import Empty, SimpleQueue
from typing import Any

from distributed.scheduler import KilledWorker

from ezvar.core.errors import MachineError
from ezvar.core.progress import CancelToken, Progress
from ezvar.core.work import Kind, Surroundings, Task

from .dividing import next_share
from .errand import Errand, Needed, as_sent, errand_text
from .lot import Ended, Lot
from .needed import Files, as_it_is
from .proof import programs, token_in
from .scheduler import Scheduler
from .worker import Answer, read_answer

_TURN = 0.25  # seconds between looks at whether to go on
_TRIES = 3  # for what was lost on the way, or ended its worker
_GONE = 60.0  # seconds without any worker


class Sending:
    """One run of tasks of one kind."""

    def __init__(
        self, scheduler: Scheduler, kind: Kind[Any], tasks: Sequence[Task], around: Surroundings, progress: Progress,
        cancel: CancelToken,
    ) -> None:  # fmt: skip
        assert kind.travel is not None
        self._scheduler, self._kind, self._travel, self._around = scheduler, kind, kind.travel, around
        self._tasks, self._progress, self._cancel = tasks, progress, cancel
        self._ended: SimpleQueue[Ended] = SimpleQueue()
        self._under_way: set[Lot] = set()
        self._waiting: list[Lot] = []  # those that were sent before, and are to be sent again
        self._next = self._sent = 0
        self._suspects: list[Lot] = []  # single tasks that ended their workers, or lay beside one that did
        self._given_up: list[str] = []
        self._results: dict[int, Any] = {}
        self._finished, self._last_seen = 0, time.monotonic()
        self._files = Files(around.doc)

    def results(self) -> Iterator[Any]:
        given = 0
        try:
            self._scheduler.wait_for_workers(self._cancel)
            self._document = self._scheduler.hand_on(self._files.sent)
            while given < len(self._tasks):
                self._cancel.check()
                self._scheduler.look_now_and_then()
                self._check_somebody_works()
                self._send()
                self._take(_TURN)
                while given in self._results:
                    yield self._results.pop(given)
                    given += 1
                if not self._under_way and not self._waiting and self._next == len(self._tasks):
                    self._judge()
        finally:
            self._scheduler.forget(self._under_way)
            for n in sorted(self._results):
                self._travel.keep(self._tasks[n], self._results[n], self._around)

    def _check_somebody_works(self) -> None:
        now = time.monotonic()
        if self._scheduler.able():
            self._last_seen = now
        elif now - self._last_seen > _GONE:
            raise MachineError(
                f"the scheduler at {self._scheduler.address} has no worker any more",
                remedy="What is done is kept. Start workers again, or go on on this machine",
            )

    def _send(self) -> None:
        """Send as many lots as there are threads."""
        threads = sum(machine.threads for machine in self._scheduler.able())
        while len(self._under_way) < threads and (lot := self._next_lot(threads)) is not None:
            self._under_way.add(lot)
            self._scheduler.submit(lot, errand_text(self._errand(lot)), self._document, self._ended)

    def _next_lot(self, threads: int) -> Lot | None:
        if self._waiting:
            return self._waiting.pop(0)
        together = next_share(self._sent, len(self._tasks) - self._next, threads)
        if not together:
            return None
        lot = Lot(self._next, tuple(self._tasks[self._next : self._next + together]))
        self._next += together
        self._sent += 1
        return lot

    def _errand(self, lot: Lot) -> Errand:
        media: set[str] = set()
        files: list[Needed] = []
        folders: dict[str, None] = {str(self._around.cache.folder): None}
        for task in lot.tasks:
            media |= self._travel.media(task, self._around.doc)
            folders.update(dict.fromkeys(self._travel.folders(task)))
            files += [as_it_is(path) for path in self._travel.files(task)]
        return Errand(
            programs(), self._kind.name, self._kind.version, as_sent(lot.tasks), self._files.sent.name,
            (*self._files.needed(media), *files), tuple(token_in(folder) for folder in folders), self._scheduler.ways,
        )  # fmt: skip

    def _take(self, seconds: float) -> None:
        """Take in what has come to an end, waiting for it a little."""
        try:
            ended = self._ended.get(timeout=seconds)
            while True:
                if ended.lot in self._under_way:
                    self._under_way.remove(ended.lot)
                    self._taken(ended.lot, ended.came, ended.failed)
                ended = self._ended.get_nowait()
        except Empty:
            pass
        under_way = sum(lot.done * len(lot.tasks) for lot in list(self._under_way))
        machines = len({machine.name for machine in self._scheduler.able()})
        on = "1 machine" if machines == 1 else f"{machines} machines"
        self._progress(min(1.0, (self._finished + under_way) / len(self._tasks)), f"At work on {on}")

    def _taken(self, lot: Lot, came: object, failed: Exception | None) -> None:
        """What a lot has come to: its results, or what is to be done about it."""
        if isinstance(failed, KilledWorker):
            self._scheduler.forget([lot])
            if failed.task == self._document.key:
                self._without_document(lot, failed)
            else:
                self._killed(lot)
            return
        self._scheduler.forget_quietly(lot)
        if failed is None:
            self._answered(lot, came)
        else:
            self._lost(lot, failed)

    def _killed(self, lot: Lot) -> None:
        """A lot whose worker died: each task of it by itself, and at last with nothing else under way, since what lay
        on a worker beside what ends it is lost with it."""
        lot.lost = max(1, lot.lost)
        singles = [lot.anew(k, k + 1) for k in range(len(lot.tasks))]
        if lot.alone == 1 and self._given_up:  # what was given up just now may have ended its worker as well
            self._suspects += singles
        elif lot.alone:
            self._given_up.append(self._travel.name(lot.tasks[0], self._around.doc))
        elif lot.deaths + lot.lost < _TRIES - 1:
            self._waiting += singles
        else:
            self._suspects += singles

    def _without_document(self, lot: Lot, failed: Exception) -> None:
        """A lot whose worker died when it was at the document only."""
        if self._document.status == "error":
            self._document.retry()
        self._lost(lot, failed)

    def _judge(self) -> None:
        """Once all else is done, try what was on workers that died again and again, one after the other."""
        if self._suspects:
            lot = self._suspects.pop()
            lot.alone += 1
            self._waiting.append(lot)
            return
        if self._given_up:
            raise MachineError(
                f"{self._given_up[0]} ended every worker that tried it, and is given up",
                remedy="All else is done. Look at that file, or do it on this machine",
            )

    def _lost(self, lot: Lot, failed: Exception) -> None:
        """A lot of which the scheduler knows nothing any more, or which a worker could not even begin."""
        lot.tries += 1
        if lot.tries >= _TRIES:
            said = " ".join(str(failed).split())[:200]
            raise MachineError(f"the workers cannot do it: {said}", remedy="Look at what they say")
        self._scheduler.look()
        self._waiting.append(lot.anew())

    def _answered(self, lot: Lot, came: object) -> None:
        try:
            if not isinstance(came, list) or not all(isinstance(each, bytes) for each in came) or not came:
                raise ValueError("what came back is no answer")
            answer = read_answer(came[0])
            results = [self._travel.unpack(t, each, self._around) for t, each in zip(lot.tasks, came[1:], strict=False)]
        except ValueError as error:
            self._lost(lot, error)
            return
        for n, result in enumerate(results):
            self._results[lot.first + n] = result
        self._finished += len(results)
        for wrong in answer.told:
            self._around.tell(wrong.error())
        if len(results) < len(lot.tasks):
            self._unfinished(lot, len(results), answer)

    def _unfinished(self, lot: Lot, done: int, answer: Answer) -> None:
        """A lot that a machine did not do, or not all of."""
        if answer.wrong is not None:
            raise answer.wrong.error()
        if answer.mistake:
            raise MachineError(f"{answer.machine}: {answer.mistake.rstrip('.')}")
        rest = lot.anew(done)
        if answer.refused:
            for machine in self._scheduler.machines():
                if machine.name == answer.machine:
                    rest.not_on[machine.address] = f"{machine.name} cannot do it: {answer.refused}"
            if all(machine.address in rest.not_on for machine in self._scheduler.able()):
                raise MachineError(next(iter(rest.not_on.values()), answer.refused))
        self._waiting.append(rest)
