"""How a program comes to machines that work for it, without loading what that takes before it is asked for."""

from __future__ import annotations

import importlib.util
import ipaddress
import os
import socket
import time
from collections.abc import Callable, Generator, Iterable, Iterator, Sequence
from contextlib import contextmanager
from typing import Any
from urllib.parse import urlsplit

from ezvar.core.errors import InputError, MachineError
from ezvar.core.progress import CancelToken, Progress, silent
from ezvar.core.work import Runner, Surroundings, Task, run_here

from .machine import Machine, Machines
from .threads_here import ThreadsHere
from .ways import Way

DASK_EXTRA = 'pip install "ezvar[cluster]"'
HERE = "here"
"""In place of an address: workers on this machine, for one run; ``here:4`` for four, else as many as pay."""
_PAYS = 4  # processors, from which on processes are faster than threads; each keeps about two busy
_MOST_HERE = 256
_LOOK = 0.25  # seconds


@contextmanager
def connected(address: str, ways: Iterable[Way] = ()) -> Iterator[Machines]:
    """The machines at a scheduler's address, or so many workers ``here``, which end with it; threads of this program,
    where it is not said how many and processes would not pay.

    Raises `MachineError` where they cannot be had, and `InputError` for what is no address.
    """
    is_here = address.partition(":")[0] == HERE
    if is_here and not _number(address):
        yield ThreadsHere()
        return
    _check_installed()
    from .cluster import Cluster
    from .here import workers_here

    if is_here:
        with workers_here(_number(address)) as started, Cluster(started, ways) as cluster:
            yield cluster
    else:
        with Cluster(address, ways) as cluster:
            yield cluster


def reached(address: str, ways: Iterable[Way] = (), cancel: CancelToken | None = None) -> list[Machine]:
    """The machines that an address has. Raises as `connected`, and where none of them can work."""
    with connected(address, ways) as machines:
        machines.wait_for_workers(cancel or CancelToken())
        return machines.machines()


def _check_installed() -> None:
    if any(importlib.util.find_spec(name) is None for name in ("dask", "distributed")):
        raise MachineError(
            "what is needed to work on more machines is not installed", remedy=f"Install it: {DASK_EXTRA}"
        )


def workers_until(number: int, told: Callable[[str], object], cancel: CancelToken) -> int:
    """Have so many workers here, at an address that is ``told``, until it is cancelled. The command's exit status."""
    if not 0 < number <= _MOST_HERE:
        raise InputError(f"{number} is no number of workers", remedy=f"Choose one from 1 to {_MOST_HERE}")
    _check_installed()
    from .here import workers_here

    with workers_here(number) as address:
        told(address)
        while not cancel.cancelled:
            time.sleep(_LOOK)
    return 0


def _number(address: str) -> int:
    """How many workers are wanted here; if it is not said, half as many as processors, or none where they would not
    pay."""
    _, _, said = address.partition(":")
    if not said:
        count = len(os.sched_getaffinity(0))
        return count // 2 if count >= _PAYS else 0
    if not said.isdecimal() or not 0 < int(said) <= _MOST_HERE:
        raise InputError(f"{address!r} is no number of workers", remedy=f"Write it like {HERE}:4")
    return int(said)


def going_on_here(runner: Runner, told: Callable[[MachineError], object]) -> Runner:
    """A runner that goes on on this machine where the others fail; ``told`` is told why."""

    def run(
        tasks: Sequence[Task], around: Surroundings, progress: Progress = silent, cancel: CancelToken | None = None
    ) -> Generator[Any]:
        given = 0
        try:
            for result in runner(tasks, around, progress, cancel):
                given += 1
                yield result
        except MachineError as error:
            told(error)
        yield from run_here(tasks[given:], around, progress, cancel)

    return run


def unprotected(address: str, by_name: bool = True) -> str:
    """A warning where what is sent to an address can be read and changed on the way: without TLS, outside a private
    network. Empty where not. What a name stands for is looked up, which may take a while, only where it is told
    ``by_name``."""
    parts = urlsplit(address if "://" in address else f"tcp://{address}")
    if parts.scheme == "tls" or parts.hostname is None or address.partition(":")[0] == HERE:
        return ""
    try:
        flags = 0 if by_name else socket.AI_NUMERICHOST
        found = {entry[4][0] for entry in socket.getaddrinfo(parts.hostname, None, flags=flags)}
    except OSError:
        return ""  # connecting says so
    if all(ipaddress.ip_address(str(each).partition("%")[0]).is_private for each in found):
        return ""
    return (
        f"What is sent to {parts.hostname} is not protected, and that is no private network. Use TLS:"
        " docs/machines.md says how."
    )
