"""Where the lines of a caption stand in a master.

All lengths are pixels of a frame of the size that is asked for; a layout at
half the size is the same one, halved.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from functools import lru_cache, reduce
from itertools import pairwise

from ezvar.core.model import Across, Caption, CaptionStyle, Differing, Down, Rect, Span, joined_spans

from ..placing import SAFE
from .breaking import break_lines, pieces
from .fonts import families
from .type import Face, Reach, Writing, right_to_left

_SPEAKS = re.compile(r"^\s*[-–—]\s?\S")
_OVERHANG = 0.12  # of the size: how far letters reach past their own width, slanted ones most
_PITCH = {"ARABIC": 1.6, "THAI": 1.5, "DEVANAGARI": 1.5, "HEBREW": 1.35, "CJK": 1.4, "HIRAGANA": 1.4,
          "KATAKANA": 1.4, "HANGUL": 1.4}  # fmt: skip
_LINES_AT_MOST = 12
_SMALLEST = 0.25  # of the size that is wanted, to which a text shrinks that no frame would hold
BASELINE = 0.34  # of the size, from the middle of a line down to its baseline
_SHADOW_REACH = 0.16  # of the size


@dataclass(frozen=True)
class Line:
    """One line: its spans, its width, and where it begins and its type's baseline lies."""

    spans: tuple[Span, ...]
    width: float
    x: float
    y: float

    @property
    def text(self) -> str:
        return "".join(span.text for span in self.spans)


@dataclass(frozen=True)
class LaidOut:
    """A caption's lines at a ``size`` of type, in ``rect`` (x, y, width, height) with all that is drawn of it.

    ``needs`` is how many lines it takes, ``allowed`` how many it may. ``rows``
    are the lines' boxes, top and height. Where no number of lines held it, its
    type was made ``shrunk`` times as large; ``torn`` where a single word was
    wider than a line.
    """

    lines: tuple[Line, ...]
    rows: tuple[tuple[float, float], ...]
    rect: Rect
    size: float
    needs: int
    allowed: int
    shrunk: float = 1.0
    torn: bool = False

    @property
    def fits(self) -> bool:
        return self.needs <= self.allowed and self.shrunk == 1 and not self.torn


@dataclass(frozen=True, slots=True)
class Wanted:
    """What is laid out, apart from its times, so that what was laid out once can be kept."""

    spans: tuple[Span, ...]
    hard: bool  # whether its line breaks hold
    style: CaptionStyle
    size: float
    lines: int
    place: tuple[float, float, Across, Down] | None
    raised: float
    language: str = ""


def wanted(caption: Caption, style: CaptionStyle, differing: Differing, language: str = "") -> Wanted:
    """What a caption asks for in a master where it differs as is said."""
    spot = differing.spot or caption.spot
    place = None if spot is None else (spot.x, spot.y, spot.across, spot.down)
    return Wanted(
        differing.spans or caption.spans, bool(differing.spans), style, differing.size,
        differing.lines or style.lines, place, differing.raised, language,
    )  # fmt: skip


def face_of(style: CaptionStyle, language: str = "") -> Face:
    return Face(style.family, style.font, style.font_content, language)


@lru_cache(maxsize=32768)
def lay_out(asked: Wanted, width: int, height: int) -> LaidOut:
    """The layout of a caption in a frame of a size in pixels.

    As many lines as are needed stand, also where more are than may be; a text
    that no frame would hold is set smaller. So all of it lies inside the
    frame's safe area between the side margins, whatever it is.
    """
    size = asked.style.size * asked.size * min(width, height)
    parts = _paragraphs(asked.spans, asked.hard)
    shrunk = 1.0
    while True:
        laid = _at_size(asked, parts, size * shrunk, width, height)
        room = height * (1 - 2 * SAFE)
        if laid.rect.height <= room or shrunk <= _SMALLEST:
            return replace(laid, shrunk=shrunk) if shrunk < 1 else laid
        shrunk = max(_SMALLEST, shrunk * max(0.7, min(0.95, room / laid.rect.height)))


def _at_size(
    asked: Wanted, parts: tuple[tuple[Span, ...], ...], size: float, width: int, height: int
) -> LaidOut:  # fmt: skip
    style = asked.style
    rim = _rim(style) * size
    limit = (width * (1 - 2 * style.side_margin) - 2 * rim) / size
    hand = Hand(face_of(style, asked.language), style.bold, style.letter_spacing)
    most = max(1, asked.lines - len(parts) + 1)
    broken = [broken_paragraph(part, hand, round(limit, 6), most) for part in parts]
    reach = reduce(Reach.joined, (each.reach for each in broken))
    beside = _rim(style, max(reach.left, reach.right)) * size
    if beside > rim:  # letters of such a text stand further apart from the sides
        limit = max(1.0, limit - 2 * (beside - rim) / size)
        rim = beside
        broken = [broken_paragraph(part, hand, round(limit, 6), most) for part in parts]
    texts = [line for each in broken for line in each.lines]
    sizes = [wide * size for each in broken for wide in each.widths]
    tall = reach.up + reach.down + 2 * style.outline
    pitch = max(style.line_spacing, tall, max(each.pitch for each in broken)) * size
    baseline = max(pitch / 2 + BASELINE * size, (reach.up + style.outline) * size)
    baseline = min(baseline, pitch - (reach.down + style.outline) * size) if reach.down else baseline
    block_width, block_height = max(sizes) + 2 * rim, len(texts) * pitch + 2 * rim
    left, top = _corner(asked, block_width, block_height, width, height)
    across = asked.place[2] if asked.place else style.across
    lines, rows = [], []
    for k, (spans, wide) in enumerate(zip(texts, sizes, strict=True)):
        slack = block_width - 2 * rim - wide
        x = left + rim + {"left": 0.0, "centre": slack / 2, "right": slack}[across]
        row = top + rim + k * pitch
        lines.append(Line(spans, wide, x, row + baseline))
        rows.append((row, pitch))
    rect, torn = Rect(left, top, block_width, block_height), not all(each.whole for each in broken)
    return LaidOut(tuple(lines), tuple(rows), rect, size, len(texts), asked.lines, 1.0, torn)


def _rim(style: CaptionStyle, overhang: float = 0.0) -> float:
    """How far what is drawn reaches past the lines, in sizes, where letters reach past their own width."""
    ground = style.padding if style.ground != "none" else 0.0
    letters = style.outline + max(overhang, _OVERHANG)
    return max(ground, letters + (_SHADOW_REACH if style.shadow > 0 else 0.0))


def _corner(asked: Wanted, wide: float, high: float, width: int, height: int) -> tuple[float, float]:
    """Where a block begins: at its own place or where the style says, inside the safe area."""
    style = asked.style
    if asked.place is not None:
        x, y, across, down = asked.place
        x, y = x * width, y * height
    else:
        across, down = style.across, style.down
        side, edge = style.side_margin * width, style.margin * height
        x = {"left": side, "centre": width / 2, "right": width - side}[across]
        y = {"top": edge, "middle": height / 2, "foot": height - edge}[down]
    left = x - {"left": 0.0, "centre": wide / 2, "right": wide}[across]
    top = y - {"top": 0.0, "middle": high / 2, "foot": high}[down] - asked.raised * height
    return (
        _between(left, style.side_margin * width, width * (1 - style.side_margin) - wide),
        _between(top, SAFE * height, (1 - SAFE) * height - high),
    )


def _between(value: float, low: float, high: float) -> float:
    return (low + high) / 2 if high < low else min(max(value, low), high)


@lru_cache(maxsize=16384)
def _paragraphs(spans: tuple[Span, ...], hard: bool) -> tuple[tuple[Span, ...], ...]:
    """What is broken by itself: where breaks hold each line; else all, but for lines in which somebody else speaks."""
    lines = list(_lines_of(spans))
    made: list[tuple[Span, ...]] = []
    kept: list[Span] = []
    for k, line in enumerate(lines):
        speaks = bool(_SPEAKS.match("".join(span.text for span in line)))
        if kept and (hard or (speaks and k > 0)):
            made.append(tuple(kept))
            kept = []
        elif kept and not _joins(kept[-1].text, line):
            kept.append(Span(" "))
        kept += line
    if kept:
        made.append(joined_spans(kept))
    return tuple(made)


def _joins(before: str, line: tuple[Span, ...]) -> bool:
    """Whether two lines join without a blank, as scripts do that have none between words."""
    signs = before[-1:] + (line[0].text[:1] if line else "")
    return len(signs) == 2 and all(unicodedata.east_asian_width(s) in "WF" for s in signs) and not any(
        unicodedata.name(s, "").startswith("HANGUL") for s in signs
    )  # fmt: skip


def _lines_of(spans: tuple[Span, ...]) -> Iterator[tuple[Span, ...]]:
    line: list[Span] = []
    for span in spans:
        for k, text in enumerate(span.text.split("\n")):
            if k:
                if line:
                    yield tuple(line)
                line = []
            if text:
                line.append(replace(span, text=text))
    if line:
        yield tuple(line)


@dataclass(frozen=True, slots=True)
class Hand:
    """How a paragraph is written: all that its widths depend on."""

    face: Face
    bold: bool
    spacing: float

    def reach(self, spans: tuple[Span, ...]) -> Reach:
        made = Reach()
        for span in spans:
            made = made.joined(families(self.face).reach(span.text, Writing(self.bold or span.bold, span.italic)))
        return made

    def width(self, text: str, span: Span) -> float:
        wide = families(self.face).width(text, Writing(self.bold or span.bold, span.italic))
        return wide + self.spacing * len(text) if self.spacing else wide

    @property
    def blank(self) -> float:
        return _blank(self.face, self.bold) + self.spacing


@dataclass(frozen=True)
class _Measured:
    """A paragraph's pieces: where each lies in its text, how wide it is, what a break after it costs; in sizes."""

    cut: tuple[tuple[int, int], ...]
    widths: tuple[float, ...]
    costs: tuple[float, ...]
    spaces: tuple[float, ...]


@lru_cache(maxsize=16384)
def _measured(spans: tuple[Span, ...], hand: Hand) -> _Measured:
    text = "".join(span.text for span in spans)
    parted = pieces(text, hand.face.language or "en")
    cut, at = [], 0
    for piece in parted:
        first = _find(text, at)
        at = first + len(piece.text)
        cut.append((first, at))
    widths = tuple(_stretch_width(spans, a, b, hand) for a, b in cut)
    return _Measured(tuple(cut), widths, tuple(p.costs for p in parted), tuple(hand.blank * p.space for p in parted))


@dataclass(frozen=True)
class Broken:
    """A paragraph in lines with their widths and the least way from line to line, in sizes; ``whole``
    where no word had to be torn."""

    lines: tuple[tuple[Span, ...], ...]
    widths: tuple[float, ...]
    pitch: float
    reach: Reach
    whole: bool


@lru_cache(maxsize=16384)
def broken_paragraph(spans: tuple[Span, ...], hand: Hand, limit: float, most: int) -> Broken:
    measured, whole = _measured(spans, hand), True
    if any(w > limit for w in measured.widths):
        whole = False
        measured = _torn(spans, measured, limit, hand)
    cut, widths = measured.cut, measured.widths
    breaks = break_lines(measured.costs, widths, measured.spaces, limit, most)
    more = most
    while breaks is None and more < _LINES_AT_MOST:
        more += 1
        breaks = break_lines(measured.costs, widths, measured.spaces, limit, more)
    if breaks is None:
        breaks = _greedy(widths, measured.spaces, limit)
    edges = (0, *(b + 1 for b in breaks), len(cut))
    lines = tuple(_part(spans, cut[a][0], cut[b - 1][1]) for a, b in pairwise(edges))
    wide = tuple(sum(widths[a:b]) + sum(measured.spaces[a : b - 1]) for a, b in pairwise(edges))
    reach = Reach()
    for a, b in cut if any(not span.text.isascii() for span in spans) else ():
        reach = reach.joined(hand.reach(_part(spans, a, b)))
    return Broken(lines, wide, max(_pitch(span.text) for span in spans), reach, whole)


def _find(text: str, at: int) -> int:
    """Where the next piece begins."""
    while text[at].isspace():
        at += 1
    return at


@lru_cache(maxsize=64)
def _blank(face: Face, bold: bool) -> float:
    writing = Writing(bold, False)
    type_ = families(face)
    return type_.width("n n", writing) - 2 * type_.width("n", writing)


def _stretch_width(spans: tuple[Span, ...], first: int, end: int, hand: Hand) -> float:
    return sum(hand.width(span.text, span) for span in _part(spans, first, end))


def _part(spans: tuple[Span, ...], first: int, end: int) -> tuple[Span, ...]:
    """The spans of a stretch of their text."""
    made, at = [], 0
    for span in spans:
        low, high = max(first - at, 0), min(end - at, len(span.text))
        if low < high:
            made.append(replace(span, text=span.text[low:high]))
        at += len(span.text)
    return tuple(made)


def _torn(spans: tuple[Span, ...], measured: _Measured, limit: float, hand: Hand) -> _Measured:
    """Pieces of which those too wide for a line are parted between letters."""
    text = "".join(span.text for span in spans)
    made: list[tuple[tuple[int, int], float, float, float]] = []
    for (first, end), wide, cost, space in zip(
        measured.cut, measured.widths, measured.costs, measured.spaces, strict=True
    ):
        while wide > limit and first < end:
            at = _cluster(text, first, end)
            while at < end and _stretch_width(spans, first, _cluster(text, at, end), hand) <= limit:
                at = _cluster(text, at, end)
            made.append(((first, at), _stretch_width(spans, first, at, hand), 0.0, 0.0))
            first = at
            wide = _stretch_width(spans, first, end, hand)
        if first < end:
            made.append(((first, end), wide, cost, space))
    cut, widths, costs, spaces = zip(*made, strict=True)
    return _Measured(cut, widths, costs, spaces)


def _cluster(text: str, at: int, end: int) -> int:
    """The end of the letter at a place, with the marks that stand on it."""
    at += 1
    while at < end and unicodedata.combining(text[at]):
        at += 1
    return at


def _greedy(widths: Iterable[float], spaces: Iterable[float], limit: float) -> tuple[int, ...]:
    """Breaks line by line, for what is long beyond measure."""
    breaks, run = [], 0.0
    for k, (wide, space) in enumerate(zip(widths, spaces, strict=True)):
        if run and run + wide > limit:
            breaks.append(k - 1)
            run = 0.0
        run += wide + space
    return tuple(breaks)


@lru_cache(maxsize=8192)
def _pitch(text: str) -> float:
    """The least way from line to line that a text's scripts need, in sizes."""
    if text.isascii():
        return 0.0
    stacked = run = 0
    least = 0.0
    for sign in text:
        run = run + 1 if unicodedata.combining(sign) else 0
        stacked = max(stacked, run)
        if sign > "\u0400":
            least = max(least, _PITCH.get(unicodedata.name(sign, "").split(" ")[0].split("-")[0], 0.0))
    return max(least, 1.3 + 0.5 * (stacked - 1) if stacked > 1 else 0.0)


def reads_from_right(laid: LaidOut) -> bool:
    return right_to_left(" ".join(line.text for line in laid.lines))
