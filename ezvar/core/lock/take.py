"""Taking a lock in, from whatever file states it."""

from __future__ import annotations

import os
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

from ezvar.core import edits
from ezvar.core.errors import EzvarError, MediaError, TimelineError
from ezvar.core.media import Begun, MovieFacts, fingerprint, probe, unseen
from ezvar.core.model import Document, Shot, Source, new_id
from ezvar.core.progress import CancelToken, Progress, silent
from ezvar.core.timelines import (
    SUFFIXES,
    Reading,
    possible_rates,
    read_edl,
    read_text,
    read_timeline_apart,
)
from ezvar.core.timing import Rate
from ezvar.core.way_in import check_regular

from .assemble import assembled
from .bundle import unpack_bundle
from .movie import lock_from_movie
from .raising import opaque_media, raised
from .relink import Search, find_media


class RateNeeded(TimelineError):
    """A timeline that states no rate; ``choices`` are those that its timecodes allow."""

    def __init__(self, path: str | os.PathLike[str], choices: tuple[Rate, ...]) -> None:
        allowed = ", ".join(str(r) for r in choices)
        super().__init__("it states no rate", file=path, remedy=f"Name one of {allowed}" if allowed else None)
        self.choices = choices


@dataclass(frozen=True)
class TakenLock:
    """A lock that was taken in, and what the search for its media came to."""

    doc: Document
    search: Search


def is_timeline(path: str | os.PathLike[str]) -> bool:
    """Whether a file's ending is a timeline's."""
    return Path(path).suffix.lower() in SUFFIXES


def take_lock(
    path: str | os.PathLike[str],
    rate: Rate | None = None,
    folders: Iterable[str | os.PathLike[str]] = (),
    unpack: str | os.PathLike[str] | None = None,
    progress: Progress = silent,
    cancel: CancelToken | None = None,
    begun: Begun = unseen,
) -> TakenLock:
    """Take a flat movie or a timeline in.

    ``rate`` overrides what a timeline states; an EDL needs one, else
    `RateNeeded` is raised. Media are looked for in the timeline's own folder
    and in ``folders``. ``unpack`` is where a bundle's media go. ``begun`` is
    handed the first picture of a flat movie whose file has to be read through
    first. Raises an `EzvarError` for what cannot be read.
    """
    if not is_timeline(path):
        facts = probe(path, progress, cancel, begun)
        with _within_bounds(path, MediaError):
            return TakenLock(_flat(path, rate, facts), Search({}, ()))
    progress(0.0, "Reading the timeline")
    check_regular(path, TimelineError)
    reading, inside = read_timeline_file(path, rate, unpack)
    with _within_bounds(path, TimelineError):
        doc = assembled(reading, Path(os.path.realpath(path)))
    links, search = find_media(doc, [Path(os.path.realpath(path)).parent, *inside, *folders], progress, cancel)
    with _within_bounds(path, TimelineError):
        doc = edits.link_media(doc, links) if links else doc
        doc = edits.size_by_media(doc) if reading.size is None else doc
        return TakenLock(raised(doc, opaque_media(doc)), search)


@contextmanager
def _within_bounds(path: str | os.PathLike[str], family: type[EzvarError]) -> Iterator[None]:
    """Put what no document can hold, as the model says it, into an error of a family."""
    try:
        yield
    except ValueError as error:
        raise family(str(error), file=path, remedy="Export it again") from error


def read_timeline_file(
    path: str | os.PathLike[str], rate: Rate | None, unpack: str | os.PathLike[str] | None
) -> tuple[Reading, list[Path]]:
    """What a timeline file says, and the folders that it brought with it."""
    name = Path(path).name
    match Path(path).suffix.lower():
        case ".edl":
            text = read_text(path)
            if rate is None:
                choices = possible_rates(text)
                if not choices:
                    raise TimelineError("no rate fits its timecodes", file=path, remedy="Export it again as CMX3600")
                raise RateNeeded(path, choices)
            return read_edl(text, name, rate), []
        case ".otioz":
            if unpack is None:
                unpack = Path(os.path.realpath(path)).parent
            into = Path(unpack) / f"bundle-{fingerprint(path)}"
            reading = read_timeline_apart(path, rate)
            unpack_bundle(path, into)
            return reading, [into]
    return read_timeline_apart(path, rate), []


def _flat(path: str | os.PathLike[str], rate: Rate | None, facts: MovieFacts) -> Document:
    lock = lock_from_movie(facts)
    if rate is not None and rate != lock.rate:
        raise TimelineError(f"it has {lock.rate} frames a second, not {rate}", file=path, remedy="Leave the rate out")
    return Document(lock, (Shot(new_id(), 0, lock.frames, Source(lock.media[0].id, Fraction(0))),), project=new_id())
