"""The way to a Dask scheduler: who works for it, and what it has under way for this program."""

from __future__ import annotations

import threading
import time
from collections import Counter
from collections.abc import Callable, Iterable
from concurrent.futures import CancelledError, ThreadPoolExecutor
from contextlib import suppress
from dataclasses import replace
from itertools import count
from queue import SimpleQueue
from typing import Any, Self

from distributed import Client, Future, Security
from distributed.scheduler import KilledWorker

from ezvar.core.errors import MachineError
from ezvar.core.names import readable
from ezvar.core.progress import CancelToken

from .dask_worker import TOPIC, do_errand, facts, handed_on
from .errand import SentDocument
from .lot import Ended, Lot
from .machine import Machine
from .proof import programs
from .ways import Way

_TURN = 0.25  # seconds between looks at whether to go on
_LOOK, _ANSWER = 2.0, 3.5  # seconds between asking the scheduler whether it is there, and waiting for its answer
_ALL = "all"  # under which Dask tells what happens to workers
_PATIENCE = 5.0  # seconds for a connection
_WAIT = 30.0  # seconds for a first worker
_FETCHING, _FETCH = 4, 120.0  # results that are fetched side by side, and seconds for one


class Scheduler:
    """A scheduler at an address, and its workers.

    ``ways`` say where files are on other machines. Raises `MachineError` where
    no scheduler answers, and for what only its user can mend. Closed with
    `close`; what it was asked to do is then done by nobody.
    """

    def __init__(self, address: str, ways: Iterable[Way] = ()) -> None:
        self.address, self.ways = address, tuple(ways)
        _check_certificates(address)
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
        self._lots: dict[str, tuple[Lot, SimpleQueue[Ended]]] = {}
        self._numbers = count()
        self._name = f"{self._client.id}"
        self._asked, self._gone = 0.0, False
        self._client.subscribe_topic(TOPIC, self._said)
        self._client.subscribe_topic(_ALL, self._happened)

    def close(self) -> None:
        """Leave the scheduler; what is still being done for this program is stopped."""
        if self._client.status == "running":
            self._client.unsubscribe_topic(_ALL)  # it would be told that it left, and be missed
        self._client.close(timeout=_PATIENCE)
        self._fetching.shutdown(wait=False, cancel_futures=True)

    def __enter__(self) -> Self:
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
            except (TimeoutError, CancelledError, KilledWorker):  # what it said is lost: it is asked anew
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

    def submit(self, lot: Lot, text: bytes, document: Future, ended: SimpleQueue[Ended]) -> None:
        """Have a lot done by whoever can, of those the one with the least to do: left to itself, the scheduler prefers
        who has the document already, and moves nothing of which it does not know how long it takes. A worker that has
        just come is first asked what it is; with something long to do it could not say so. Only where the chosen one
        is gone, any other may."""
        lot.key = f"ezvar-{lot.tasks[0].kind}-{self._name}-{next(self._numbers)}"
        able = [m for m in self.able() if m.address not in lot.not_on]
        with self._lock:
            busy = Counter(known.sent_to for known, _ in self._lots.values())
            lot.sent_to = min(able, key=lambda m: busy[m.address] / m.threads).address if able else ""
            self._lots[lot.key] = lot, ended
        lot.future = self._client.submit(
            do_errand, text, document, key=lot.key, workers=lot.sent_to or None, allow_other_workers=True, pure=False
        )

        def fetch(future: Future) -> None:
            """Have what it came to here, while others are waited for."""
            try:
                ended.put(Ended(lot, future.result(timeout=_FETCH)))
            except TimeoutError as error:
                if future.status == "pending":  # it was lost with its worker, and is being done again
                    self._once_done(future, fetch)
                    return
                ended.put(Ended(lot, failed=error))
            except Exception as error:  # of whatever kind it was there
                ended.put(Ended(lot, failed=error))

        self._once_done(lot.future, fetch)

    def hand_on(self, document: SentDocument) -> Future:
        """A document for whoever needs it: sent once, and from one worker to the other."""
        return self._client.submit(handed_on, document.packed, key=f"ezvar-document-{document.name}", pure=True)

    def forget(self, lots: Iterable[Lot]) -> None:
        """Have lots done no longer."""
        those = list(lots)
        for lot in those:
            self.forget_quietly(lot)
        futures = [lot.future for lot in those if lot.future is not None]
        if futures and self._client.status == "running":
            self._client.cancel(futures)

    def forget_quietly(self, lot: Lot) -> None:
        """Know no more of a lot that has ended; its worker waits for another."""
        with self._lock:
            self._lots.pop(lot.key, None)
            if (known := self._workers.get(lot.on)) is not None:
                self._workers[lot.on] = replace(known, doing="")

    def _happened(self, event: tuple[float, Any]) -> None:
        """Where a worker is lost, have what it had come back: a scheduler would try it again by itself, as often as it
        is set to, and beside other things."""
        words = event[1]
        if not isinstance(words, dict) or words.get("action") != "remove-worker" or words.get("expected"):
            return
        with self._lock:
            lost = [known for key in words.get("processing-tasks", ()) if (known := self._lots.get(key)) is not None]
            for lot, _ in lost:
                lot.lost += 1
        for lot, ended in lost:
            ended.put(Ended(lot, failed=KilledWorker(lot.key, str(words.get("worker")), 0)))

    def _said(self, event: tuple[float, Any]) -> None:
        """Take in what a worker says of itself; whatever is no such thing is passed over."""
        words = event[1]
        if not isinstance(words, dict):
            return
        done, doing, address = words.get("done"), words.get("doing"), words.get("address")
        with self._lock:
            lot, _ = self._lots.get(str(words.get("key")), (None, None))
            if lot is not None and isinstance(done, (int, float)) and 0 <= done <= 1:
                lot.done = done
            known = self._workers.get(str(address))
            if known is not None and lot is not None:
                lot.on = known.address
                self._workers[lot.on] = replace(known, doing=readable(str(doing))[:80])


def _check_certificates(address: str) -> None:
    """Raise `MachineError` where what TLS needs here is missing: the client falls over it."""
    remedy = "docs/machines.md says how TLS is set up"
    try:
        said = Security().get_connection_args("client")
    except OSError as error:
        named = f" ({error.strerror})" if error.strerror else ""
        raise MachineError(f"the certificates for TLS cannot be read{named}", remedy=remedy) from error
    if address.startswith("tls:") and said.get("ssl_context") is None:
        raise MachineError(f"there are no certificates here for {address}", remedy=remedy)


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
