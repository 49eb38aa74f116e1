"""Reading decisions that come back as JSON or as a table, without trusting them."""

from __future__ import annotations

import csv
import io
import math
import os
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import replace
from typing import Any, cast, get_args

from pydantic import ValidationError

from ezvar.core.errors import TimelineError
from ezvar.core.model import EASES, Document, Framing, Keyframe, Verdict
from ezvar.core.store import parse_framing, parse_plain
from ezvar.core.way_in import read_bytes

from ..out.decisions import COLUMNS, FORMULA, KIND, NUMBER, QUOTE, SCHEMA
from .returned import NotOurs, Returned, read_notes, read_source, whole_number

_REMEDY = "Choose a file from a handoff"
_SEPARATORS = ",;\t"
_NEEDED = ("Pane", "Frame of shot", "Centre across", "Centre down", "Zoom", "Shot id", "Master id")


def read_decisions(path: str | os.PathLike[str]) -> list[Returned]:
    """The decisions of a JSON file of a handoff, by master.

    Raises `TimelineError` for what is none. A decision with bad values is
    listed among the problems and costs none of the others.
    """
    try:
        data = parse_plain(read_bytes(path, TimelineError, "decisions"))
    except ValueError as error:
        raise TimelineError("it is not whole, or no JSON", file=path, remedy=_REMEDY) from error
    lock, masters = (data.get("lock"), data.get("masters")) if isinstance(data, dict) else (None, None)
    if not isinstance(data, dict) or KIND not in data or not isinstance(lock, dict) or not isinstance(masters, list):
        raise NotOurs("it holds no reframe decisions", file=path, remedy=_REMEDY)
    if not isinstance(data[KIND], int) or data[KIND] > SCHEMA:
        raise TimelineError("it was written by a newer Ezvar", file=path, remedy="Take it in with that version")
    return [_master(lock, master) for master in masters if isinstance(master, dict)]


def _master(lock: dict[str, Any], master: dict[str, Any]) -> Returned:
    framings, spans, problems, sources = [], [], [], []
    decisions = master.get("decisions")
    for number, told in enumerate(decisions if isinstance(decisions, list) else (), 1):
        if not isinstance(told, dict):
            problems.append(f"Decision {number} is none.")
            continue
        start, frames = told.get("start"), told.get("frames")
        if isinstance(start, int) and isinstance(frames, int):
            spans.append((str(told.get("shot")), start, frames))
        if (source := read_source(told.get("source"))) is not None:
            sources.append((str(told.get("shot")), source))
        try:
            framings.append((parse_framing(told.get("framing")), str(told.get("base", ""))))
        except (ValidationError, ValueError) as error:
            what = error.errors()[0]["msg"] if isinstance(error, ValidationError) else str(error)
            problems.append(f"Decision {number}: {what.removeprefix('Value error, ')}.")
    noted = [n for n in told if isinstance(n, dict)] if isinstance(told := master.get("notes"), list) else []
    notes = read_notes([n.get("note") for n in noted], problems)
    by_id = {str(s.get("shot")): n for n in noted if isinstance(s := n.get("note"), dict)}
    for shot, each in by_id.items():
        if isinstance(start := each.get("start"), int) and isinstance(frames := each.get("frames"), int):
            spans.append((shot, start, frames))
    return Returned(
        str(lock.get("content", "")), str(lock.get("identity", "")), whole_number(lock.get("frames")),
        str(master.get("name", "")), (whole_number(master.get("width")), whole_number(master.get("height"))),
        tuple(framings), tuple(dict.fromkeys(spans)), tuple(problems), tuple(notes), tuple(sources),
    )  # fmt: skip


def read_table(path: str | os.PathLike[str], doc: Document) -> list[Returned]:
    """The decisions of a table of a handoff, by master, as a spreadsheet may have saved it again.

    Its columns are known by their names, in any order; others are passed
    over, and rows may come in any order. It says keyframes and verdicts: all
    else of a framing is as in the document. A number that is ours, rounded,
    is ours. Nothing is computed of what begins a formula. Raises
    `TimelineError` for what is no such table.
    """
    text = read_bytes(path, TimelineError, "a table").decode("utf-8-sig", "replace")
    rows: dict[tuple[str, str], list[dict[str, str]]] = defaultdict(list)
    try:
        head = text.partition("\n")[0]
        separator = max(_SEPARATORS, key=lambda sign: len(set(_cells(head, sign)) & set(COLUMNS)))
        table = csv.DictReader(io.StringIO(text, newline=""), delimiter=separator)
        lacking = [name for name in _NEEDED if name not in (table.fieldnames or ())]
        if lacking:
            raise NotOurs(f"it has no column “{lacking[0]}”", file=path, remedy=_REMEDY)
        for row in table:
            rows[_text(row, "Master id"), _text(row, "Shot id")].append(row)
    except csv.Error as error:
        raise TimelineError(f"it is no table ({error})", file=path, remedy=_REMEDY) from error
    named = {master for master, _ in rows}
    found = [_of_master(doc, master.id, rows) for master in doc.masters if master.id in named]
    if named and not found:
        raise TimelineError("it is about no master of this project", file=path, remedy=_REMEDY)
    if found and (unknown := named - {master.id for master in doc.masters}):
        said = f"The table has rows about {len(unknown)} other master{'s' if len(unknown) > 1 else ''}, left out."
        found[0] = replace(found[0], problems=(*found[0].problems, said))
    return found


def _cells(line: str, separator: str) -> list[str]:
    return next(csv.reader([line.strip("\r\n")], delimiter=separator), [])


def _of_master(doc: Document, master: str, rows: dict[tuple[str, str], list[dict[str, str]]]) -> Returned:
    own, framings, problems = doc.master(master), [], []
    known = {shot.id for shot in doc.shots}
    for (whose, shot), each in rows.items():
        if whose != master:
            continue
        ours = doc.framing(shot, master) if shot in known else None
        if ours is None:
            problems.append(f"There is no shot here that the table calls “{shot}”.")
            continue
        try:
            framings.append((_framing(ours, each), _text(each[0], "Sent as")))
        except ValueError as error:
            problems.append(f"Shot {doc.place_of(shot) + 1} in {own.name}: {error}.")
    spans = tuple((s.id, s.start, s.frames) for s in doc.shots)
    return Returned(
        doc.lock.content, "", doc.lock.frames, own.name, (own.width, own.height), tuple(framings), spans,
        tuple(problems),
    )  # fmt: skip


def _framing(ours: Framing, rows: Sequence[dict[str, str]]) -> Framing:
    """Our framing with the keyframes and the verdict of a table's rows. Raises `ValueError` for what makes no sense."""
    keys: dict[int, list[Keyframe]] = defaultdict(list)
    for row in rows:
        pane = round(_number(row, "Pane"))
        if not 1 <= pane <= len(ours.panes):
            raise ValueError(f"it has no pane {pane}")
        keys[pane].append(_key(row, ours.panes[pane - 1].keys))
    others = {said for row in rows if (said := _text(row, "Verdict").lower())} - {ours.verdict}
    if len(others) > 1 or not others <= set(get_args(Verdict)):
        raise ValueError(f"“{', '.join(sorted(others))}” is no verdict")
    verdict = others.pop() if others else ours.verdict
    panes = tuple(
        replace(pane, keys=tuple(sorted(keys[number], key=lambda k: k.frame))) if number in keys else pane
        for number, pane in enumerate(ours.panes, 1)
    )
    return replace(ours, panes=panes, verdict=cast(Verdict, verdict))


def _key(row: dict[str, str], ours: Sequence[Keyframe]) -> Keyframe:
    frame = round(_number(row, "Frame of shot"))
    own = next((k for k in ours if k.frame == frame), Keyframe(frame))
    ease = _text(row, "Ease") or own.ease
    if ease not in EASES:
        raise ValueError(f"“{ease}” is no ease")

    def number(column: str, known: float) -> float:
        return _number(row, column, known) if _text(row, column) else known

    return Keyframe(
        frame, number("Centre across", own.cx), number("Centre down", own.cy), number("Zoom", own.zoom),
        number("Angle", own.angle), ease, number("Bend", own.bend),
    )  # fmt: skip


def _text(row: dict[str, str], column: str) -> str:
    """A cell of text, without the quote that keeps it from being a formula or a number."""
    text = (row.get(column) or "").strip()
    quoted = text.startswith(QUOTE) and (text[1:].startswith(FORMULA) or NUMBER.fullmatch(text[1:]))
    return text[1:] if quoted else text


def _number(row: dict[str, str], column: str, ours: float | None = None) -> float:
    """A cell's number, with a point or a comma; ``ours`` where it is that, rounded as it is printed."""
    text = _text(row, column).replace(",", ".")
    try:
        value = float(text)
    except ValueError:
        raise ValueError(f"“{text[:20]}” is no number, under {column}") from None
    if not math.isfinite(value) or abs(value) > 1e9:
        raise ValueError(f"“{text[:20]}” makes no sense under {column}")
    digits = len(text.partition(".")[2]) if "e" not in text.lower() else 15
    return ours if ours is not None and abs(ours - value) <= 0.51 * 10.0**-digits else value
