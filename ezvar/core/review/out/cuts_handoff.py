"""Handing the cuts alone to others, as open timeline files."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Literal, get_args

import opentimelineio as otio

from ezvar.core.model import Document
from ezvar.core.names import file_names, longest_name

from .clips import cut_track, frame_range, frame_time, media_reference, shot_clip
from .edl_text import edl_texts
from .folder import write_files

CutsKind = Literal["timeline", "edl", "markers", "subclips"]
CUTS_KINDS: dict[CutsKind, str] = {
    "timeline": "A timeline with the cuts made (OTIO)",
    "edl": "A timeline with the cuts made (EDL)",
    "markers": "One clip with a marker at each cut (OTIO)",
    "subclips": "A subclip for each shot (OTIO)",
}
assert set(CUTS_KINDS) == set(get_args(CutsKind))


def write_cuts(doc: Document, folder: str | os.PathLike[str], kind: CutsKind) -> list[Path]:
    """Write the cuts into a folder, made where it is not there; returns the files, more than one where a list would
    have more events than it may.

    "edl" is CMX3600, which knows no frame sizes; "markers"
    is one clip of a flat lock's movie, of a timeline a track of its clips
    with the markers on it. Raises `OutputError` as `write_files` does.
    """
    if kind == "edl":
        suffix, texts = ".edl", edl_texts(doc)
        stems = parts_named(f"{doc.lock.name} cuts", len(texts))
    else:
        made = {"timeline": _timeline, "markers": _markers, "subclips": _subclips}[kind](doc)
        suffix, texts, stems = ".otio", [made.to_json_string(indent=1)], [f"{doc.lock.name} {kind}"]
    names = file_names(stems, suffix, longest_name(folder))
    return write_files(folder, {n.name: text.encode() for n, text in zip(names, texts, strict=True)})


def parts_named(stem: str, parts: int) -> list[str]:
    """What files that something is parted into are called."""
    return [stem] if parts == 1 else [f"{stem} {k} of {parts}" for k in range(1, parts + 1)]


def _timeline(doc: Document) -> otio.schema.Timeline:
    timeline = otio.schema.Timeline(
        f"{doc.lock.name} cuts", global_start_time=frame_time(doc.lock.start, doc.lock.rate)
    )
    timeline.tracks.append(cut_track(doc))
    return timeline


def _markers(doc: Document) -> otio.schema.Timeline:
    timeline = otio.schema.Timeline(
        f"{doc.lock.name} markers", global_start_time=frame_time(doc.lock.start, doc.lock.rate)
    )
    rate = doc.lock.rate
    if doc.lock.flat:
        media = doc.lock.media[0]
        whole = frame_range(media.start, doc.lock.frames, rate)
        track = otio.schema.Track("Picture", kind=otio.schema.TrackKind.Video)
        track.append(otio.schema.Clip(doc.lock.name, media_reference(media), whole))
        holder, first = track[0], media.start
    else:
        track = cut_track(doc)
        holder, first = track, 0
    for number, shot in enumerate(doc.shots[1:], 2):
        kind = shot.cut.kind if shot.cut else "cut"
        length = max(1, shot.cut.end - shot.cut.start) if shot.cut else 1
        start = shot.cut.start if shot.cut and length > 1 else shot.start
        marked = frame_range(first + start, length, rate)
        holder.markers.append(otio.schema.Marker(f"{kind}, shot {number}", marked))
    timeline.tracks.append(track)
    return timeline


def _subclips(doc: Document) -> otio.schema.SerializableCollection:
    clips = [shot_clip(doc, shot, f"Shot {number}") for number, shot in enumerate(doc.shots, 1)]
    return otio.schema.SerializableCollection(f"{doc.lock.name} shots", clips)
