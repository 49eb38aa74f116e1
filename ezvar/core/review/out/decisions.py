"""All decisions as JSON, which reads back exactly, and as a table for people."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Collection, Iterator, Sequence
from typing import Any

from ezvar.core.framing import crop_windows
from ezvar.core.model import Document, Framing, Master, ReviewNote, Shot
from ezvar.core.names import readable
from ezvar.core.store import dump_decisions, dump_note, dump_plain, framing_schema, note_schema
from ezvar.core.timing import timecode

from .timeline import lock_told
from .told import Common, said_doubt, said_notes

SCHEMA = 1
KIND = "ezvar decisions"
COLUMNS = (
    "Shot", "Begins", "Frames", "Source", "Master", "Width", "Height", "Verdict", "Doubt", "Why doubtful", "Notes",
    "Decided", "Pane", "Frame of shot", "Centre across", "Centre down", "Zoom", "Angle", "Ease", "Bend",
    "Shot id", "Master id", "Sent as",
)  # fmt: skip
"""One row for each keyframe of each pane; centres are parts of the picture, angles degrees."""
FORMULA = ("=", "+", "-", "@", "\t", "\r")
"""What a spreadsheet takes for the beginning of a formula in a cell of text."""
NUMBER = re.compile(r"[0-9][0-9.,]*(?:[eE][+-]?[0-9]+)?")
"""What it takes for a number: an id may look like one, and would come back as another."""
QUOTE = "'"
"""Stands before such texts."""


def decisions_json(
    doc: Document, masters: Sequence[Master], shots: Collection[str] = (), common: Common | None = None
) -> bytes:
    """The decisions for some masters, on some ``shots`` by their ids or on all, with what they belong to."""
    made, common = [], common or Common(doc)
    for master in masters:
        decided = []
        for shot, framing in _framed(doc, master, shots):
            figure, why = said_doubt(framing)
            decided.append({
                "shot": shot.id, "number": doc.place_of(shot.id) + 1, "start": shot.start, "frames": shot.frames,
                "source": common.source(shot), "doubt": figure, "why": why,
                "framing": dump_decisions(framing, briefly=True), "base": common.sent(framing),
            })  # fmt: skip
        facts = {"id": master.id, "name": master.name, "width": master.width, "height": master.height}
        notes = [
            {"start": (shot := doc.shot(n.shot)).start, "frames": shot.frames, "note": dump_note(n)}
            for n in _noted(doc, master, masters[0], shots)
        ]
        made.append({**facts, "decisions": decided, **({"notes": notes} if notes else {})})
    return dump_plain({KIND: SCHEMA, "lock": lock_told(doc), "masters": made}, indent=1) + b"\n"


def _noted(doc: Document, master: Master, first: Master, shots: Collection[str]) -> Iterator[ReviewNote]:
    """The notes on a master, withdrawn ones too; those on all masters go with the first."""
    for note in doc.notes:
        if (note.master or first.id) == master.id and (not shots or note.shot in shots):
            yield note


def decisions_schema() -> dict[str, Any]:
    """The JSON Schema (draft 2020-12) of what `decisions_json` writes."""
    framing = framing_schema()
    note = note_schema()
    definitions = framing.pop("$defs", {}) | note.pop("$defs", {})
    text, whole = {"type": "string"}, {"type": "integer"}
    source = _object(("media", "start", "step"), media=text, start=text, step=text)
    decision = _object(
        ("shot", "start", "frames", "framing", "base"), shot=text, number=whole, start=whole, frames=whole,
        source=source, doubt=whole, why=text, framing={"$ref": "#/$defs/Framing"}, base=text,
    )  # fmt: skip
    noted = _object(("start", "frames", "note"), start=whole, frames=whole, note={"$ref": "#/$defs/ReviewNote"})
    master = _object(
        ("name", "width", "height", "decisions"), id=text, name=text, width=whole, height=whole,
        decisions={"type": "array", "items": decision},
        notes={"type": "array", "items": noted},
    )  # fmt: skip
    lock = _object(("frames", "identity"), name=text, frames=whole, rate=text, content=text, identity=text)
    version = {"type": "integer", "maximum": SCHEMA}
    made = _object((KIND, "lock", "masters"), lock=lock, masters={"type": "array", "items": master})
    made["properties"][KIND] = version
    head = {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "Reframe decisions of a handoff"}
    return {**head, **made, "$defs": {**definitions, "Framing": framing, "ReviewNote": note}}


def _object(required: Sequence[str], **properties: Any) -> dict[str, Any]:
    return {"type": "object", "required": list(required), "properties": properties}


def decisions_csv(
    doc: Document, masters: Sequence[Master], shots: Collection[str] = (), common: Common | None = None
) -> str:
    """The same as a table: `COLUMNS`, numbers printed so that they read back exactly. No cell begins a formula."""
    out, common = io.StringIO(), common or Common(doc)
    table = csv.writer(out, lineterminator="\r\n")
    table.writerow(COLUMNS)
    for master in masters:
        for shot, framing in _framed(doc, master, shots):
            table.writerows(_rows(doc, shot, master, framing, common.sent(framing)))
    return out.getvalue()


def windows_csv(doc: Document, masters: Sequence[Master], shots: Collection[str] = ()) -> str:
    """The window of every frame, in picture pixels, as the command that lists them prints it."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\r\n")
    table.writerow(WINDOW_COLUMNS)
    numbers = {k for k, shot in enumerate(doc.shots, 1) if not shots or shot.id in shots}
    for master in masters:
        table.writerows(row for row in window_rows(doc, master) if row[2] in numbers)
    return out.getvalue()


WINDOW_COLUMNS = ("master", "frame", "shot", "layer", "pane", "x", "y", "width", "height", "angle")


def window_rows(doc: Document, master: Master) -> Iterator[list[object]]:
    """The windows of a master, frame by frame, under `WINDOW_COLUMNS`."""
    for row in crop_windows(doc, master):
        w = row.window
        numbers = [f"{v:.3f}" for v in (w.left, w.top, w.width, w.height, w.angle)]
        yield [_cell(master.name), row.frame, row.shot, row.part, row.pane, *numbers]


def _framed(doc: Document, master: Master, shots: Collection[str]) -> Iterator[tuple[Shot, Framing]]:
    for shot in doc.shots:
        framing = doc.framing(shot.id, master.id)
        if framing is not None and (not shots or shot.id in shots):
            yield shot, framing


def _rows(doc: Document, shot: Shot, master: Master, framing: Framing, sent: str) -> Iterator[list[Any]]:
    media, lock = doc.media_of(shot), doc.lock
    begins = timecode(lock.start + shot.start, lock.rate, lock.drop)
    name = readable(media.name or media.path.replace("\\", "/").rsplit("/", 1)[-1])
    figure, why = said_doubt(framing)
    head = [doc.place_of(shot.id) + 1, begins, shot.frames, name, master.name, master.width, master.height,
            framing.verdict, figure, why, said_notes(doc, shot, master), framing.decided]  # fmt: skip
    before, after = [_cell(v) for v in head], [_cell(v) for v in (shot.id, master.id, sent)]
    for number, pane in enumerate(framing.panes, 1):
        for key in pane.keys:
            numbers = [repr(v) for v in (key.cx, key.cy, key.zoom, key.angle)]
            yield [*before, number, key.frame, *numbers, key.ease, repr(key.bend), *after]


def _cell(value: Any) -> Any:
    """A value as it stands in a cell; text that a spreadsheet would take for a formula or a number is quoted."""
    if isinstance(value, float):
        return repr(value)
    if isinstance(value, str) and (value.startswith(FORMULA) or NUMBER.fullmatch(value)):
        return QUOTE + value
    return value
