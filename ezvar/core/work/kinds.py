"""The kinds of work. Each registers itself where it is written; this room knows none of them."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

from ezvar.core.apart import Plain, Task
from ezvar.core.errors import EzvarError
from ezvar.core.model import Document
from ezvar.core.progress import CancelToken, Progress
from ezvar.core.store import Cache

R = TypeVar("R")


def _nobody_listens(task: Task, said: Plain) -> None:
    """For tasks whose events nobody wants."""


def _nobody_stops(task: Task) -> CancelToken:
    """For tasks that are stopped together alone."""
    return CancelToken()


@dataclass(frozen=True)
class Surroundings:
    """What stands, where a task is done, for the names that it has as inputs: the document, and the cache for what
    is kept. ``tell`` is told what went wrong without stopping the work, ``on_event`` what a task says of itself while
    it is done; ``cancel_of`` gives what stops one task and none of the others. A task that is made up of others may
    have them done by ``others``, on other machines."""

    doc: Document
    cache: Cache
    tell: Callable[[EzvarError], object]
    on_event: Callable[[Task, Plain], object] = _nobody_listens
    cancel_of: Callable[[Task], CancelToken] = _nobody_stops
    others: Callable[[Sequence[Task], Surroundings, Progress, CancelToken | None], Iterator[Any]] | None = None


@dataclass(frozen=True)
class Travel(Generic[R]):
    """How tasks of a kind are done on other machines.

    ``media`` gives the ids of the document's media that a task reads, and ``name`` what it is called in a sentence;
    ``folders`` and ``files`` those among its parameters that it writes into and reads besides, as they are called here.
    What a task comes to travels as bytes: ``pack`` makes them there, ``unpack`` reads them here and raises `ValueError`
    for what is no such thing; whatever is large is written into the cache or a folder instead. ``keep`` keeps what has
    come back and nobody waits for any more, so that it need not be done again.
    """

    pack: Callable[[R], bytes]
    unpack: Callable[[Task, bytes, Surroundings], R]
    media: Callable[[Task, Document], set[str]]
    name: Callable[[Task, Document], str]
    folders: Callable[[Task], list[str]] = lambda task: []
    files: Callable[[Task], list[str]] = lambda task: []
    keep: Callable[[Task, R, Surroundings], object] = lambda task, result, around: None


@dataclass(frozen=True)
class Kind(Generic[R]):
    """A kind of work.

    ``run`` does tasks that follow one another, so that what reads pictures
    reads on from one to the next; it gives what each comes to as soon as it
    is there. ``kept`` finds what an earlier run came to, or ``None``. The
    ``version`` is raised when the same task would come to something else.
    Tasks of a kind that does not ``travel`` are done on this machine alone.
    """

    name: str
    version: int
    run: Callable[[Sequence[Task], Surroundings, Progress, CancelToken], Iterator[R]]
    kept: Callable[[Task, Surroundings], R | None] = lambda task, around: None
    travel: Travel[R] | None = None


_KINDS: dict[str, Kind[Any]] = {}


def register(kind: Kind[R]) -> Kind[R]:
    """Make a kind known. Raises `ValueError` where another has its name."""
    if kind.name in _KINDS:
        raise ValueError(f"there is a kind of work named {kind.name} already")
    _KINDS[kind.name] = kind
    return kind


def kind_named(name: str) -> Kind[Any] | None:
    """The kind of a name, where there is one."""
    return _KINDS.get(name)


def kind_of(task: Task) -> Kind[Any]:
    """The kind of a task. Raises `KeyError` where nobody has registered it."""
    return _KINDS[task.kind]
