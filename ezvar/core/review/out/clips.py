"""The lock's shots and sound as plain clips, tracks and transitions of a timeline, that any reader knows."""

from __future__ import annotations

from dataclasses import asdict
from pathlib import Path
from typing import Any

import opentimelineio as otio

from ezvar.core.lock import mix_of
from ezvar.core.media import numbers_of_sequence
from ezvar.core.model import Document, Lock, Media, Placement, Rect, Shot, Source, Wipe
from ezvar.core.timing import Rate

NAMESPACE = "ezvar"


def cut_track(doc: Document) -> otio.schema.Track:
    """The shots as clips of a track, with the mixes between them."""
    track = otio.schema.Track(name="Picture", kind=otio.schema.TrackKind.Video)
    for place, shot in enumerate(doc.shots, 1):
        if place > 1 and not doc.lock.flat and (mix := _transition(shot, doc.lock.rate)) is not None:
            track.append(mix)
        track.append(shot_clip(doc, shot, f"Shot {place}"))
    return track


def shot_clip(doc: Document, shot: Shot, name: str) -> otio.schema.Clip:
    """A shot as a plain clip: its media with the range that it shows, its speed where that is not its own, and where
    the edit placed it in the lock's frame."""
    media = doc.media_of(shot)
    if media.kind == "black":
        black = otio.schema.GeneratorReference(name="black", generator_kind="black")
        return otio.schema.Clip(name, black, frame_range(0, shot.frames, doc.lock.rate))
    clip = source_clip(media, shot.source, shot.frames, doc.lock.rate, name)
    carry(shot.carried, clip=clip, media=clip.media_reference)
    carry_effects(shot.carried, clip)
    if shot.placement != Placement():
        clip.metadata[NAMESPACE] = {"placement": placement_told(shot.placement)}
    return clip


def source_clip(media: Media, source: Source, frames: int, rate: Rate, name: str) -> otio.schema.Clip:
    """So many lock frames of a media from where a source begins, at its speed."""
    begins = otio.opentime.RationalTime(float(media.start + source.start), float(media.rate.fraction))
    clip = otio.schema.Clip(name, media_reference(media), otio.opentime.TimeRange(begins, frame_time(frames, rate)))
    speed = source.step * rate.fraction / media.rate.fraction
    if media.kind != "still" and speed != 1:
        clip.effects.append(
            otio.schema.LinearTimeWarp(time_scalar=float(speed)) if speed else otio.schema.FreezeFrame()
        )
    return clip


def carry(text: str, **items: otio.core.SerializableObjectWithMetadata | None) -> None:
    """Give items the metadata that a timeline which was read in had of them."""
    told = otio.core.deserialize_json_from_string(text) if text else {}
    for name, item in items.items():
        if item is not None:
            for key, value in told.get(name, {}).items():
                item.metadata[key] = value


def carry_effects(text: str, clip: otio.schema.Clip) -> None:
    """Give a clip the effects that it had in a timeline which was read in, and its speed what was said of that."""
    told = otio.core.deserialize_json_from_string(text) if text else {}
    for effect in clip.effects:
        for key, value in told.get("speed", {}).items():
            effect.metadata[key] = value
    clip.effects.extend(told.get("effects", ()))


def placement_told(placement: Placement) -> dict[str, Any]:
    """A placement as plain values, as it is read from a timeline."""
    crop, keys = placement.crop, placement.keys
    told: dict[str, Any] = {"x": placement.x, "y": placement.y, "scale": placement.scale}
    if crop != Rect():
        told["crop"] = [crop.x, crop.y, crop.width, crop.height]
    if keys:
        told["keys"] = [{"frame": k.frame, "x": k.x, "y": k.y, "scale": k.scale} for k in keys]
    return dict(exactly(told))


def _transition(shot: Shot, rate: Rate) -> otio.schema.Transition | None:
    """The mix that begins a shot; ``None`` for a hard cut."""
    cut = mix_of(shot)
    if cut is None or not cut.start <= shot.start <= cut.end:
        return None
    made = mixed(cut.kind, cut.wipe, shot.start - cut.start, cut.end - shot.start, rate)
    carry(cut.carried, transition=made)
    return made


def mixed(name: str, wipe: Wipe | None, before: int, after: int, rate: Rate) -> otio.schema.Transition:
    """A transition over so many lock frames before and after a join: a dissolve, or a ``wipe``."""
    kind = otio.schema.TransitionTypes.Custom if name == "wipe" else otio.schema.TransitionTypes.SMPTE_Dissolve
    made = otio.schema.Transition(name, kind, frame_time(before, rate), frame_time(after, rate))
    if wipe is not None:
        made.metadata[NAMESPACE] = {"wipe": exactly(asdict(wipe))}
    return made


def exactly(values: Any) -> Any:
    """Plain values with numbers written out as text.

    Timeline readers may round a number in its last place; text they leave
    alone, and it reads back to the very same number.
    """
    if isinstance(values, dict):
        return {k: exactly(v) for k, v in values.items()}
    if isinstance(values, list):
        return [exactly(v) for v in values]
    return repr(values) if isinstance(values, float) else values


def sound_tracks(lock: Lock) -> list[tuple[int, otio.schema.Track]]:
    """The lock's sound, a track for each of its own, by their numbers, silence as gaps."""
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
            carry(sound.carried, clip=clip, media=clip.media_reference)
            if sound.speed != 1:
                clip.effects.append(otio.schema.LinearTimeWarp(time_scalar=float(sound.speed)))
            carry_effects(sound.carried, clip)
            track.append(clip)
            at = sound.end
        if at:
            tracks.append((number, track))
    return tracks


def media_reference(media: Media) -> otio.schema.ExternalReference | otio.schema.ImageSequenceReference:
    """A media as a reference to its file, or to its images, with all that it holds."""
    numbered = numbers_of_sequence(media.path) if media.kind == "sequence" else None
    if numbered is not None:
        prefix, first, suffix = numbered
        return otio.schema.ImageSequenceReference(
            target_url_base=Path(media.path).parent.as_uri() + "/", name_prefix=prefix, name_suffix=suffix,
            start_frame=int(first), frame_step=1, rate=float(media.rate.fraction), frame_zero_padding=len(first),
            available_range=frame_range(media.start, media.frames, media.rate), available_image_bounds=_bounds(media),
        )  # fmt: skip
    return otio.schema.ExternalReference(
        target_url=Path(media.path).as_uri() if media.content else media.path,
        available_range=frame_range(media.start, media.frames, media.rate),
        available_image_bounds=_bounds(media),
    )


def _bounds(media: Media) -> otio.schema.Box2d:
    """The size of a media's picture, upright and in square pixels, around its middle, as the schema states it."""
    across, down = media.width / 2, media.height / 2
    return otio.schema.Box2d(otio.schema.V2d(-across, -down), otio.schema.V2d(across, down))


def frame_time(frames: int, rate: Rate) -> otio.opentime.RationalTime:
    """Frames at a rate as a time."""
    return otio.opentime.RationalTime(frames, float(rate.fraction))


def frame_range(start: int, frames: int, rate: Rate) -> otio.opentime.TimeRange:
    """Frames at a rate as a range of time."""
    return otio.opentime.TimeRange(frame_time(start, rate), frame_time(frames, rate))
