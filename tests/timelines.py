"""A timeline with every feature that its format can state, and media for it."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import aaf2
import cv2
import opentimelineio as otio

from ezvar.core.planning import handed_out
from ezvar.core.review import Asked

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


_DISSOLVE = {
    "PointList": [{"Time": "0/1", "Value": "0/1"}, {"Time": "1/1", "Value": "1/1"}],
    "CutPoint": 6,
    "OperationGroup": {
        "Operation": {
            "Identification": "0c3bea40-fc05-11d2-8a29-0050040ef7d2", "Name": "Video Dissolve", "Description": "mix",
            "DataDefinition": {"Name": "Picture"}, "IsTimeWarp": False, "Bypass": 0, "NumberInputs": 2,
            "OperationCategory": "OperationCategory_Effect",
        }
    },
}  # fmt: skip


def make_aaf(path: Path) -> None:
    """Clips, a dissolve, a gap, a nested sequence, half speed, a freeze frame, a cutaway on an upper track and a
    sound track.

    Written by the adapter from what it can write; the speeds are put in afterwards.
    """

    def of_a(name: str, start: int, length: int) -> otio.schema.Clip:
        made = clip(name, "a.mp4", start, length)
        made.media_reference.available_range = Range(Time(90000, 25), Time(200, 25))
        umid = f"urn:smpte:umid:060a2b34.01010101.01010f00.13{start:06d}" + ".00000000" * 4
        made.media_reference.metadata["AAF"] = {"SourceMobID": umid}
        return made

    mix = otio.schema.Transition("", "SMPTE_Dissolve", Time(6, 25), Time(6, 25), {"AAF": _DISSOLVE})
    nest = otio.schema.Stack("nest")
    nest.append(track(of_a("n1", 90001, 10), of_a("n2", 90050, 15)))
    one, two, three = of_a("one", 90010, 40), of_a("two", 90100, 30), of_a("three", 90020, 20)
    timeline = otio.schema.Timeline("aaf", global_start_time=Time(90000, 25))
    timeline.tracks.append(track(one, mix, two, gap(10), three, nest, of_a("slow", 90060, 20), of_a("held", 90090, 15)))
    timeline.tracks.append(track(gap(50), of_a("away", 90005, 15)))
    timeline.tracks.append(track(of_a("sound", 90011, 70), kind="Audio"))
    otio.adapters.write_to_file(timeline, str(path), "AAF", use_empty_mob_ids=True)
    with aaf2.open(str(path), "rw") as file:
        sequence = next(file.content.compositionmobs()).slots[0].segment
        picture = file.dictionary.lookup_datadef("Picture")
        operation = file.create.OperationDef(aaf2.auid.AUID("9d2ea894-0968-11d3-8a38-0050040ef7d2"), "Motion Control")
        speed = file.create.ParameterDef(
            aaf2.auid.AUID("72559a80-24d7-11d3-8a50-0050040ef7d2"), "SpeedRatio", "",
            file.dictionary.lookup_typedef("Rational"),
        )  # fmt: skip
        for known in (operation, speed):
            file.dictionary.register_def(known)
        operation.media_kind = "Picture"
        operation["DataDefinition"].value = picture
        operation["IsTimeWarp"].value, operation["NumberInputs"].value, operation["Bypass"].value = True, 1, 0
        operation["OperationCategory"].value = "OperationCategory_Effect"
        last = len(sequence.components) - 1
        for place, length, ratio in ((last - 1, 40, "2/1"), (last, 15, "15")):
            source = sequence.components.pop(place)
            warped = file.create.OperationGroup(operation, length)
            warped["DataDefinition"].value = picture
            warped.parameters.append(file.create.ConstantValue(speed, aaf2.rational.AAFRational(ratio)))
            warped.segments.append(source)
            sequence.components.insert(place, warped)
        sequence.length = sum(c.length for c in sequence.components)


def handed_timelines(doc, folder):
    """A handoff of timelines alone: the document that knows of it, and a timeline for each master."""
    handed, files = handed_out(doc, folder, Asked(frozenset({"otio"})))
    return handed, [file for file in files if file.suffix == ".otio"]
