"""Breaking text into lines: where it may break, what each break costs, and the best of all ways.

Places are those of Unicode's line breaking (UAX #14); what a break costs says
how well the text is parted there. Of all ways to part a text into as few
lines as hold it, the cheapest is found by trying all.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import combinations, pairwise
from math import inf

from uniseg.linebreak import line_break_units

from .words import BEGIN, HOLD

FORBIDDEN = 4.0
"""What a break costs that parts what belongs together; it is taken only where there is no other."""
_SENTENCE, _CLAUSE, _PHRASE = -0.1, -0.06, -0.03
_HANGS, _PARTS, _SHORT = 0.25, 0.3, 0.15
_UNEVEN = 2.2
_TOP_HEAVY = 0.02
_TRIED = 20_000  # ways at most; a text of so many words that there are more is broken line by line
_BLANK = " \t\n\u2002-\u2006\u2008-\u200a\u3000"  # blanks that a line may end at
_BLANKS = re.compile(f"[{_BLANK}]+")
_WORDS = re.compile(f"[{_BLANK}]+|[^{_BLANK}]+")
_PLAIN = re.compile(r"[^\W\d_]+(?:['’][^\W\d_]+)*[.,;:!?…»”\"')\]]*")
_ENDS = ".!?…。！？؟।"
_PAUSES = ",;:—–、，；：،؛"
_CLOSING = "»”’\"')]）」』】〉》"
_JAPANESE_PARTICLES = frozenset("はがをにへとでのもやか")
_DASHES = ("-", "–", "—")


@dataclass(frozen=True, slots=True)
class Piece:
    """A part of a text that is never broken. ``space``: a blank follows it where the line goes on; ``costs`` is what
    ending a line after it costs."""

    text: str
    space: bool
    costs: float


@lru_cache(maxsize=16384)
def pieces(text: str, language: str = "en") -> tuple[Piece, ...]:
    """The parts of one paragraph of text, in order."""
    units: list[tuple[str, bool]] = []
    for word in _WORDS.findall(text):
        if _BLANKS.fullmatch(word):
            if units:
                units[-1] = (units[-1][0], True)
            continue
        parts = [word] if _PLAIN.fullmatch(word) and not _east_asian(word) else _units(word)
        units.extend((part, False) for part in parts)
    joined = _without_stranded(units)
    return tuple(
        Piece(part, space, _cost(part, joined[k + 1][0], space, language) if k + 1 < len(joined) else 0.0)
        for k, (part, space) in enumerate(joined)
    )


@lru_cache(maxsize=16384)
def _units(word: str) -> tuple[str, ...]:
    return tuple(line_break_units(word))


def _without_stranded(units: list[tuple[str, bool]]) -> list[tuple[str, bool]]:
    """Units in which a sign that closes a phrase, but stands after a blank (as in French), stays with what it closes,
    and an opening dash with what it opens."""
    made: list[tuple[str, bool]] = []
    for text, space in units:
        bare = text.strip(_ENDS + _PAUSES + _CLOSING + "%") == "" and text not in _DASHES
        opens = made and made[-1][0] in ("-", "–") and len(made) == 1
        if made and made[-1][1] and (bare or opens):
            made[-1] = (f"{made[-1][0]}\u00a0{text}", space)
        else:
            made.append((text, space))
    return made


def _east_asian(word: str) -> bool:
    return any(unicodedata.east_asian_width(sign) in "WF" or "\u0e00" <= sign <= "\u0e7f" for sign in word)


def _cost(before: str, after: str, space: bool, language: str) -> float:
    """What it costs to end a line between two pieces."""
    last = before.rstrip(_CLOSING)[-1:] or before[-1:]
    if last in _ENDS and not _abbreviated(before):
        return _SENTENCE
    if last in _PAUSES:
        return _CLAUSE
    if not space:
        return _close(before, after)
    word, following = _bare(before), _bare(after)
    if word in HOLD.get(language, ()) or _abbreviated(before):
        return FORBIDDEN
    if word[:1].isdigit() and not following[:1].isdigit():  # a number and what it counts
        return FORBIDDEN / 2
    if word in BEGIN.get(language, ()):
        return _HANGS
    if following in BEGIN.get(language, ()):
        return _PHRASE
    if _name(before) and _name(after):
        return _PARTS
    return _PHRASE / 2 if following in HOLD.get(language, ()) else 0.0


def _close(before: str, after: str) -> float:
    """The cost where no blank is: East Asian text, hyphens."""
    if before.endswith(("-", "‐", "/")):
        return _PARTS
    if before[-1] in _JAPANESE_PARTICLES and unicodedata.name(after[0], "").startswith("CJK"):
        return _PHRASE
    kinds = [unicodedata.name(sign, "").split(" ")[0] for sign in (before[-1], after[0])]
    if kinds[0] == kinds[1] == "KATAKANA" or kinds == ["KATAKANA-HIRAGANA", "KATAKANA"]:
        return FORBIDDEN / 2
    if after[0] in _JAPANESE_PARTICLES or kinds == ["CJK", "HIRAGANA"]:  # the end of the word that the sign begins
        return FORBIDDEN / 2
    return _HANGS if kinds[0] == kinds[1] else _SHORT


def _bare(word: str) -> str:
    return word.strip(_ENDS + _PAUSES + _CLOSING + "«“‘\"'([-").lower()


def _abbreviated(word: str) -> bool:
    return word.rstrip(".").lower() in ("mr", "mrs", "ms", "dr", "st", "no") and word.endswith(".")


def _name(word: str) -> bool:
    return word[:1].isupper() and word[-1:].isalpha() and len(word) > 1


def break_lines(
    costs: Sequence[float], widths: Sequence[float], spaces: Sequence[float], limit: float, most: int
) -> tuple[int, ...] | None:
    """After which pieces lines end, the last left out; ``None`` where more than ``most`` lines were needed.

    ``widths`` are those of the pieces, ``spaces`` of what follows each where
    the line goes on; ``limit`` is the width of a line, all in one unit.
    """
    ends = _Sums(widths, spaces)
    count = len(widths)
    if ends.width(0, count) <= limit:
        return ()
    if most >= 2 and (two := ends.best_of_two(costs, limit)) is not None:
        return two
    for lines in range(3, most + 1):
        ways = _ways(count - 1, lines - 1)
        if ways > _TRIED:
            return ends.greedy(limit, most)
        best, cheapest = None, inf
        for breaks in combinations(range(count - 1), lines - 1):
            edges = (0, *(b + 1 for b in breaks), count)
            sizes = [ends.width(a, b) for a, b in pairwise(edges)]
            if max(sizes) > limit:
                continue
            cost = sum(costs[b] for b in breaks) + _unevenness(sizes)
            if cost < cheapest:
                best, cheapest = breaks, cost
        if best is not None:
            return best
    return None


def _unevenness(sizes: list[float]) -> float:
    """What lines of different widths cost; a first line that is longer than the next a little more."""
    longest = max(sizes)
    uneven = sum(((longest - size) / longest) ** 2 for size in sizes)
    uneven += 0.5 * max((longest - size) / longest for size in sizes)
    return _UNEVEN * uneven + (_TOP_HEAVY if sizes[0] > sizes[-1] else 0.0)


def _ways(places: int, breaks: int) -> int:
    ways = 1
    for k in range(breaks):
        ways = ways * (places - k) // (k + 1)
    return ways


class _Sums:
    """Widths of whole stretches of pieces."""

    def __init__(self, widths: Sequence[float], spaces: Sequence[float]) -> None:
        self._starts = [0.0]
        for width, space in zip(widths, spaces, strict=True):
            self._starts.append(self._starts[-1] + width + space)
        self._spaces = spaces

    def width(self, first: int, end: int) -> float:
        return self._starts[end] - self._starts[first] - (self._spaces[end - 1] if end > first else 0.0)

    def best_of_two(self, costs: Sequence[float], limit: float) -> tuple[int, ...] | None:
        """The usual case, of two lines, without more ado."""
        best, cheapest = None, inf
        whole = self._starts[-1] - self._spaces[-1]
        for b in range(len(self._spaces) - 1):
            first, second = self._starts[b + 1] - self._spaces[b], whole - self._starts[b + 1]
            if first > limit:
                break
            if second > limit:
                continue
            share = 1 - (second / first if second < first else first / second)
            cost = costs[b] + _UNEVEN * share * (share + 0.5) + (_TOP_HEAVY if first > second else 0.0)
            if cost < cheapest:
                best, cheapest = (b,), cost
        return best

    def greedy(self, limit: float, most: int) -> tuple[int, ...] | None:
        breaks: list[int] = []
        first, count = 0, len(self._spaces)
        for k in range(1, count + 1):
            if self.width(first, k) > limit:
                if k - 1 == first:
                    return None
                breaks.append(k - 2)
                first = k - 1
        return tuple(breaks) if len(breaks) < most and self.width(first, count) <= limit else None
