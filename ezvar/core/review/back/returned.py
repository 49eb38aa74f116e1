"""Reading a timeline file that comes back, without trusting it."""

from __future__ import annotations

import os
from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError

from ezvar.core.errors import TimelineError
from ezvar.core.model import Framing, ReviewNote, Source
from ezvar.core.store import parse_framing, parse_note, parse_plain
from ezvar.core.timelines import read_metadata_apart
from ezvar.core.timing import exact

from ..out.clips import NAMESPACE
from ..out.timeline import SCHEMA


class NotOurs(TimelineError):
    """A file that has nothing to do with decisions."""


@dataclass(frozen=True)
class Returned:
    """What a returned file says of a master: its framings, each with the digest both sides had, notes on it and, with
    no master, on all of them, under their ids; and what was wrong in it."""

    content: str
    identity: str  # empty where it was written before locks had one
    frames: int
    master_name: str
    master_size: tuple[int, int]
    framings: tuple[tuple[Framing, str], ...]
    spans: tuple[tuple[str, int, int], ...]  # shot id, lock frame of its start, frames
    problems: tuple[str, ...]
    notes: tuple[ReviewNote, ...] = ()
    sources: tuple[tuple[str, Source], ...] = ()  # what its shots show; the media of which is named by content or name
    elsewhere: bool = False  # it is about another lock, and matched by these alone


def read_source(told: Any) -> Source | None:
    """What a shot shows, from plain values; ``None`` for what says nothing."""
    try:
        media, start, step = (str(told[name])[:400] for name in ("media", "start", "step"))
        return Source(media, exact(start), exact(step))
    except (KeyError, TypeError, ValueError):
        return None


def read_notes(told: Any, problems: list[str]) -> list[ReviewNote]:
    """The notes of a list of plain values; what is none is put among the problems."""
    found = []
    for number, each in enumerate(told if isinstance(told, list) else (), 1):
        try:
            found.append(parse_note(each))
        except (ValidationError, ValueError) as error:
            what = error.errors()[0]["msg"] if isinstance(error, ValidationError) else str(error)
            problems.append(f"Note {number}: {what.removeprefix('Value error, ')}.")
    return found


def read_timeline(path: str | os.PathLike[str]) -> Returned:
    """Read one of Ezvar's timelines back.

    Raises `TimelineError` for a file that is no timeline, holds nothing, or
    none of our decisions. A clip with bad values is listed in ``problems``
    and costs none of the others. Media it refers to are not opened.
    """
    carried = read_metadata_apart(path, NAMESPACE, "Choose a timeline from a handoff")
    facts = carried.timeline
    if (
        not isinstance(facts, dict)
        or not isinstance(facts.get("lock"), dict)
        or not isinstance(facts.get("master"), dict)
    ):
        raise NotOurs("it holds no reframe decisions", file=path, remedy="Choose a timeline from a handoff")
    if not isinstance(facts.get("schema"), int) or facts["schema"] > SCHEMA:
        raise TimelineError("it was written by a newer Ezvar", file=path, remedy="Take it in with that version")
    framings, spans, notes, sources = [], [], [], []
    problems: list[str] = []
    for number, (named, told) in enumerate(carried.clips, 1):
        if not isinstance(told, dict) or "shot" not in told:
            continue
        name = named or f"clip {number}"
        try:
            if isinstance(start := told.get("start"), int) and isinstance(frames := told.get("frames"), int):
                spans.append((str(told["shot"]), start, frames))
            of = told.get("source")
            if (source := read_source(parse_plain(of.encode()) if isinstance(of, str) else of)) is not None:
                sources.append((str(told["shot"]), source))
            if "framing" in told:
                said = told["framing"]  # earlier versions wrote it out
                values = parse_plain(said.encode()) if isinstance(said, str) else said
                framings.append((parse_framing(values), str(told.get("base", ""))))
            if isinstance(said := told.get("notes"), str):
                notes += read_notes(parse_plain(said.encode()), problems)
        except (ValidationError, ValueError) as error:
            what = error.errors()[0]["msg"] if isinstance(error, ValidationError) else str(error)
            problems.append(f"{name}: {what.removeprefix('Value error, ')}.")
    lock, master = facts["lock"], facts["master"]
    return Returned(
        str(lock.get("content", "")),
        str(lock.get("identity", "")),
        whole_number(lock.get("frames")),
        str(master.get("name", "")),
        (whole_number(master.get("width")), whole_number(master.get("height"))),
        tuple(framings),
        tuple(spans),
        tuple(problems),
        tuple(notes),
        tuple(sources),
    )


def whole_number(value: Any) -> int:
    """A number as it was sent; 0 for what is none.

    >>> whole_number(25), whole_number("25"), whole_number(None)
    (25, 0, 0)
    """
    return value if isinstance(value, int) else 0
