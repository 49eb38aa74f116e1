"""WebVTT, after W3C's "WebVTT: The Web Video Text Tracks Format"."""

from __future__ import annotations

import re
from collections.abc import Iterable

from ezvar.core.model import Across, Caption, Down, Spot

from .cues import Cues
from .markup import spans_of, tagged

_TIME = r"(?:(\d+):)?(\d{1,2}):(\d{1,2})[.,](\d{1,3})"
_LINE = re.compile(rf"^\s*{_TIME}\s*--+>\s*{_TIME}(?:\s+(.*))?$")
_LINES = 15  # in which a number of a line is meant where no region says otherwise
_ACROSS: dict[str, Across] = {"start": "left", "left": "left", "center": "centre", "middle": "centre",
                              "end": "right", "right": "right"}  # fmt: skip
_DOWN: dict[str, Down] = {"start": "top", "center": "middle", "end": "foot"}
_ALIGN = {"left": "left", "centre": "center", "right": "right"}
_LINE_ALIGN = {"top": "start", "middle": "center", "foot": "end"}
_POSITION_ALIGN = {"left": "line-left", "centre": "center", "right": "line-right"}
_AT: dict[Across, float] = {"left": 0.0, "centre": 0.5, "right": 1.0}

Settings = dict[str, str]


def read_webvtt(text: str) -> Cues:
    """Cues from text. Notes are passed over; styling is not taken, and noted."""
    cues = Cues(format="WebVTT")
    lines = re.sub("\r\n?", "\n", text).replace("\x00", "\ufffd").split("\n")
    regions: dict[str, Settings] = {}
    if not lines[0].startswith("WEBVTT"):
        cues.note(1, "it does not begin with WEBVTT, and was read all the same", kept=True)
    at = 0
    while at < len(lines):
        end = at
        while end < len(lines) and lines[end].strip() and not (end > at + 1 and "-->" in lines[end]):
            end += 1
        _block(cues, lines[at:end], at + 1, regions)
        at = end if end > at else at + 1
    return cues.in_order()


def _block(cues: Cues, block: list[str], line: int, regions: dict[str, Settings]) -> None:
    """What lies between two empty lines; its first line is ``line``."""
    timed = next((k for k, each in enumerate(block[:2]) if "-->" in each), None)
    if timed is None:
        head = block[0].strip() if block else ""
        if head.startswith("REGION"):
            region = _settings(" ".join(block).replace("\t", " "))
            regions[region.get("id", "")] = region
        elif head.startswith("STYLE"):
            cues.note(line, "its styling is not taken; the track's style holds", kept=True)
        elif head and not head.startswith(("WEBVTT", "NOTE")):
            cues.note(line, f"it has no times: “{head[:40]}”")
        return
    times = _LINE.match(block[timed])
    if times is None:
        cues.note(line + timed, f"its times cannot be read: “{block[timed].strip()[:40]}”")
        return
    start, end = _milliseconds(times.groups()[:4]), _milliseconds(times.groups()[4:8])
    settings = _settings(times[9] or "")
    body = "\n".join(block[timed + 1 :])
    if "vertical" in settings:
        cues.note(line + timed, "it is written downwards, and stands in lines here", kept=True)
    cues.add(line + timed, start, end, spans_of(body, entities=True), _spot(settings, regions))


def _milliseconds(parts: tuple[str | None, ...]) -> int:
    hours, minutes, seconds, rest = parts
    whole = int(hours or 0) * 3600 + int(minutes or 0) * 60 + int(seconds or 0)
    return whole * 1000 + int((rest or "0").ljust(3, "0"))


def _settings(text: str) -> Settings:
    return dict(pair.split(":", 1) for pair in text.split() if ":" in pair and "=" not in pair)


def _spot(settings: Settings, regions: dict[str, Settings]) -> Spot | None:
    """Where a cue's settings put it; ``None`` for the foot's middle, where it stands without any."""
    across = _ACROSS.get(settings.get("align", ""), "centre")
    region = regions.get(settings.get("region", ""))
    if region is not None and (anchor := _pair(region.get("viewportanchor", ""))) is not None:
        return Spot(anchor[0], anchor[1], across, "foot")
    position, _, place = settings.get("position", "").partition(",")
    line, _, line_place = settings.get("line", "").partition(",")
    x, y = _part(position), _line(line)
    if x is None and y is None and across == "centre":
        return None
    across = {"line-left": "left", "center": "centre", "line-right": "right"}.get(place, across)  # type: ignore[assignment]
    down: Down = _DOWN.get(line_place, "foot" if y is None or line.startswith("-") else "top")
    return Spot(_AT[across] if x is None else x, 0.9 if y is None else y, across, down)


def _line(text: str) -> float | None:
    if text.endswith("%"):
        return _part(text)
    try:
        number = int(text)
    except ValueError:
        return None
    whole = number / _LINES if number >= 0 else 1 + (number + 1) / _LINES
    return min(max(whole, 0.0), 1.0)


def _part(text: str) -> float | None:
    try:
        value = float(text.removesuffix("%")) / 100
    except ValueError:
        return None
    return value if text.endswith("%") and 0 <= value <= 1 else None


def _pair(text: str) -> tuple[float, float] | None:
    x, _, y = text.partition(",")
    left, top = _part(x), _part(y)
    return None if left is None or top is None else (left, top)


def webvtt_text(captions: Iterable[Caption], language: str = "") -> str:
    """Captions as WebVTT, with their places."""
    blocks = [f"WEBVTT\nLanguage: {language}\n" if language else "WEBVTT\n"]
    for caption in captions:
        body = re.sub(r"\n{2,}", "\n", tagged(caption.spans, entities=True))
        blocks.append(f"{_clock(caption.start)} --> {_clock(caption.end)}{_said(caption.spot)}\n{body}\n")
    return "\n".join(blocks)


def _said(spot: Spot | None) -> str:
    if spot is None:
        return ""
    line = f"line:{_percent(spot.y)},{_LINE_ALIGN[spot.down]}"
    position = f"position:{_percent(spot.x)},{_POSITION_ALIGN[spot.across]}"
    return f" {line} {position} align:{_ALIGN[spot.across]}"


def _percent(part: float) -> str:
    return f"{100 * part:.4f}".rstrip("0").rstrip(".") + "%"


def _clock(milliseconds: int) -> str:
    seconds, rest = divmod(milliseconds, 1000)
    return f"{seconds // 3600:02d}:{seconds // 60 % 60:02d}:{seconds % 60:02d}.{rest:03d}"
