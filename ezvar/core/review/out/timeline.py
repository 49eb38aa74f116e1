"""One master's decisions as an OpenTimelineIO timeline.

It is a plain one: a track of clips, one a shot, with source ranges and the
lock's media, transitions, titles on upper tracks, sound. On each clip an
effect says in pixels which part of its picture the master shows, so that it
can be made by hand or by a script. What Ezvar knows beyond that lies in the
metadata under "ezvar", where other programs pass it over
(docs/interchange.md). Metadata of a timeline that was read in is carried
through: its own, and that of its tracks, clips, their media, and the mixes of
its lowest picture track. Not done: metadata of fades on upper tracks, and of
effects.
"""

from __future__ import annotations

import json
from collections.abc import Collection
from typing import Any

import opentimelineio as otio

from ezvar.core.model import Document, Master, lock_identity
from ezvar.core.store import dump_decisions, dump_note, dump_plain
from ezvar.core.timing import Rate

from .above import caption_markers, layer_tracks, markers, note_markers, title_tracks
from .clips import NAMESPACE, carry, cut_track, frame_range, frame_time, sound_tracks
from .told import Common, doubt_marker, note_markers_of, window_effects

SCHEMA = 3


def timeline_of(
    doc: Document, master: Master, shots: Collection[str] = (), common: Common | None = None
) -> otio.schema.Timeline:
    """One master's decisions as a timeline; on some ``shots`` only, by their ids, where any are named, with gaps in
    place of the others."""
    lock, common = doc.lock, common or Common(doc)
    timeline = otio.schema.Timeline(
        name=f"{lock.name} {master.name}", global_start_time=frame_time(lock.start, lock.rate)
    )
    timeline.metadata[NAMESPACE] = {
        "schema": SCHEMA,
        "lock": lock_told(doc),
        "master": {"id": master.id, "name": master.name, "width": master.width, "height": master.height},
    }
    picture = cut_track(doc)
    for shot, clip in zip(doc.shots, list(picture.find_clips()), strict=True):
        framing = doc.framing(shot.id, master.id)
        facts: dict[str, Any] = {"shot": shot.id, "start": shot.start, "frames": shot.frames}
        facts["source"] = json.dumps(common.source(shot))
        if framing is not None:
            facts["framing"] = dump_plain(dump_decisions(framing, briefly=True)).decode()
            facts["base"] = common.sent(framing)
            clip.effects.extend(window_effects(common, shot, master, framing))
            if (doubtful := doubt_marker(framing, clip)) is not None:
                clip.markers.append(doubtful)
        if doc.notes:
            clip.markers.extend(note_markers_of(doc, shot, master, clip))
            notes = [dump_note(n) for n in doc.notes if n.shot == shot.id and n.master in ("", master.id)]
            facts["notes"] = dump_plain(notes).decode()
        own = clip.metadata.get(NAMESPACE) or {}
        clip.metadata[NAMESPACE] = {**own, **facts}
    if shots:
        _leave_out(picture, {n for n, shot in enumerate(doc.shots) if shot.id not in shots}, lock.rate)
    timeline.tracks.append(picture)
    above, heard = dict(layer_tracks(doc)), dict(sound_tracks(lock))
    timeline.tracks.extend([*above.values(), *title_tracks(doc, master), *heard.values()])
    carry(
        lock.carried, timeline=timeline, stack=timeline.tracks,
        **{"picture 1": picture}, **{f"picture {n}": t for n, t in above.items()},
        **{f"sound {n}": t for n, t in heard.items()},
    )  # fmt: skip
    timeline.tracks.markers.extend(markers(caption_markers(doc, master), note_markers(doc)))
    return timeline


def lock_told(doc: Document) -> dict[str, Any]:
    """By which a lock is known again."""
    lock = doc.lock
    return {
        "name": lock.name, "frames": lock.frames, "rate": f"{lock.rate.numerator}/{lock.rate.denominator}",
        "content": lock.content, "identity": lock_identity(doc),
    }  # fmt: skip


def _leave_out(track: otio.schema.Track, numbers: Collection[int], rate: Rate) -> None:
    """Put gaps in the place of some clips of a track, and let their transitions go."""
    kept: list[otio.core.Composable] = []
    number, gap_before = -1, False
    for item in list(track):
        if isinstance(item, otio.schema.Transition):
            if not gap_before and number + 1 not in numbers:
                kept.append(item)
            continue
        number += 1
        gap_before = number in numbers
        length = item.source_range.duration
        kept.append(otio.schema.Gap(source_range=frame_range(0, round(length.value), rate)) if gap_before else item)
    del track[:]
    track.extend(kept)
