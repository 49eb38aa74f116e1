"""Timelines, read apart: the libraries that read them are not safe against damaged files."""

from __future__ import annotations

import os
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from pydantic import TypeAdapter, ValidationError

from ezvar.core.apart import Done, Task, run_apart, task
from ezvar.core.errors import TimelineError
from ezvar.core.timing import Rate

from .files import bundled_timeline, open_aaf, open_otio, plain
from .flatten import read_timeline_object
from .reading import Reading

_READING = TypeAdapter(Reading)
_RATE = TypeAdapter(Rate | None)


def read_timeline_apart(path: str | os.PathLike[str], rate: Rate | None) -> Reading:
    """What a timeline file says: OTIO, a bundle's timeline, or AAF. Raises `TimelineError`."""
    asked = task("timeline", [os.fspath(path)], rate=_RATE.dump_python(rate, mode="json"))
    found = bytes(run_apart(asked, TimelineError).data)
    try:
        return _READING.validate_json(found)
    except ValidationError as error:
        raise TimelineError("it holds what makes no sense", file=path, remedy="Export it again") from error


def timeline_here(task: Task) -> Done:
    """Do the task of `read_timeline_apart`."""
    path, rate = task.inputs[0], _RATE.validate_python(task["rate"])
    opened = {".aaf": open_aaf, ".otioz": bundled_timeline}.get(Path(path).suffix.lower(), open_otio)(path)
    said = read_timeline_object(opened, Path(path).name, rate)
    return None, (_READING.dump_json(said, exclude_defaults=True),)


@dataclass(frozen=True)
class Metadata:
    """What a timeline and its clips carry under one name: plain values, ``None`` for nothing. Each clip with its
    name, in the order of the timeline."""

    timeline: Any
    clips: tuple[tuple[str, Any], ...]


def read_metadata_apart(path: str | os.PathLike[str], namespace: str, remedy: str) -> Metadata:
    """What an OTIO file and its clips carry under a name. Raises `TimelineError`."""
    asked = task("metadata", [os.fspath(path)], namespace=namespace, remedy=remedy)
    found: Any = run_apart(asked, TimelineError).told
    return Metadata(found["timeline"], tuple((str(name), carried) for name, carried in found["clips"]))


def metadata_here(task: Task) -> Done:
    """Do the task of `read_metadata_apart`."""
    namespace, remedy = str(task["namespace"]), str(task["remedy"])
    timeline = open_otio(task.inputs[0], remedy)
    clips = [[clip.name or "", plain(clip.metadata.get(namespace))] for clip in timeline.find_clips()]
    return {"timeline": plain(timeline.metadata.get(namespace)), "clips": clips}, ()
