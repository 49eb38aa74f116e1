"""SubRip text (SRT): numbered blocks, each with its times and lines of text.

There is no standard; this reads what is found in practice: missing numbers,
points for commas, blank lines with blanks in them, tags, places as
``{\\an8}``.
"""

from __future__ import annotations

import re
from collections.abc import Iterable

from ezvar.core.model import Across, Caption, Down, Spot

from .cues import Cues
from .markup import numpad, spans_of, tagged

_TIME = r"(-?\d{1,3})\s*:\s*(\d{1,2})\s*:\s*(\d{1,2})\s*(?:[,.;:]\s*(\d{1,3}))?"
_LINE = re.compile(rf"^\s*{_TIME}\s*-+>\s*{_TIME}(.*)$")
_BEFORE, _ARROW = re.compile(r"\s*[-\d].*?\d"), re.compile(r"\s*\S+ --> \S+\s*$")
_ACROSS: tuple[Across, ...] = ("left", "centre", "right")
_DOWN: tuple[Down, ...] = ("foot", "middle", "top")
_X, _Y = (0.08, 0.5, 0.92), (0.9, 0.5, 0.1)
"""Where the nine places lie, as fractions of the frame."""


def read_srt(text: str) -> Cues:
    """Cues from text. What has no times that can be read is noted by its line."""
    cues = Cues(format="SRT")
    lines = re.sub("\r\n?", "\n", text).replace("\x00", "").split("\n")
    at = 0
    while at < len(lines):
        line = lines[at].strip()
        if not line or (line.isdigit() and _times_follow(lines, at)):
            at += 1
            continue
        end = at + 1
        while end < len(lines) and lines[end].strip() and not _begins(lines, end):
            end += 1
        times = _LINE.match(line)
        if times is None:
            number = line.isdigit() and end > at + 1  # what follows it is meant for times, whatever it looks like
            what = lines[at + 1].strip() if number else line
            said = "its times cannot be read" if number or "-->" in line else "it has no times"
            cues.note(at + 1 + number, f"{said}: “{what[:40]}”")
        else:
            body = "\n".join(lines[at + 1 : end])
            start, stop = _milliseconds(times.groups()[:4]), _milliseconds(times.groups()[4:8])
            cues.add(at + 1, start, stop, spans_of(body, entities=False), _spot(body))
        at = end
    return cues.in_order()


def _times_follow(lines: list[str], at: int) -> bool:
    return at + 1 < len(lines) and _is_timed(lines[at + 1])


def _begins(lines: list[str], at: int) -> bool:
    """Whether a new cue begins at a line, also where no blank one is before it."""
    return _is_timed(lines[at]) or (lines[at].strip().isdigit() and _times_follow(lines, at))


def _is_timed(line: str) -> bool:
    """Whether a line holds times, or is meant to."""
    before, arrow, _ = line.rpartition("-->")
    return bool(_LINE.match(line) or (arrow and (_BEFORE.match(before) or _ARROW.match(line))))


def _milliseconds(parts: Iterable[str | None]) -> int:
    hours, minutes, seconds, rest = parts
    whole = (abs(int(hours or 0)) * 3600 + int(minutes or 0) * 60 + int(seconds or 0)) * 1000
    whole += int((rest or "0").ljust(3, "0"))
    return -whole if (hours or "").startswith("-") else whole


def _spot(body: str) -> Spot | None:
    place = numpad(body)
    if place in (None, 2):  # at the foot, in the middle: where a style puts it
        return None
    assert place is not None
    down, across = divmod(place - 1, 3)
    return Spot(_X[across], _Y[down], _ACROSS[across], _DOWN[down])


def srt_text(captions: Iterable[Caption]) -> str:
    """Captions as SRT. Of a place of its own only the nearest of nine is said."""
    blocks = []
    for number, caption in enumerate(captions, 1):
        body = tagged(caption.spans, entities=False)
        body = re.sub(r"\n{2,}", "\n", body)  # an empty line would end the cue
        if (spot := caption.spot) is not None:
            across = min(range(3), key=lambda k: abs(_X[k] - spot.x))
            down = min(range(3), key=lambda k: abs(_Y[k] - spot.y))
            if (across, down) != (1, 0):
                body = f"{{\\an{3 * down + across + 1}}}{body}"
        blocks.append(f"{number}\n{_clock(caption.start)} --> {_clock(caption.end)}\n{body}\n")
    return "\n".join(blocks)


def _clock(milliseconds: int) -> str:
    seconds, rest = divmod(milliseconds, 1000)
    return f"{seconds // 3600:02d}:{seconds // 60 % 60:02d}:{seconds % 60:02d},{rest:03d}"
