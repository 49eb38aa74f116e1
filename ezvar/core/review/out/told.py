"""What framings come to for those who do not know us: windows in pixels, doubts in words."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache

import opentimelineio as otio

from ezvar.core.framing import Window, pane_picture_size, pane_window, sentences
from ezvar.core.model import Document, Framing, Master, Reason, Shot, threads
from ezvar.core.store import dump_plain
from ezvar.core.timelines import WINDOW
from ezvar.core.timing import timecode

from ..decision import digest

"""The name of the effect, and of what its metadata holds."""
LEAST_DOUBT = 30
"""From which a doubt is told."""


@dataclass(frozen=True)
class ToldWindow:
    """A pane's window at a frame of its shot, in pixels of the picture; ``ease`` leads to the next one."""

    pane: int  # from 1
    frame: int
    window: Window
    ease: str


class Common:
    """What several files of a handoff say alike, each worked out once."""

    def __init__(self, doc: Document) -> None:
        self.doc = doc
        self._sent: dict[tuple[str, str], str] = {}
        self._windows: dict[tuple[str, str], tuple[ToldWindow, ...]] = {}
        self._sources: dict[str, dict[str, str]] = {}

    def sent(self, framing: Framing) -> str:
        """The digest of what both sides last had of a framing; its own where it was never handed out."""
        key = framing.shot, framing.master
        if key not in self._sent:
            self._sent[key] = self.doc.sent(*key) or digest(framing)
        return self._sent[key]

    def source(self, shot: Shot) -> dict[str, str]:
        """What a shot shows of which media, as `source_told`."""
        if shot.id not in self._sources:
            self._sources[shot.id] = source_told(self.doc, shot)
        return self._sources[shot.id]

    def windows(self, shot: Shot, master: Master, framing: Framing) -> tuple[ToldWindow, ...]:
        """The windows of each pane at its keyframes, and at the first and the last frame of the shot."""
        key = shot.id, master.id
        if key not in self._windows:
            self._windows[key] = tuple(_windows(self.doc, shot, master, framing))
        return self._windows[key]


def _windows(doc: Document, shot: Shot, master: Master, framing: Framing) -> Iterator[ToldWindow]:
    for number, pane in enumerate(framing.panes, 1):
        size = pane_picture_size(doc, shot, pane)
        eases = {key.frame: key.ease for key in pane.keys}
        frames = sorted({0, shot.frames - 1, *(f for f in eases if 0 <= f < shot.frames)})
        for frame in frames:
            yield ToldWindow(number, frame, pane_window(pane, master, size, frame), eases.get(frame, "linear"))


def window_effects(common: Common, shot: Shot, master: Master, framing: Framing) -> list[otio.schema.Effect]:
    """An effect for each pane, that says in plain words and pixels which part of the picture fills it."""
    told, made = common.windows(shot, master, framing), []
    for number, pane in enumerate(framing.panes, 1):
        size = pane_picture_size(common.doc, shot, pane)
        values: dict[str, object] = {
            "units": "pixels of the picture, from its upper left",
            "picture": [size.width, size.height],
            "master": [master.width, master.height],
            "pane": [round(v, 6) for v in (pane.rect.x, pane.rect.y, pane.rect.width, pane.rect.height)],
            "windows": [_values(each) for each in told if each.pane == number],
        }  # fmt: skip
        name = f"Window in {master.name}" + (f", pane {number}" if len(framing.panes) > 1 else "")
        made.append(_effect(name, values))
    return made


def _effect(name: str, values: dict[str, object]) -> otio.schema.Effect:
    """An effect with metadata, made from the library's own JSON: value by value it takes ten times as long."""
    said = {"OTIO_SCHEMA": "Effect.1", "name": name, "effect_name": WINDOW, "metadata": {WINDOW: values}}
    return otio.core.deserialize_json_from_string(dump_plain(said).decode())


def _values(told: ToldWindow) -> dict[str, float | int | str]:
    w = told.window
    numbers = {"x": w.left, "y": w.top, "width": w.width, "height": w.height, "angle": w.angle}
    return {"frame": told.frame, **{name: round(v, 4) for name, v in numbers.items()}, "ease": told.ease}


def said_doubt(framing: Framing) -> tuple[int, str]:
    """The doubt of a framing, and its reasons in sentences."""
    return framing.doubt, _said(framing.reasons)


@lru_cache(maxsize=1024)
def _said(reasons: tuple[Reason, ...]) -> str:
    return " ".join(sentences(reasons))


def source_told(doc: Document, shot: Shot) -> dict[str, str]:
    """What a shot shows of which media, exactly: the media by its content, or its name where that is not known, from
    which of its frames on, at how many of them a frame of the lock."""
    media = doc.media_of(shot)
    return {
        "media": media.content or media.name, "start": str(shot.source.start), "step": str(shot.source.step),
    }  # fmt: skip


def said_notes(doc: Document, shot: Shot, master: Master) -> str:
    """What was noted on a shot in a master, each with its author and timecode, in one text."""
    if not doc.notes:
        return ""
    lock = doc.lock
    return " | ".join(
        f"{n.author} {timecode(lock.start + shot.start + max(0, n.start), lock.rate, lock.drop)}: "
        f"{n.text or 'a drawing'}" for each in threads(doc.notes_on(shot.id, master.id)) for n in each
    )  # fmt: skip


def note_markers_of(doc: Document, shot: Shot, master: Master, clip: otio.schema.Clip) -> Iterator[otio.schema.Marker]:
    """Markers over a clip for what was noted on its shot in a master."""
    begins, rate = clip.source_range.start_time, float(doc.lock.rate.fraction)
    for note in doc.notes_on(shot.id, master.id):
        at = begins + otio.opentime.RationalTime(max(0, note.start), rate)
        length = otio.opentime.RationalTime(min(note.end, shot.frames) - max(0, note.start), rate)
        yield otio.schema.Marker(
            f"Note of {note.author}", otio.opentime.TimeRange(at, length), comment=note.text or "a drawing"
        )


def doubt_marker(framing: Framing, clip: otio.schema.Clip) -> otio.schema.Marker | None:
    """A marker over a clip whose framing is doubtful, that says why; ``None`` where it is not."""
    figure, why = said_doubt(framing)
    if figure < LEAST_DOUBT:
        return None
    return otio.schema.Marker(f"Doubt {figure}", clip.source_range, comment=why)
