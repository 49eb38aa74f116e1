"""Parting running text into pieces that make one caption each."""

from __future__ import annotations

import re
from collections.abc import Sequence
from math import inf

from ..setting.breaking import Piece, pieces
from ..setting.words import language_of

_ENDS = re.compile(r"[.!?…。！？؟।][»”’\"')]*$")
_SENTENCE, _SPLIT, _SLACK = -2.0, 3.0, 0.6
"""What ending a caption with a sentence gains, what any other end costs, and what room left over costs."""


def chunks(text: str, letters: int, language: str = "") -> list[str]:
    """A text in pieces of at most so many letters, where its sense parts; paragraphs stay apart.

    Of all ways to part it the cheapest is taken: sentences whole, then at
    clauses, none much shorter than it might be. A word longer than that is a
    piece by itself.
    """
    language = language or language_of([text])
    made: list[str] = []
    for paragraph in re.split(r"\n\s*\n|\n(?=\s*[-–—]\s?\S)", text):
        parted = pieces(" ".join(paragraph.split()), language)
        for first, end in _parted(parted, letters):
            made.append("".join(p.text + (" " if p.space else "") for p in parted[first:end]).strip())
    return [piece for piece in made if piece]


def _parted(parted: Sequence[Piece], letters: int) -> list[tuple[int, int]]:
    """From where to where each piece goes: shortest path over all places to end one."""
    count = len(parted)
    best, before = [0.0, *[inf] * count], [0] * (count + 1)
    sizes = [len(p.text) + p.space for p in parted]
    for end in range(1, count + 1):
        long = 0
        for first in range(end - 1, -1, -1):
            long += sizes[first]
            if long > letters + 1 and first < end - 1:
                break
            cost = best[first] + _cost(parted[end - 1], end == count) + _SLACK * max(0.0, 1 - long / letters)
            if cost < best[end]:
                best[end], before[end] = cost, first
    found, end = [], count
    while end:
        found.append((before[end], end))
        end = before[end]
    return found[::-1]


def _cost(last: Piece, is_last: bool) -> float:
    if is_last or _ENDS.search(last.text):
        return _SENTENCE
    return _SPLIT + 4 * last.costs
