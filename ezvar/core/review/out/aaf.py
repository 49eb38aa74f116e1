"""The cut as an AAF, by the timeline library's adapter, as far as that carries it."""

from __future__ import annotations

import tempfile
from collections.abc import Collection
from pathlib import Path

import opentimelineio as otio

from ezvar.core.errors import OutputError
from ezvar.core.lock import mix_of
from ezvar.core.model import Document

from .clips import cut_track, frame_time, sound_tracks


def aaf_lost(doc: Document) -> str:
    """What of the edit an AAF will not say, in a sentence: the adapter writes no transitions but those that it has
    read, and no speeds."""
    mixes = 0 if doc.lock.flat else sum(mix_of(shot) is not None for shot in doc.shots)
    speeds = sum(
        doc.media_of(s).kind not in ("still", "black")
        and s.source.step * doc.lock.rate.fraction != doc.media_of(s).rate.fraction
        for s in doc.shots
    )
    words = ((mixes, "dissolve or wipe", "dissolves and wipes"), (speeds, "speed", "speeds"))
    lost = [f"{count} {many if count > 1 else one}" for count, one, many in words if count]
    return f"The AAF has clips, ranges and sound; not in it are {', '.join([*lost, 'titles, captions and windows'])}."


def aaf_bytes(doc: Document, shots: Collection[str] = ()) -> bytes:
    """The cut as an AAF; of some ``shots`` only, by their ids, with filler in place of the others.

    Raises `OutputError` where the adapter cannot carry it.
    """
    timeline = otio.schema.Timeline(doc.lock.name, global_start_time=frame_time(doc.lock.start, doc.lock.rate))
    track = cut_track(doc)
    clips = [item for item in track if isinstance(item, otio.schema.Clip)]
    del track[:]
    for shot, clip in zip(doc.shots, clips, strict=True):
        black = isinstance(clip.media_reference, otio.schema.GeneratorReference)
        left = black or (shots and shot.id not in shots)
        track.append(otio.schema.Gap(source_range=clip.source_range) if left else clip)
    timeline.tracks.append(track)
    timeline.tracks.extend(track for _, track in sound_tracks(doc.lock))
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "cut.aaf"
        try:
            otio.adapters.write_to_file(timeline, str(file), adapter_name="AAF", use_empty_mob_ids=True)
        except Exception as error:  # the adapter's own kinds of errors have no family
            what = str(error).strip().splitlines()
            raise OutputError(
                f"the cut cannot be written as an AAF ({what[0] if what else type(error).__name__})",
                remedy="Leave the AAF out",
            ) from error
        return file.read_bytes()
