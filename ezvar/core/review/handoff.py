"""The handoff: a folder of open files that takes the decisions to people who do not have Ezvar."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from functools import cache
from itertools import groupby
from pathlib import Path
from typing import Literal, get_args

from ezvar.core.model import Document, Exchanged, Master, Shot
from ezvar.core.names import FileName, file_names, longest_name, readable
from ezvar.core.progress import CancelToken, Progress, silent
from ezvar.core.text import caption_files
from ezvar.core.work import Surroundings

from .decision import digest
from .out.aaf import aaf_bytes, aaf_lost
from .out.cuts_handoff import parts_named
from .out.decisions import decisions_csv, decisions_json, windows_csv
from .out.edl_text import MOST_EVENTS, edl_texts
from .out.folder import digest_of, write_files
from .out.read_me import read_me
from .out.timeline import timeline_of
from .out.told import Common
from .shown.book import book
from .shown.bundle import write_bundle
from .shown.making import Making
from .shown.movies import ReviewMovie, contact_sheets
from .shown.page import movie_name, page, still_name

Part = Literal["otio", "edl", "aaf", "csv", "json", "windows", "captions", "pdf", "page", "movies", "otioz"]
Movies = Literal["together", "each"]
PARTS: dict[Part, str] = {
    "otio": "A timeline for each master (OTIO)",
    "edl": "An edit decision list for each master (EDL)",
    "aaf": "The cut alone (AAF)",
    "csv": "A table of all decisions (CSV)",
    "json": "All decisions, exactly (JSON)",
    "windows": "A table of the window of every frame (CSV)",
    "captions": "The captions of each master (SRT)",
    "pdf": "A book with pictures, to be read and ticked (PDF)",
    "page": "A page with moving pictures, to be answered in a browser (HTML)",
    "otioz": "A bundle of a timeline with a review movie of each master (OTIOZ)",
    "movies": "Review movies, small and quick (MP4)",
}
assert set(PARTS) == set(get_args(Part))
USUAL: frozenset[Part] = frozenset(PARTS) - {"aaf", "windows", "pdf", "page", "movies", "otioz"}
READ_ME, SUMS = "README.txt", "checksums.sha256"


@dataclass(frozen=True)
class Asked:
    """What is to be handed out: which ``parts``, for which ``masters`` and ``shots`` by their ids; all where none are
    named. Review ``movies`` show all masters together, or one each, with ``sound`` or without."""

    parts: frozenset[Part] = USUAL
    masters: tuple[str, ...] = ()
    shots: tuple[str, ...] = ()
    movies: Movies = "together"
    sound: bool = True


@dataclass(frozen=True)
class PlannedFile:
    """A file that would be written: its name, what it is in a sentence, and what it holds, as such or in a file."""

    name: str
    said: str
    make: Callable[[Making], bytes | Path]


@dataclass(frozen=True)
class Planned:
    """What a handoff would write, in order; the ``movies`` that are made for it, by name; and what is to be ``told`` of
    it beforehand, in sentences."""

    files: tuple[PlannedFile, ...]
    told: tuple[str, ...]
    movies: dict[str, ReviewMovie] = field(default_factory=dict)

    @property
    def heavy(self) -> bool:
        """Whether pictures are drawn for it, which tell themselves how far they are."""
        return any(file.name.endswith((".pdf", ".html", ".mp4", ".otioz")) for file in self.files)

    def listed(self) -> list[tuple[str, str]]:
        """Every file, and what it is; with their checksums, which are taken while they are written."""
        own = [(SUMS, "By which it is told whether all of these came whole.")] if self.files else []
        return [*_listed(self.files), *own]


def planned_handoff(doc: Document, folder: str | os.PathLike[str], asked: Asked = Asked()) -> Planned:
    """What a handoff would write into a folder. Nothing is written or made."""
    masters = _masters(doc, asked)
    told: list[str] = []
    movies: dict[str, ReviewMovie] = {}
    files = list(_files(doc, folder, asked, masters, told)) if masters else []
    if masters and doc.shots:
        files += _shown(doc, folder, asked, masters, movies)
    if files:
        listed = _listed(files)
        files.append(PlannedFile(READ_ME, "What all of these are, in plain words.",
                                 lambda making: _bytes(read_me(doc, masters, listed))))  # fmt: skip
    return Planned(tuple(files), tuple(told), movies)


def _masters(doc: Document, asked: Asked) -> list[Master]:
    return [m for m in doc.masters if not asked.masters or m.id in asked.masters]


def _shots(doc: Document, asked: Asked) -> list[Shot]:
    return [s for s in doc.shots if not asked.shots or s.id in asked.shots]


def _listed(files: Sequence[PlannedFile]) -> list[tuple[str, str]]:
    """Files and what they are; those of which the same is said follow one another, and are listed as one."""
    found = []
    for said, group in groupby(files, key=lambda file: file.said):
        names = [file.name for file in group]
        more = f" and {len(names) - 1} more like it" if len(names) > 1 else ""
        found.append((f"{names[0]}{more}", said))
    return found


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
                lambda making, m=master: timeline_of(doc, m, shots, common).to_json_string(indent=1).encode(),  # type: ignore[misc]
            )  # fmt: skip
    if "edl" in asked.parts:
        yield from _lists(doc, asked, masters, named, told, common)
    if "aaf" in asked.parts:
        (file,) = named([name], ".aaf")
        told.append(aaf_lost(doc))
        yield PlannedFile(file.name, "The cut, for programs that read AAF.", lambda making: aaf_bytes(doc, shots))
    if "csv" in asked.parts:
        (file,) = named([f"{name} decisions"], ".csv")
        yield PlannedFile(
            file.name, "All decisions as a table, a row for each keyframe.",
            lambda making: _bytes(decisions_csv(doc, masters, shots, common), "utf-8-sig"),
        )  # fmt: skip
    if "json" in asked.parts:
        (file,) = named([f"{name} decisions"], ".json")
        yield PlannedFile(
            file.name, "All decisions, exactly as they are, to be read by programs.",
            lambda making: decisions_json(doc, masters, shots, common),
        )  # fmt: skip
    if "windows" in asked.parts:
        (file,) = named([f"{name} windows"], ".csv")
        yield PlannedFile(
            file.name, "The window of every frame, in pixels of its picture.",
            lambda making: _bytes(windows_csv(doc, masters, shots), "utf-8-sig"),
        )  # fmt: skip
    if "captions" in asked.parts:
        for each in caption_files(doc, "SRT", folder, masters):
            yield PlannedFile(
                each.name, f"Captions of {each.master.name}: {each.track.name}.",
                lambda making, each=each: each.text(doc, "SRT"),  # type: ignore[misc]
            )  # fmt: skip


def _shown(
    doc: Document, folder: str | os.PathLike[str], asked: Asked, masters: Sequence[Master],
    movies: dict[str, ReviewMovie],
) -> Iterator[PlannedFile]:  # fmt: skip
    """What is looked at: review movies, the book, the page with its pictures. ``movies`` gets what is made for it."""
    name, shots, most = doc.lock.name, _shots(doc, asked), longest_name(folder)
    if "movies" in asked.parts:
        yield from _movies(doc, asked, masters, most, movies)
    if "otioz" in asked.parts:
        (file,) = file_names([f"{name} review"], ".otioz", most)
        stems = file_names([f"{name} {m.name}" for m in masters], "", most)
        kept = {stem.name: ReviewMovie(master=m) for stem, m in zip(stems, masters, strict=True)}
        movies.update(kept)

        def bundle(making: Making) -> Path:
            made = making.room / "bundle.otioz"
            write_bundle(doc, masters, shots, [making.movie(k) for k in kept], made)
            return made

        yield PlannedFile(file.name, "A timeline of all masters with their review movies in it.", bundle)
    if "pdf" in asked.parts:
        (file,) = file_names([f"{name} book"], ".pdf", most)
        yield PlannedFile(
            file.name, "A book of all decisions, with pictures and boxes to tick.",
            lambda making: book(doc, masters, shots, making.stills()),
        )  # fmt: skip
    if "page" in asked.parts:
        (file,) = file_names([f"{name} review"], ".html", most)
        (beside,) = file_names([f"{name} review"], "", most)
        answer = file_names([f"{name} review by @"], ".json", most)[0].name
        yield PlannedFile(
            file.name, "A page to be answered in any browser; its pictures are in the folder beside it.",
            lambda making: page(doc, masters, shots, beside.name, True, answer),
        )  # fmt: skip
        for place, master in enumerate((None, *masters)):
            movies[f"page {place}"] = ReviewMovie(master=master, burnt=False)
            yield PlannedFile(
                f"{beside.name}/{movie_name(place)}", "A moving picture of the page.",
                lambda making, k=place: making.movie(f"page {k}"),  # type: ignore[misc]
            )  # fmt: skip
        for shot in shots:
            for place in range(len(masters) + 1):
                yield PlannedFile(
                    f"{beside.name}/{still_name(shot, doc, place)}", "A picture of the page.",
                    lambda making, s=shot, k=place: making.still(s, k),  # type: ignore[misc]
                )  # fmt: skip


def _movies(
    doc: Document, asked: Asked, masters: Sequence[Master], most: int, movies: dict[str, ReviewMovie]
) -> Iterator[PlannedFile]:
    name, each = doc.lock.name, asked.movies == "each"
    stems = [f"{name} review {m.name}" for m in masters] if each else [f"{name} review"]
    for k, file in enumerate(file_names(stems, ".mp4", most)):
        movies[f"movie {k}"] = ReviewMovie(master=masters[k]) if each else ReviewMovie(together=True)
        said = f"What {masters[k].name} shows" if each else "The edit with the windows, and beside it what is shown"
        yield PlannedFile(
            file.name, f"{said}, with shot and timecode below.", lambda making, k=k: making.movie(f"movie {k}")  # type: ignore[misc]
        )  # fmt: skip
    (poster,) = file_names([f"{name} poster"], ".jpg", most)
    yield PlannedFile(poster.name, "One picture of it all.", lambda making: making.looks().poster)
    sheets = {m.id: contact_sheets(_shots(doc, asked), m) for m in masters}
    for master in masters:
        stems = parts_named(f"{name} contact sheet {master.name}", sheets[master.id])
        for k, file in enumerate(file_names(stems, ".jpg", most)):
            yield PlannedFile(
                file.name, f"A contact sheet of {master.name}.",
                lambda making, m=master, k=k: making.looks().sheets[m.id][k],  # type: ignore[misc]
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
                lambda making, texts=texts, k=part: _bytes(texts()[k]),  # type: ignore[misc]
            )  # fmt: skip


def write_handoff(
    doc: Document, folder: str | os.PathLike[str], asked: Asked = Asked(), progress: Progress = silent,
    cancel: CancelToken | None = None, around: Surroundings | None = None,
) -> tuple[list[Exchanged], list[Path]]:  # fmt: skip
    """Write a handoff into a folder, made where it is not there; all of it or nothing.

    Returns what the other side has now for the first time, and the files.
    With them go their checksums, in the form that ``sha256sum`` reads. Raises
    `OutputError` as `write_files` does. Review movies are made by others where those are ``around``.
    """
    planned = planned_handoff(doc, folder, asked)
    seen_by_all = around.cache.folder if around is not None and around.others is not None else None
    if seen_by_all is not None:
        seen_by_all.mkdir(parents=True, exist_ok=True)
    made: dict[str, bytes | Path] = {}
    with tempfile.TemporaryDirectory(prefix="ezvar-", dir=seen_by_all) as temp:
        making = Making(
            doc, _masters(doc, asked), _shots(doc, asked), Path(temp), planned.movies, asked.sound, progress, cancel,
            around,
        )  # fmt: skip
        for k, file in enumerate(planned.files):
            if cancel is not None:
                cancel.check()
            if not planned.heavy:
                progress(k / len(planned.files), "Writing the handoff")
            made[file.name] = file.make(making)
        if made:
            made[SUMS] = "".join(f"{digest_of(data)}  {name}\n" for name, data in made.items()).encode()
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
