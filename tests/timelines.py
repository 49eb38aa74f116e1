"""A timeline with every feature that its format can state, and media for it."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import cv2
import opentimelineio as otio

from .media import make_movie, numbered

Time, Range = otio.opentime.RationalTime, otio.opentime.TimeRange

EDL = """TITLE: LANTERN CUT
FCM: NON-DROP FRAME

001  A001     V     C        01:00:00:10 01:00:02:00 10:00:00:00 10:00:01:15
* FROM CLIP NAME: a.mp4
* COMMENT: check the lamp
002  A001     V     C        01:00:02:00 01:00:02:00 10:00:01:15 10:00:01:15
* FROM CLIP NAME: a.mp4
002  B001     V     D    012 02:00:00:10 02:00:02:10 10:00:01:15 10:00:03:15
* TO CLIP NAME: b.mp4
003  A001     V     C        01:00:04:00 01:00:05:00 10:00:03:15 10:00:05:15
M2   A001             012.5                01:00:04:00
* FROM CLIP NAME: a.mp4
004  BL       V     C        00:00:00:00 00:00:01:00 10:00:05:15 10:00:06:15
005  A001     AA/V  W001 010 01:00:01:00 01:00:02:00 10:00:06:15 10:00:07:15
* FROM CLIP NAME: a.mp4
* LOC: 10:00:07:00 GREEN   a marker
006  A001     V     C        01:00:01:00 01:00:03:00 10:00:07:15 10:00:08:15
* FROM CLIP NAME: a.mp4
007  A001     V     C        01:00:01:00 01:00:03:00 10:00:09:15 10:00:08:15
GARBAGE LINE
008  XX
"""


def make_media(folder: Path) -> None:
    """Numbered media: ``a`` of 25 a second, ``b`` of 50, ``c`` upright from a phone, a still."""
    make_movie(folder / "a.mp4", 200, size=(320, 180), sound="beeps", timecode="01:00:00:00", bframes=2)
    make_movie(folder / "b.mp4", 120, size=(640, 360), rate=Fraction(50), timecode="02:00:00:00")
    make_movie(folder / "c.mp4", 60, size=(320, 180), rotation=90)
    cv2.imwrite(str(folder / "still.png"), numbered(77, 640, 360)[..., ::-1])


def clip(name: str, url: str, start: int, length: int, rate: float = 25) -> otio.schema.Clip:
    span = Range(Time(start, rate), Time(length, rate))
    return otio.schema.Clip(name, otio.schema.ExternalReference(url), span)


def gap(length: int) -> otio.schema.Gap:
    return otio.schema.Gap(source_range=Range(Time(0, 25), Time(length, 25)))


def track(*items: otio.core.Composable, kind: str = "Video") -> otio.schema.Track:
    made = otio.schema.Track(kind, kind=kind)
    made.extend(items)
    return made


def make_timeline() -> otio.schema.Timeline:
    """Clips, a dissolve, a gap, speeds, a freeze frame, a nested timeline, missing and switched-off clips, titles."""
    slow, frozen = clip("slow", "a.mp4", 90100, 40), clip("freeze", "a.mp4", 90150, 20)
    slow.effects.append(otio.schema.LinearTimeWarp(time_scalar=0.5))
    frozen.effects.append(otio.schema.FreezeFrame())
    nest = otio.schema.Stack("nest", source_range=Range(Time(10, 25), Time(30, 25)))
    nest.append(track(clip("n1", "c.mp4", 0, 30), clip("n2", "a.mp4", 90060, 30)))
    off, marked = clip("off", "a.mp4", 90000, 12), clip("fx", "a.mp4", 90000, 12)
    off.enabled = False
    marked.effects.append(otio.schema.Effect("sharp", "Sharpen"))
    marked.markers.append(otio.schema.Marker("look here", Range(Time(90003, 25), Time(1, 25))))
    timeline = otio.schema.Timeline("test edit", global_start_time=Time(90000, 25))
    timeline.tracks.extend(
        [
            track(
                clip("one", "a.mp4", 90010, 40),
                otio.schema.Transition("", "SMPTE_Dissolve", Time(6, 25), Time(6, 25)),
                clip("two", "b.mp4", 2 * 3600 * 50 + 20, 80, 50),
                gap(10), slow, clip("still", "still.png", 0, 25), frozen, nest,
                clip("gone", "missing/x.mov", 0, 25), clip("far", "http://example.org/x.mov", 0, 25), off, marked,
            ),
            track(gap(5), clip("title", "t.png", 0, 20)),
            track(clip("one", "a.mp4", 90010, 60), kind="Audio"),
        ]
    )  # fmt: skip
    return timeline
