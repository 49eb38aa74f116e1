"""Writing the handoff: one OpenTimelineIO timeline a master.

The timeline is a plain one: a track of clips, one a shot, with source ranges
and the lock's media, and tracks of its sound. What Ezvar
knows beyond that lies in the metadata under "ezvar", where other programs
pass it over. Not done: windows as effects, since the schema has none for a
moving crop.
"""

from __future__ import annotations

import os
from dataclasses import asdict
from pathlib import Path
from typing import Any

import opentimelineio as otio

from ezvar.core.lock import mix_of
from ezvar.core.media import numbers_of_sequence
from ezvar.core.model import Document, Exchanged, Lock, Master, Media, Shot, lock_identity
from ezvar.core.names import FileName, file_names, longest_name
from ezvar.core.progress import CancelToken, Progress, silent
from ezvar.core.store import dump_decisions
from ezvar.core.timing import Rate

from .decision import digest
from .folder import write_files

NAMESPACE = "ezvar"
SCHEMA = 2


def timeline_of(doc: Document, master: Master) -> otio.schema.Timeline:
    """One master's decisions as a timeline."""
    lock = doc.lock
    timeline = otio.schema.Timeline(
        name=f"{lock.name} {master.name}", global_start_time=frame_time(lock.start, lock.rate)
    )
    timeline.metadata[NAMESPACE] = {
        "schema": SCHEMA,
        "lock": {
            "name": lock.name,
            "frames": lock.frames,
            "rate": _exact(lock.rate),
            "content": lock.content,
            "identity": lock_identity(doc),
        },
        "master": {"id": master.id, "name": master.name, "width": master.width, "height": master.height},
    }
    picture = cut_track(doc)
    base = {(e.shot, e.master): e.digest for e in doc.exchanged}
    for shot, clip in zip(doc.shots, picture.find_clips(), strict=True):
        framing = doc.framing(shot.id, master.id)
        facts: dict[str, Any] = {"shot": shot.id, "start": shot.start, "frames": shot.frames}
        if framing is not None:
            facts["framing"] = _exactly(dump_decisions(framing))
            facts["base"] = base.get((shot.id, master.id)) or digest(framing)
        clip.metadata[NAMESPACE] = facts
    timeline.tracks.append(picture)
    timeline.tracks.extend(_sound_tracks(lock))
    return timeline


def cut_track(doc: Document) -> otio.schema.Track:
    """The shots as clips of a track, with the mixes between them."""
    track = otio.schema.Track(name="Picture", kind=otio.schema.TrackKind.Video)
    for place, shot in enumerate(doc.shots, 1):
        if place > 1 and not doc.lock.flat and (mix := _transition(shot, doc.lock.rate)) is not None:
            track.append(mix)
        track.append(shot_clip(doc, shot, f"Shot {place}"))
    return track


def shot_clip(doc: Document, shot: Shot, name: str) -> otio.schema.Clip:
    """A shot as a plain clip: its media with the range that it shows, and its speed where that is not its own."""
    media, lock = doc.media_of(shot), doc.lock
    speed = shot.source.step * lock.rate.fraction / media.rate.fraction
    if media.kind == "black":
        black = otio.schema.GeneratorReference(name="black", generator_kind="black")
        return otio.schema.Clip(name, black, frame_range(0, shot.frames, lock.rate))
    begins = otio.opentime.RationalTime(float(media.start + shot.source.start), float(media.rate.fraction))
    clip = otio.schema.Clip(
        name, media_reference(media), otio.opentime.TimeRange(begins, frame_time(shot.frames, lock.rate))
    )
    if media.kind != "still" and speed != 1:
        clip.effects.append(
            otio.schema.LinearTimeWarp(time_scalar=float(speed)) if speed else otio.schema.FreezeFrame()
        )
    return clip


def _transition(shot: Shot, rate: Rate) -> otio.schema.Transition | None:
    """The mix that begins a shot; ``None`` for a hard cut."""
    cut = mix_of(shot)
    if cut is None or not cut.start <= shot.start <= cut.end:
        return None
    kind = otio.schema.TransitionTypes.Custom if cut.kind == "wipe" else otio.schema.TransitionTypes.SMPTE_Dissolve
    made = otio.schema.Transition(
        cut.kind, kind, frame_time(shot.start - cut.start, rate), frame_time(cut.end - shot.start, rate)
    )
    if cut.wipe is not None:
        made.metadata[NAMESPACE] = {"wipe": {k: _exactly(v) for k, v in asdict(cut.wipe).items()}}
    return made


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


def write_handoff(
    doc: Document, folder: str | os.PathLike[str], progress: Progress = silent, cancel: CancelToken | None = None
) -> tuple[list[Exchanged], list[Path]]:
    """Write one timeline a master into a folder, made where it is not there; all of them or none.

    Returns what the other side has now for the first time, and the files.
    Raises `OutputError` as `write_files` does.
    """
    names = _names(doc, folder)
    texts = []
    for k, master in enumerate(doc.masters):
        if cancel is not None:
            cancel.check()
        progress(k / len(doc.masters), "Writing the handoff")
        texts.append(timeline_of(doc, master).to_json_string(indent=1).encode())
    files = write_files(folder, {n.name: text for n, text in zip(names, texts, strict=True)})
    return _first_exchange(doc), files


def handoff_renamed(doc: Document, folder: str | os.PathLike[str]) -> list[str]:
    """What is to be said of the names of a handoff's files in a folder, in sentences: those numbered or shortened."""
    named = zip(doc.masters, _names(doc, folder), strict=True)
    return [said for master, name in named for said in name.told(master.name)]


def _names(doc: Document, folder: str | os.PathLike[str]) -> list[FileName]:
    return file_names((f"{doc.lock.name} {m.name}" for m in doc.masters), ".otio", longest_name(folder))


def _first_exchange(doc: Document) -> list[Exchanged]:
    known = {(e.shot, e.master) for e in doc.exchanged}
    return [Exchanged(f.shot, f.master, digest(f)) for f in doc.framings if (f.shot, f.master) not in known]


def _sound_tracks(lock: Lock) -> list[otio.schema.Track]:
    """The lock's sound, a track for each of its own, silence as gaps."""
    known = {m.id: m for m in lock.media}
    tracks = []
    for number in sorted({c.track for c in lock.sounds}):
        track = otio.schema.Track(name=f"Sound {number}", kind=otio.schema.TrackKind.Audio)
        at = 0
        for sound in sorted((c for c in lock.sounds if c.track == number), key=lambda c: c.start):
            media = known[sound.media]
            if not media.has_sound or sound.start < at:
                continue
            if sound.start > at:
                track.append(otio.schema.Gap(source_range=frame_range(0, sound.start - at, lock.rate)))
            rate = float(media.rate.fraction)
            begins = otio.opentime.RationalTime(media.start + float(sound.source) * rate, rate)
            length = frame_time(sound.end - sound.start, lock.rate)
            clip = otio.schema.Clip("Sound", media_reference(media), otio.opentime.TimeRange(begins, length))
            if sound.speed != 1:
                clip.effects.append(otio.schema.LinearTimeWarp(time_scalar=float(sound.speed)))
            track.append(clip)
            at = sound.end
        if at:
            tracks.append(track)
    return tracks


def media_reference(media: Media) -> otio.schema.ExternalReference | otio.schema.ImageSequenceReference:
    """A media as a reference to its file, or to its images, with all that it holds."""
    numbered = numbers_of_sequence(media.path) if media.kind == "sequence" else None
    if numbered is not None:
        prefix, first, suffix = numbered
        return otio.schema.ImageSequenceReference(
            target_url_base=Path(media.path).parent.as_uri() + "/", name_prefix=prefix, name_suffix=suffix,
            start_frame=int(first), frame_step=1, rate=float(media.rate.fraction), frame_zero_padding=len(first),
            available_range=frame_range(media.start, media.frames, media.rate),
        )  # fmt: skip
    return otio.schema.ExternalReference(
        target_url=Path(media.path).as_uri() if media.content else media.path,
        available_range=frame_range(media.start, media.frames, media.rate),
    )


def frame_time(frames: int, rate: Rate) -> otio.opentime.RationalTime:
    """Frames at a rate as a time."""
    return otio.opentime.RationalTime(frames, float(rate.fraction))


def frame_range(start: int, frames: int, rate: Rate) -> otio.opentime.TimeRange:
    """Frames at a rate as a range of time."""
    return otio.opentime.TimeRange(frame_time(start, rate), frame_time(frames, rate))


def _exact(rate: Rate) -> str:
    return f"{rate.numerator}/{rate.denominator}"
