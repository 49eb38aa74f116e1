"""The handoff: a folder of open files that takes the decisions to people who do not have Ezvar."""

from __future__ import annotations

import hashlib
import os
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Literal, get_args

from ezvar.core.model import Document, Exchanged, Master
from ezvar.core.names import FileName, file_names, longest_name, readable
from ezvar.core.progress import CancelToken, Progress, silent
from ezvar.core.text import caption_files

from ..decision import digest
from .aaf import aaf_bytes, aaf_lost
from .cuts_handoff import parts_named
from .decisions import decisions_csv, decisions_json, windows_csv
from .edl_text import MOST_EVENTS, edl_texts
from .folder import write_files
from .read_me import read_me
from .timeline import timeline_of
from .told import Common

Part = Literal["otio", "edl", "aaf", "csv", "json", "windows", "captions"]
PARTS: dict[Part, str] = {
    "otio": "A timeline for each master (OTIO)",
    "edl": "An edit decision list for each master (EDL)",
    "aaf": "The cut alone (AAF)",
    "csv": "A table of all decisions (CSV)",
    "json": "All decisions, exactly (JSON)",
    "windows": "A table of the window of every frame (CSV)",
    "captions": "The captions of each master (SRT)",
}
assert set(PARTS) == set(get_args(Part))
USUAL: frozenset[Part] = frozenset(PARTS) - {"aaf", "windows"}
READ_ME, SUMS = "README.txt", "checksums.sha256"


@dataclass(frozen=True)
class Asked:
    """What is to be handed out: which ``parts``, for which ``masters`` and ``shots`` by their ids; all where none are
    named."""

    parts: frozenset[Part] = USUAL
    masters: tuple[str, ...] = ()
    shots: tuple[str, ...] = ()


@dataclass(frozen=True)
class PlannedFile:
    """A file that would be written: its name, what it is in a sentence, and what it holds."""

    name: str
    said: str
    make: Callable[[], bytes]


@dataclass(frozen=True)
class Planned:
    """What a handoff would write, in order; and what is to be ``told`` of it beforehand, in sentences."""

    files: tuple[PlannedFile, ...]
    told: tuple[str, ...]

    def listed(self) -> list[tuple[str, str]]:
        """Every file, and what it is; with their checksums, which are taken while they are written."""
        own = [(SUMS, "By which it is told whether all of these came whole.")] if self.files else []
        return [*((file.name, file.said) for file in self.files), *own]


def planned_handoff(doc: Document, folder: str | os.PathLike[str], asked: Asked = Asked()) -> Planned:
    """What a handoff would write into a folder. Nothing is written or made."""
    masters = [m for m in doc.masters if not asked.masters or m.id in asked.masters]
    told: list[str] = []
    files = list(_files(doc, folder, asked, masters, told)) if masters else []
    if files:
        listed = [(file.name, file.said) for file in files]
        files.append(PlannedFile(READ_ME, "What all of these are, in plain words.",
                                 lambda: _bytes(read_me(doc, masters, listed))))  # fmt: skip
    return Planned(tuple(files), tuple(told))


def _bytes(text: str, encoding: str = "utf-8") -> bytes:
    """A text for a file; of names that are no UTF-8 what people read."""
    return readable(text).encode(encoding, "replace")


def _files(
    doc: Document, folder: str | os.PathLike[str], asked: Asked, masters: Sequence[Master], told: list[str]
) -> Iterator[PlannedFile]:
    name, shots, most, common = doc.lock.name, asked.shots, longest_name(folder), Common(doc)

    def named(stems: Sequence[str], suffix: str) -> list[FileName]:
        return file_names(stems, suffix, most)

    if "otio" in asked.parts:
        for master, file in zip(masters, named([f"{name} {m.name}" for m in masters], ".otio"), strict=True):
            told += file.told(master.name)
            yield PlannedFile(
                file.name, f"The timeline of {master.name}, for any program that reads OpenTimelineIO.",
                lambda m=master: timeline_of(doc, m, shots, common).to_json_string(indent=1).encode(),  # type: ignore[misc]
            )  # fmt: skip
    if "edl" in asked.parts:
        yield from _lists(doc, asked, masters, named, told, common)
    if "aaf" in asked.parts:
        (file,) = named([name], ".aaf")
        told.append(aaf_lost(doc))
        yield PlannedFile(file.name, "The cut, for programs that read AAF.", lambda: aaf_bytes(doc, shots))
    if "csv" in asked.parts:
        (file,) = named([f"{name} decisions"], ".csv")
        yield PlannedFile(
            file.name, "All decisions as a table, a row for each keyframe.",
            lambda: _bytes(decisions_csv(doc, masters, shots, common), "utf-8-sig"),
        )  # fmt: skip
    if "json" in asked.parts:
        (file,) = named([f"{name} decisions"], ".json")
        yield PlannedFile(
            file.name, "All decisions, exactly as they are, to be read by programs.",
            lambda: decisions_json(doc, masters, shots, common),
        )  # fmt: skip
    if "windows" in asked.parts:
        (file,) = named([f"{name} windows"], ".csv")
        yield PlannedFile(
            file.name, "The window of every frame, in pixels of its picture.",
            lambda: _bytes(windows_csv(doc, masters, shots), "utf-8-sig"),
        )  # fmt: skip
    if "captions" in asked.parts:
        for each in caption_files(doc, "SRT", folder, masters):
            yield PlannedFile(
                each.name, f"Captions of {each.master.name}: {each.track.name}.",
                lambda each=each: each.text(doc, "SRT"),  # type: ignore[misc]
            )  # fmt: skip


def _lists(
    doc: Document, asked: Asked, masters: Sequence[Master], named: Callable[[Sequence[str], str], list[FileName]],
    told: list[str], common: Common,
) -> Iterator[PlannedFile]:  # fmt: skip
    shots = len(asked.shots) or len(doc.shots)
    parts = -(-shots // MOST_EVENTS)
    if parts > 1:
        told.append(f"An edit decision list has at most {MOST_EVENTS} events, so each is in {parts} parts.")
    stems = [stem for m in masters for stem in parts_named(f"{doc.lock.name} {m.name}", parts)]
    names = iter(named(stems, ".edl"))
    for master in masters:
        texts = cache(lambda m=master: edl_texts(doc, m, asked.shots, common))
        for part in range(parts):
            said = f"The edit decision list of {master.name}"
            said += f", part {part + 1} of {parts}" if parts > 1 else ""
            yield PlannedFile(
                next(names).name, f"{said}, with its windows as comments.",
                lambda texts=texts, k=part: _bytes(texts()[k]),  # type: ignore[misc]
            )  # fmt: skip


def write_handoff(
    doc: Document, folder: str | os.PathLike[str], asked: Asked = Asked(), progress: Progress = silent,
    cancel: CancelToken | None = None,
) -> tuple[list[Exchanged], list[Path]]:  # fmt: skip
    """Write a handoff into a folder, made where it is not there; all of it or nothing.

    Returns what the other side has now for the first time, and the files.
    With them go their checksums, in the form that ``sha256sum`` reads. Raises
    `OutputError` as `write_files` does.
    """
    files = planned_handoff(doc, folder, asked).files
    made: dict[str, bytes] = {}
    for k, file in enumerate(files):
        if cancel is not None:
            cancel.check()
        progress(k / len(files), "Writing the handoff")
        made[file.name] = file.make()
    if made:
        made[SUMS] = "".join(f"{hashlib.sha256(data).hexdigest()}  {n}\n" for n, data in made.items()).encode()
    return _first_exchange(doc, asked), write_files(folder, made)


def _first_exchange(doc: Document, asked: Asked) -> list[Exchanged]:
    known = {(e.shot, e.master) for e in doc.exchanged}
    return [
        Exchanged(f.shot, f.master, digest(f))
        for f in doc.framings
        if (f.shot, f.master) not in known
        and (not asked.masters or f.master in asked.masters)
        and (not asked.shots or f.shot in asked.shots)
    ]
