"""Writing the handoff: one OpenTimelineIO timeline a master.

The timeline is a plain one: a track of clips, one a shot, with source ranges
and the lock's movie as their media, and a track of its sound. What Ezvar
knows beyond that lies in the metadata under "ezvar", where other programs
pass it over. Not done: windows as effects, since the schema has none for a
moving crop.
"""

from __future__ import annotations

import hashlib
import json
import os
from pathlib import Path
from typing import Any

import opentimelineio as otio

from ezvar.core.errors import OutputError, from_os
from ezvar.core.model import Document, Exchanged, Framing, Lock, Master, Media, Shot, edits
from ezvar.core.store import dump_decisions, write_atomically
from ezvar.core.timing import Rate

NAMESPACE = "ezvar"
SCHEMA = 1


def digest(framing: Framing) -> str:
    """A short name for the decision in a framing: its panes, verdict and how it came about."""
    text = json.dumps(dump_decisions(framing), sort_keys=True)
    return hashlib.sha256(text.encode()).hexdigest()[:16]


def timeline_of(doc: Document, master: Master) -> otio.schema.Timeline:
    """One master's decisions as a timeline."""
    lock = doc.lock
    timeline = otio.schema.Timeline(name=f"{lock.name} {master.name}", global_start_time=_time(lock.start, lock.rate))
    timeline.metadata[NAMESPACE] = {
        "schema": SCHEMA,
        "lock": {"name": lock.name, "frames": lock.frames, "content": lock.media[0].content, "rate": _exact(lock.rate)},
        "master": {"id": master.id, "name": master.name, "width": master.width, "height": master.height},
    }
    picture = otio.schema.Track(name="Picture", kind=otio.schema.TrackKind.Video)
    base = {(e.shot, e.master): e.digest for e in doc.exchanged}
    for place, shot in enumerate(doc.shots, 1):
        media = doc.media_of(shot)
        clip = otio.schema.Clip(
            name=f"Shot {place}",
            media_reference=_reference(media),
            source_range=_range(media.start + shot.source.start, shot.frames, media.rate),
        )
        framing = doc.framing(shot.id, master.id)
        facts: dict[str, Any] = {"shot": shot.id}
        if framing is not None:
            facts["framing"] = _exactly(dump_decisions(framing))
            facts["base"] = base.get((shot.id, master.id)) or digest(framing)
        clip.metadata[NAMESPACE] = facts
        picture.append(clip)
    timeline.tracks.append(picture)
    if lock.media[0].has_sound:
        timeline.tracks.append(_sound(lock, doc.shots))
    return timeline


def _exactly(values: Any) -> Any:
    """Plain values with numbers written out as text.

    Timeline readers may round a number in its last place; text they leave
    alone, and it reads back to the very same number.
    """
    if isinstance(values, dict):
        return {k: _exactly(v) for k, v in values.items()}
    if isinstance(values, list):
        return [_exactly(v) for v in values]
    return repr(values) if isinstance(values, float) else values


def write_handoff(doc: Document, folder: str | os.PathLike[str]) -> tuple[list[Path], Document]:
    """Write one timeline a master into a folder, made where it is not there.

    Returns the files, and the document that knows what was handed out. Raises
    `OutputError` for what the disk refuses.
    """
    target = Path(folder)
    try:
        target.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise from_os(error, "made", target, OutputError) from error
    files = []
    for master in doc.masters:
        name = f"{doc.lock.name} {master.name.replace(':', 'x')}.otio".replace("/", "-")
        text = timeline_of(doc, master).to_json_string(indent=1)
        write_atomically(target / name, lambda file, t=text: file.write(t.encode()), OutputError)  # type: ignore[misc]
        files.append(target / name)
    return files, edits.set_exchanged(doc, _first_exchange(doc))


def _first_exchange(doc: Document) -> list[Exchanged]:
    known = {(e.shot, e.master) for e in doc.exchanged}
    return [Exchanged(f.shot, f.master, digest(f)) for f in doc.framings if (f.shot, f.master) not in known]


def _sound(lock: Lock, shots: tuple[Shot, ...]) -> otio.schema.Track:
    media = lock.media[0]
    clip = otio.schema.Clip(
        name="Sound",
        media_reference=_reference(media),
        source_range=_range(media.start + shots[0].source.start, lock.frames, media.rate),
    )
    return otio.schema.Track(name="Sound", kind=otio.schema.TrackKind.Audio, children=[clip])


def _reference(media: Media) -> otio.schema.ExternalReference:
    return otio.schema.ExternalReference(
        target_url=Path(media.path).as_uri(), available_range=_range(media.start, media.frames, media.rate)
    )


def _time(frames: int, rate: Rate) -> otio.opentime.RationalTime:
    return otio.opentime.RationalTime(frames, float(rate.fraction))


def _range(start: int, frames: int, rate: Rate) -> otio.opentime.TimeRange:
    return otio.opentime.TimeRange(_time(start, rate), _time(frames, rate))


def _exact(rate: Rate) -> str:
    return f"{rate.numerator}/{rate.denominator}"
