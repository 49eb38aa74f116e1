"""What a worker does with an errand. Nothing else of Ezvar is asked of one.

Nothing here knows what schedules it: it is handed plain bytes, and answers
with plain bytes.
"""

from __future__ import annotations

import os
import threading
import time
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field, replace

from pydantic import TypeAdapter, ValidationError

from ezvar.core import errors, evidence, lock, output, review  # noqa: F401 the kinds of work register themselves
from ezvar.core.errors import EzvarError, MachineError
from ezvar.core.memory import keep_level
from ezvar.core.model import Document
from ezvar.core.names import readable
from ezvar.core.progress import Cancelled, CancelToken
from ezvar.core.stalls import watch_calls
from ezvar.core.store import Cache, dump_plain, our_mistake, parse_plain, report_of
from ezvar.core.store.places import named_files
from ezvar.core.store.project import parse_project
from ezvar.core.threads import begin
from ezvar.core.work import Kind, Plain, Surroundings, Task, kind_named

from .errand import Errand, document_values, read_errand
from .proof import Seen, machine_name, other_programs
from .ways import path_there

Say = Callable[[dict[str, Plain]], object]
"""Told of how far an errand is: what it says of itself, as plain values."""
_DOCUMENTS = 2  # that are kept as they were read
_LOOK = 0.5  # seconds between looks at whether anybody still wants what is done
_SAY = 1.0  # seconds between words on how far it is
_ALL: tuple[type[EzvarError], ...] = (EzvarError, *EzvarError.__subclasses__())
_FAMILIES = {family.__name__: family for family in _ALL}


@dataclass(frozen=True)
class Wrong:
    """What went wrong outside the program: an error of the one family, as plain values."""

    family: str
    what: str
    file: str = ""
    place: str = ""
    remedy: str = ""

    @classmethod
    def of(cls, error: EzvarError) -> Wrong:
        file = str(error.file) if error.file is not None else ""
        return cls(type(error).__name__, error.what, file, error.place or "", error.remedy or "")

    def error(self) -> EzvarError:
        family = _FAMILIES.get(self.family, EzvarError)
        return family(self.what, file=self.file or None, place=self.place or None, remedy=self.remedy or None)


@dataclass(frozen=True)
class Answer:
    """What an errand came to on a ``machine``: how many tasks are done, and how many seconds they took.

    ``refused`` says why the machine cannot do it, which another may; ``wrong``
    is what went wrong whoever does it; ``mistake`` a mistake of the program.
    ``told`` is what went wrong without stopping the work.
    """

    machine: str
    done: int = 0
    took: float = 0.0
    refused: str = ""
    wrong: Wrong | None = None
    mistake: str = ""
    stopped: bool = False
    told: tuple[Wrong, ...] = field(default=())


_ANSWER = TypeAdapter(Answer)


def answer_text(answer: Answer) -> bytes:
    """An answer as it travels."""
    return dump_plain(_ANSWER.dump_python(answer, mode="json"))


def read_answer(text: bytes) -> Answer:
    """An answer that has come. Raises `ValueError` for what is none."""
    try:
        return _ANSWER.validate_python(parse_plain(text))
    except ValidationError as error:
        raise ValueError("what came back is no answer") from error


class Documents:
    """The documents that a worker was sent last, as its machine names their files. Safe across threads."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._known: OrderedDict[object, Document] = OrderedDict()

    def document(self, errand: Errand, packed: bytes) -> Document:
        """The document of an errand. Raises `ValueError` where it is another, and `ProjectError` where it is none."""
        key = errand.document, errand.ways
        with self._lock:
            if (known := self._known.get(key)) is not None:
                self._known.move_to_end(key)
                return known
        values, host = document_values(packed, errand.document), machine_name()
        for holder, name in named_files(values["document"]):
            holder[name] = path_there(holder[name], errand.ways, host)
        doc = parse_project(values, "the document that was sent")
        with self._lock:
            self._known[key] = doc
            while len(self._known) > _DOCUMENTS:
                self._known.popitem(last=False)
        return doc


_DOCUMENTS_KNOWN, _SEEN = Documents(), Seen()


def perform(text: bytes, packed: bytes, wanted: Callable[[], bool], say: Say) -> list[bytes]:
    """Do an errand: the answer, and what each task came to, packed as its kind does.

    ``wanted`` is asked now and then whether to go on; ``say`` is told how far it is.
    """
    begun = time.monotonic()
    name = machine_name()
    found: list[bytes] = []
    told: list[Wrong] = []

    def answer(answered: Answer) -> list[bytes]:
        took = time.monotonic() - begun
        return [answer_text(replace(answered, done=len(found), took=took, told=tuple(told))), *found]

    try:
        errand = read_errand(text)
        if other := other_programs(errand.made_by):
            return answer(Answer(name, refused=other))
        kind = _kind_of(errand)
        _SEEN.check(errand.files, errand.folders, errand.ways)
        doc = _DOCUMENTS_KNOWN.document(errand, packed)
        tasks = _sound(errand, kind, doc, name)
    except MachineError as error:
        return answer(Answer(name, refused=" ".join(f"{error.what}. {error.remedy or ''}".split()).rstrip(".")))
    except ValueError as error:
        return answer(Answer(name, refused=str(error)))
    except EzvarError as error:
        return answer(Answer(name, wrong=Wrong.of(error)))
    try:
        cache = Cache(path_there(errand.folders[0].path, errand.ways, name))
        around = Surroundings(doc, cache, lambda error: told.append(Wrong.of(error)), lambda task, said: None)
        with _Token(wanted) as token:
            assert kind.travel is not None
            for result in kind.run(tasks, around, _Said(say, name), token):
                found.append(kind.travel.pack(result))
    except EzvarError as error:
        return answer(Answer(name, wrong=Wrong.of(error)))
    except Cancelled:
        return answer(Answer(name, stopped=True))
    except Exception as error:  # that nobody foresaw: told where somebody sees it
        return answer(Answer(name, mistake=str(our_mistake(error, report_of(error)))))
    return answer(Answer(name))


def _kind_of(errand: Errand) -> Kind[object]:
    """The kind of an errand's tasks. Raises `ValueError` for what may not be asked."""
    kind = kind_named(errand.kind)
    if kind is None or kind.travel is None:
        raise ValueError(f"it knows no work named {readable(errand.kind)[:60]}")
    if kind.version != errand.version:
        raise ValueError(f"its {kind.name} is of another version. Install the same Ezvar on all machines")
    if not errand.folders:
        raise ValueError("no folder was named for what is kept")
    return kind


def _sound(errand: Errand, kind: Kind[object], doc: Document, name: str) -> list[Task]:
    """The tasks as they are to be done here. Raises `MachineError` for what makes no sense, or goes beyond the folders
    and files that were named."""
    assert kind.travel is not None
    folders, files = {folder.path for folder in errand.folders}, {file.path for file in errand.files}
    for each in errand.tasks:
        try:
            kind.travel.name(each, doc)
            media = kind.travel.media(each, doc)
            beyond = set(kind.travel.folders(each)) - folders | set(kind.travel.files(each)) - files
        except (ValueError, TypeError, LookupError, AssertionError, AttributeError) as error:
            raise MachineError(f"what was asked of {kind.name} makes no sense") from error
        named = {m.path for m in doc.lock.media if m.id in media and m.path and m.content}
        if beyond or named - {path_there(path, errand.ways, name) for path in files}:
            raise MachineError(f"what was asked of {kind.name} goes beyond what was named")
    return _there(errand, name)


def _there(errand: Errand, name: str) -> list[Task]:
    """The tasks, with the folders and files that are among their parameters as they are called here."""
    named = [each.path for each in errand.folders] + [each.path for each in errand.files]
    paths = {path: path_there(path, errand.ways, name) for path in named}

    def called(value: Plain) -> Plain:
        if isinstance(value, list):
            return [called(each) for each in value]
        return paths.get(value, value) if isinstance(value, str) else value

    return [replace(t, parameters=tuple((n, called(v)) for n, v in t.parameters)) for t in errand.tasks]


class _Token(CancelToken):
    """Stops work that nobody wants any more."""

    def __init__(self, wanted: Callable[[], bool]) -> None:
        super().__init__()
        self._wanted, self._ended = wanted, threading.Event()

    def __enter__(self) -> _Token:
        begin("wanted", self._watch)
        return self

    def __exit__(self, *_: object) -> None:
        self._ended.set()

    def _watch(self) -> None:
        while not self._ended.wait(_LOOK):
            if not self._wanted():
                self.cancel()
                return


class _Said:
    """Says how far an errand is, now and then."""

    def __init__(self, say: Say, name: str) -> None:
        self._say, self._name, self._last = say, name, 0.0

    def __call__(self, fraction: float, message: str) -> None:
        if (now := time.monotonic()) - self._last >= _SAY:
            self._last = now
            self._say({"machine": self._name, "done": round(fraction, 4), "doing": message})


_WATCHED: list[object] = []
_SPARE = 16 * 1024**2  # bytes; schedulers have their workers give back all but 64 KB each time, which costs a seventh


def get_ready() -> None:
    """Make this program one that works, once: it ends where a library does not come back from a file, so that its tasks
    go elsewhere, and has memory settings for work, not those for data that schedulers give to theirs."""
    if not _WATCHED:
        _WATCHED.append(begin("watch", lambda: watch_calls(lambda error, _: os._exit(3))))
        keep_level(_SPARE)
