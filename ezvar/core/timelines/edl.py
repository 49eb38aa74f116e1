"""Reading CMX3600 edit decision lists, line by line, so that a bad event costs only itself.

An EDL states no rate; `possible_rates` says which ones its timecodes allow.
Written here rather than taken from the CMX3600 adapter of OpenTimelineIO,
which gives up at the first contradiction and passes over mixes without a
from-line; that one writes the lists that Ezvar hands out.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from fractions import Fraction
from typing import Literal

from ezvar.core.errors import TimelineError
from ezvar.core.model import Note, Wipe
from ezvar.core.timing import RATES, Rate, can_drop, frame_of

from .reading import LONGEST, MediaHint, Mix, Piece, Reading

_TIME = r"\d{1,2}[:;.,][0-5]?\d[:;.,][0-5]?\d[:;.,]\d{1,3}"
_EVENT = re.compile(
    rf"^\s*(?P<number>\d{{1,6}})\s+(?P<reel>\S+)\s+(?P<channels>\S+)\s+(?P<how>C|D|W\d+|K\s?[BO]?)\s*(?P<length>\d+)?\s+"
    rf"(?P<src_in>{_TIME})\s+(?P<src_out>{_TIME})\s+(?P<rec_in>{_TIME})\s+(?P<rec_out>{_TIME})\s*$",
    re.IGNORECASE,
)
_SPEED = re.compile(rf"^M2\s+(?P<reel>\S+)\s+(?P<fps>[-+]?\d+(?:\.\d+)?)\s+(?P<at>{_TIME})", re.IGNORECASE)
_NOTE = re.compile(r"^\*?\s*(?P<what>[A-Z][A-Z _]+?)\s*:\s*(?P<said>.*)$")
_MARK = re.compile(rf"^(?P<at>{_TIME})\s+(?P<colour>\S+)?\s*(?P<text>.*)$")
_NAMES = {"FROM CLIP NAME", "TO CLIP NAME", "SOURCE FILE", "CLIP NAME", "KEY CLIP NAME"}
_BLACK = {"BL", "BLACK", "BLK"}


@dataclass
class _Event:
    line: int
    number: str
    reel: str
    channels: str
    how: str
    length: int
    times: dict[str, str]
    fps: str | None = None
    names: dict[str, str] = field(default_factory=dict)
    comments: list[str] = field(default_factory=list)
    frozen: bool = False


@dataclass
class _List:
    title: str
    drop: bool | None
    events: list[_Event]
    marks: list[tuple[int, str]]
    odd: list[str]


def possible_rates(text: str) -> tuple[Rate, ...]:
    """The rates that the timecodes of an EDL allow, of those of the trade."""
    most = max((int(re.split(r"[:;.,]", t)[3]) for e in _parse(text).events for t in e.times.values()), default=0)
    drops = _drops(_parse(text))
    return tuple(r for r in RATES if r.nominal > most and (can_drop(r) if drops else True))


def read_edl(text: str, name: str, rate: Rate) -> Reading:
    """Read an EDL at a rate.

    Raises `TimelineError` where it holds no event, or where its timecodes do
    not fit the rate, naming the first line that shows it.
    """
    parsed = _parse(text)
    if not parsed.events:
        raise TimelineError("there is no event in it", file=name, remedy="Export the list again as CMX3600")
    _refuse_wrong_rate(parsed, name, rate)
    drop = _drops(parsed)
    reading = Reading(parsed.title or name, rate, drop=drop, left_out=list(parsed.odd))
    timed = [t for e in parsed.events if (t := _timed(e, rate, drop, reading.left_out)) is not None]
    if not timed:
        raise TimelineError("none of its events can be read", file=name, remedy="Export the list again as CMX3600")
    reading.start = min(t.rec_in for t in timed)
    if max(t.rec_out for t in timed) - reading.start > LONGEST:
        raise TimelineError("it is longer than a day", file=name, remedy="Check its record timecodes")
    pictures = sorted((t for t in timed if t.picture), key=lambda t: (t.rec_in, t.event.line))
    for t in pictures:
        _add_picture(reading, t)
    for t in timed:
        for track in t.sounds:
            reading.sounds.append(replace(_piece(reading, t), track=track))
        start, end = t.rec_in - reading.start, t.rec_out - reading.start
        reading.notes += [Note(said, start, end) for said in t.event.comments]
    _without_overlaps(reading)
    for line, said in parsed.marks:
        _add_mark(reading, line, said, drop)
    return reading


def _parse(text: str) -> _List:
    parsed = _List("", None, [], [], [])
    for number, raw in enumerate(text.splitlines(), 1):
        line = raw.strip()
        if not line:
            continue
        if match := _EVENT.match(line):
            times = {k: match[k] for k in ("src_in", "src_out", "rec_in", "rec_out")}
            how = match["how"].upper().replace(" ", "")
            length = int(match["length"] or 0)
            parsed.events.append(
                _Event(number, match["number"], match["reel"], match["channels"].upper(), how, length, times)
            )
        elif line.upper().startswith("TITLE:"):
            parsed.title = line[6:].strip()
        elif line.upper().startswith("FCM:"):
            parsed.drop = "NON" not in line.upper()
        elif (match := _SPEED.match(line)) and parsed.events:
            _owner(parsed.events, match["reel"]).fps = match["fps"]
        elif re.fullmatch(r"\d{1,6}\s+.*", line):
            parsed.odd.append(f"Line {number}: an event that cannot be read, left out: “{line[:60]}”.")
        else:
            _parse_note(parsed, number, line)
    return parsed


def _owner(events: list[_Event], reel: str) -> _Event:
    """The event that a speed line belongs to: of the last two of one number, the one of that reel."""
    last = events[-1]
    for event in reversed(events[-2:]):
        if event.number == last.number and event.reel == reel:
            return event
    return last


def _parse_note(parsed: _List, number: int, line: str) -> None:
    match = _NOTE.match(line)
    if match and match["what"] == "LOC":
        parsed.marks.append((number, match["said"]))
    elif match and match["what"] in _NAMES and parsed.events:
        parsed.events[-1].names[match["what"]] = match["said"].strip()
    elif "FREEZE FRAME" in line.upper() and parsed.events:
        parsed.events[-1].frozen = True
    elif match and match["what"] in {"COMMENT", "NOTE"} and parsed.events:
        parsed.events[-1].comments.append(match["said"])
    else:
        parsed.odd.append(f"Line {number}: not carried: “{line[:60]}”.")


def _drops(parsed: _List) -> bool:
    """Whether record timecodes count in drop-frame: by their semicolons, else by what the list says."""
    marks = [";" in t or "," in t for e in parsed.events for t in (e.times["rec_in"], e.times["rec_out"])]
    return any(marks) or bool(parsed.drop)


def _refuse_wrong_rate(parsed: _List, name: str, rate: Rate) -> None:
    for event in parsed.events:
        for said in event.times.values():
            if int(re.split(r"[:;.,]", said)[3]) >= rate.nominal:
                raise TimelineError(
                    f"{said} has more frames than {rate} a second allow",
                    file=name,
                    place=f"line {event.line}",
                    remedy="Choose another rate",
                )
    if _drops(parsed) and not can_drop(rate):
        first = parsed.events[0]
        raise TimelineError(
            f"it counts in drop-frame timecode, which {rate} frames a second do not have",
            file=name,
            place=f"line {first.line}",
            remedy="Choose 29.97 or 59.94",
        )


@dataclass(frozen=True)
class _Timed:
    """An event with its times in frames."""

    event: _Event
    src_in: int
    rec_in: int
    rec_out: int
    speed: Fraction

    @property
    def picture(self) -> bool:
        return self.event.channels == "B" or "V" in self.event.channels

    @property
    def sounds(self) -> Iterator[int]:
        channels = self.event.channels
        if channels == "B" or re.fullmatch(r"A(/V)?", channels):
            yield 1
        elif channels.startswith("AA"):
            yield from (1, 2)
        elif match := re.fullmatch(r"A(\d{1,2})(/V)?", channels):
            yield int(match[1])


def _timed(event: _Event, rate: Rate, drop: bool, left_out: list[str]) -> _Timed | None:
    where = f"Event {event.number}, line {event.line}"
    try:
        at = {k: frame_of(_marked(t, drop and k.startswith("rec")), rate) for k, t in event.times.items()}
    except ValueError as error:
        left_out.append(f"{where}: {error}, left out.")
        return None
    recorded, played = at["rec_out"] - at["rec_in"], at["src_out"] - at["src_in"]
    if recorded < 0 or (recorded == 0 and event.how == "C" and played != 0):
        left_out.append(f"{where}: it ends before it begins, left out.")
        return None
    if recorded == 0:
        return None  # the from-line of a mix: what goes on is the clip before it
    speed = Fraction(0) if event.frozen else Fraction(1)
    if event.fps is not None:
        speed = Fraction(event.fps) / rate.nominal
    wanted = abs(speed) * recorded
    if speed and abs(played - wanted) > 1 and played != recorded:
        left_out.append(
            f"{where}: its source lasts {played} frames, its record {recorded}; the record's length was taken."
        )
    if event.length > recorded and event.how != "C":
        left_out.append(f"{where}: its mix of {event.length} frames is longer than the event; it was shortened.")
    return _Timed(event, at["src_in"], at["rec_in"], at["rec_out"], speed)


def _marked(text: str, drop: bool) -> str:
    hours, minutes, seconds, frames = re.split(r"[:;.,]", text)
    mark = ";" if drop or ";" in text or "," in text else ":"
    return f"{hours}:{minutes}:{seconds}{mark}{frames}"


def _piece(reading: Reading, t: _Timed) -> Piece:
    event, names = t.event, t.event.names
    name = names.get("TO CLIP NAME" if event.how != "C" else "FROM CLIP NAME") or names.get("FROM CLIP NAME", "")
    name = name or names.get("CLIP NAME", "")
    path = names.get("SOURCE FILE", "")
    start, end = t.rec_in - reading.start, t.rec_out - reading.start
    if event.reel.upper() in _BLACK:
        return Piece(start, end, name="black")
    key = f"{event.reel}|{name or path}"
    if key not in reading.media:
        reading.media[key] = MediaHint(key, path, name or path or event.reel, event.reel, reading.rate)
    return Piece(start, end, key, reading.rate.seconds(t.src_in), t.speed, name or event.reel)


def _add_picture(reading: Reading, t: _Timed) -> None:
    piece = _piece(reading, t)
    if t.event.how.startswith("K"):
        reading.upper.append(replace(piece, track=2))
        return
    reading.pieces.append(piece)
    length = min(t.event.length, piece.end - piece.start)
    if t.event.how != "C" and length > 0:
        wipe = None if t.event.how == "D" else Wipe(int(t.event.how[1:] or 1))
        kind: Literal["dissolve", "wipe"] = "wipe" if wipe else "dissolve"
        reading.mixes.append(Mix(kind, piece.start, piece.start, piece.start + length, wipe))


def _without_overlaps(reading: Reading) -> None:
    """Where two events want the same frames, the later one has them."""
    kept: list[Piece] = []
    for piece in reading.pieces:
        if kept and kept[-1].end > piece.start:
            before = kept.pop()
            reading.left_out.append(
                f"“{piece.name}” overlaps “{before.name}” by {before.end - piece.start} frames; "
                "the later one was taken."
            )
            if before.start < piece.start:
                kept.append(replace(before, end=piece.start))
        kept.append(piece)
    reading.pieces = kept


def _add_mark(reading: Reading, line: int, said: str, drop: bool) -> None:
    match = _MARK.match(said)
    try:
        if match is None:
            raise ValueError("it has no timecode")
        frame = frame_of(_marked(match["at"], drop), reading.rate) - reading.start
    except ValueError as error:
        reading.left_out.append(f"Line {line}: a marker was left out, {error}.")
        return
    reading.notes.append(Note(match["text"].strip() or (match["colour"] or ""), max(0, frame), max(0, frame) + 1))
