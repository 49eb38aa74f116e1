"""A bundle (.otioz) of a timeline with the review movies that it shows: a track for each master."""

from __future__ import annotations

import os
from collections.abc import Sequence
from pathlib import Path

import opentimelineio as otio

from ezvar.core.model import Document, Master, Shot

from ..out.clips import frame_range, frame_time
from ..out.told import said_notes


def write_bundle(
    doc: Document, masters: Sequence[Master], shots: Sequence[Shot], movies: Sequence[Path],
    path: str | os.PathLike[str],
) -> None:  # fmt: skip
    """Write a bundle in which each master is a track of clips of its own review movie, a shot each, with what was
    noted on it as a marker. The ``movies`` show the shots one after the other, one movie for each master."""
    rate, frames = doc.lock.rate, sum(shot.frames for shot in shots)
    timeline = otio.schema.Timeline(doc.lock.name, global_start_time=frame_time(doc.lock.start, rate))
    for master, movie in zip(masters, movies, strict=True):
        track, at = otio.schema.Track(name=master.name, kind=otio.schema.TrackKind.Video), 0
        for shot in shots:
            media = otio.schema.ExternalReference(movie.as_uri(), frame_range(0, frames, rate))
            clip = otio.schema.Clip(f"Shot {doc.place_of(shot.id) + 1}", media, frame_range(at, shot.frames, rate))
            if notes := said_notes(doc, shot, master):
                clip.markers.append(otio.schema.Marker("Notes", clip.source_range, comment=notes))
            track.append(clip)
            at += shot.frames
        timeline.tracks.append(track)
    otio.adapters.write_to_file(timeline, os.fspath(path))
