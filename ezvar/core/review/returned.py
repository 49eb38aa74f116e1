"""Reading a timeline file that comes back, without trusting it."""

from __future__ import annotations

import os
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import opentimelineio as otio
from pydantic import ValidationError

from ezvar.core.errors import TimelineError, from_os
from ezvar.core.model import Framing
from ezvar.core.store import parse_framing

from .handoff import NAMESPACE, SCHEMA

_LARGEST = 256 * 1024**2


@dataclass(frozen=True)
class Returned:
    """What a returned timeline says: its framings, each with the digest both sides had, and what was wrong in it."""

    content: str
    frames: int
    master_name: str
    master_size: tuple[int, int]
    framings: tuple[tuple[Framing, str], ...]
    spans: tuple[tuple[str, int, int], ...]  # shot id, media frame of its start, frames
    problems: tuple[str, ...]


def read_timeline(path: str | os.PathLike[str]) -> Returned:
    """Read one of Ezvar's timelines back.

    Raises `TimelineError` for a file that is no timeline, holds nothing, or
    none of our decisions. A clip with bad values is listed in ``problems``
    and costs none of the others. Media it refers to are not opened.
    """
    timeline = _timeline(path)
    facts = _plain(timeline.metadata.get(NAMESPACE))
    if (
        not isinstance(facts, dict)
        or not isinstance(facts.get("lock"), dict)
        or not isinstance(facts.get("master"), dict)
    ):
        raise TimelineError("it holds no reframe decisions", file=path, remedy="Choose a timeline from a handoff")
    if not isinstance(facts.get("schema"), int) or facts["schema"] > SCHEMA:
        raise TimelineError("it was written by a newer Ezvar", file=path, remedy="Take it in with that version")
    framings, spans, problems = [], [], []
    for number, clip in enumerate(timeline.find_clips(), 1):
        told = _plain(clip.metadata.get(NAMESPACE))
        if not isinstance(told, dict) or "shot" not in told:
            continue
        name = clip.name or f"clip {number}"
        try:
            span = clip.source_range or clip.available_range()
            spans.append((str(told["shot"]), round(span.start_time.value), round(span.duration.value)))
            if "framing" in told:
                framings.append((parse_framing(told["framing"]), str(told.get("base", ""))))
        except (ValidationError, otio.exceptions.OTIOError, ValueError) as error:
            what = error.errors()[0]["msg"] if isinstance(error, ValidationError) else str(error)
            problems.append(f"{name}: {what.removeprefix('Value error, ')}.")
    lock, master = facts["lock"], facts["master"]
    return Returned(
        str(lock.get("content", "")),
        int(lock.get("frames", 0) or 0),
        str(master.get("name", "")),
        (int(master.get("width", 0) or 0), int(master.get("height", 0) or 0)),
        tuple(framings),
        tuple(spans),
        tuple(problems),
    )


def _timeline(path: str | os.PathLike[str]) -> otio.schema.Timeline:
    remedy = "Choose a timeline from a handoff"
    try:
        if os.path.getsize(path) > _LARGEST:
            raise TimelineError("it is far too large for a timeline", file=path, remedy=remedy)
        with open(path, encoding="utf-8") as file:
            text = file.read()
    except OSError as error:
        raise from_os(error, "opened", path, TimelineError) from error
    except UnicodeDecodeError as error:
        raise TimelineError("it is not a timeline that can be read", file=path, remedy=remedy) from error
    try:
        found = otio.adapters.read_from_string(text, "otio_json")
    except (otio.exceptions.OTIOError, ValueError, RuntimeError) as error:
        raise TimelineError("it is not a timeline that can be read", file=path, remedy=remedy) from error
    if not isinstance(found, otio.schema.Timeline):
        raise TimelineError("it holds no timeline", file=path, remedy=remedy)
    if not any(True for _ in found.find_clips()):
        raise TimelineError("there is nothing in it", file=path, remedy=remedy)
    return found


def _plain(value: Any) -> Any:
    """OTIO's own containers as dicts and lists."""
    if isinstance(value, Mapping):
        return {str(k): _plain(v) for k, v in value.items()}
    if isinstance(value, (str, bytes)) or value is None:
        return value
    if hasattr(value, "__iter__"):
        return [_plain(v) for v in value]
    return value
