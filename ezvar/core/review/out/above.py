"""What lies over the edit in a handoff: layers and titles on upper tracks, captions and notes as markers."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

import opentimelineio as otio

from ezvar.core.model import Document, Layer, Master, Placement, Title, title_rows
from ezvar.core.store import dump_title
from ezvar.core.text import captions_of

from .clips import NAMESPACE, carry, carry_effects, exactly, frame_range, mixed, placement_told, source_clip


def layer_tracks(doc: Document) -> Iterator[tuple[int, otio.schema.Track]]:
    """The upper picture tracks of the lock, by their numbers, each as it was, with its fades, mixes and wipes."""
    for number in sorted({layer.track for layer in doc.lock.layers}):
        layers = sorted((each for each in doc.lock.layers if each.track == number), key=lambda each: each.start)
        yield number, _track(f"Titles {number}", doc, layers)


def _track(name: str, doc: Document, layers: list[Layer]) -> otio.schema.Track:
    track, at = otio.schema.Track(name=name, kind=otio.schema.TrackKind.Video), 0
    for k, layer in enumerate(layers):
        before = layers[k - 1] if k else None
        after = layers[k + 1] if k + 1 < len(layers) else None
        start, end = layer.start, layer.end
        if before is not None and before.end > start:  # both are on in their mix, whose join is in its middle
            start = (start + before.end) // 2
        elif start > at:
            track.append(otio.schema.Gap(source_range=frame_range(0, start - at, doc.lock.rate)))
        if layer.comes:
            words = "wipe" if layer.comes_by else "dissolve"
            lead = start - layer.start
            comes = mixed(words, layer.comes_by, lead, max(0, layer.comes - lead), doc.lock.rate)
            carry(layer.carried, comes=comes)
            track.append(comes)
        if after is not None and after.start < end:
            end = (after.start + end) // 2
        track.append(_layer(doc, layer, start, end))
        if layer.goes and (after is None or after.start >= layer.end):
            goes = mixed("wipe" if layer.goes_by else "dissolve", layer.goes_by, layer.goes, 0, doc.lock.rate)
            carry(layer.carried, goes=goes)
            track.append(goes)
        at = end
    return track


def _layer(doc: Document, layer: Layer, start: int, end: int) -> otio.schema.Clip:
    media = next((m for m in doc.lock.media if m.id == layer.source.media), None)
    later, rate = start - layer.start, doc.lock.rate
    if media is None:
        clip = otio.schema.Clip(layer.name, otio.schema.MissingReference(), frame_range(0, end - start, rate))
    else:
        clip = source_clip(media, layer.source.later(later), end - start, rate, layer.name)
    carry(layer.carried, clip=clip, media=clip.media_reference)
    carry_effects(layer.carried, clip)
    facts: dict[str, object] = {}
    if layer.placement != Placement():
        facts["placement"] = placement_told(layer.placement.later(later))
    if layer.opacity < 1:
        facts["opacity"] = layer.opacity
    if facts:
        clip.metadata[NAMESPACE] = facts
    return clip


def title_tracks(doc: Document, master: Master) -> list[otio.schema.Track]:
    """The titles made here that a master shows, as generated clips with their words, in as few tracks as hold them."""
    shown = [t for t in doc.shown_titles if not doc.stands(t.id, master.id).hidden]
    rows, tracks = title_rows(shown), []
    for row in sorted(set(rows.values())):
        track, at = otio.schema.Track(name=f"Titles made here {row + 1}", kind=otio.schema.TrackKind.Video), 0
        for title in sorted((t for t in shown if rows[t.id] == row), key=lambda t: t.start):
            if title.start > at:
                track.append(otio.schema.Gap(source_range=frame_range(0, title.start - at, doc.lock.rate)))
            track.append(_title(doc, title))
            at = title.end
        tracks.append(track)
    return tracks


def _title(doc: Document, title: Title) -> otio.schema.Clip:
    made = otio.schema.GeneratorReference(title.kind, "title", parameters={"lines": list(title.lines)})
    length = frame_range(0, title.end - title.start, doc.lock.rate)
    return otio.schema.Clip(title.called, made, length, {NAMESPACE: {"title": exactly(dump_title(title))}})


def caption_markers(doc: Document, master: Master) -> Iterator[otio.schema.Marker]:
    """The captions that a master shows, as markers along the lock, with the track's name."""
    for track in doc.tracks if doc.tracks else ():
        for caption in captions_of(doc, track, master) if track.shown else ():
            frames = caption.frames(doc.lock.rate)
            facts = {"caption": caption.text, "track": track.name, "start": caption.start, "end": caption.end}
            yield otio.schema.Marker(
                caption.words, frame_range(frames.start, len(frames), doc.lock.rate), "WHITE", {NAMESPACE: facts},
                f"Caption of {track.name}",
            )  # fmt: skip


def note_markers(doc: Document) -> Iterator[otio.schema.Marker]:
    """The notes that the lock came with, where they were."""
    for note in doc.lock.notes:
        yield otio.schema.Marker(note.text, frame_range(note.start, note.end - note.start, doc.lock.rate), "CYAN")


def markers(*several: Iterable[otio.schema.Marker]) -> list[otio.schema.Marker]:
    """All markers, in the order of their beginnings."""
    return sorted((m for each in several for m in each), key=lambda m: m.marked_range.start_time.value)
