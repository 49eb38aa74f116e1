"""What reviewers note on framings, and what is answered."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass, replace

from .checks import finite

LONGEST_NOTE, LONGEST_AUTHOR, MOST_POINTS = 10_000, 200, 5_000
_MOMENT = re.compile(r"[0-9]{4}-[0-9]{2}-[0-9]{2}T[0-9]{2}:[0-9]{2}:[0-9]{2}Z")


@dataclass(frozen=True, slots=True)
class Mark:
    """A line drawn by hand over a master's picture: its points (x, y), as fractions of the frame."""

    points: tuple[tuple[float, float], ...]

    def __post_init__(self) -> None:
        if not self.points:
            raise ValueError("a drawn line has a point at least")
        for x, y in self.points:
            finite(x=x, y=y)
            if not (-1 <= x <= 2 and -1 <= y <= 2):
                raise ValueError("a drawn line lies in the frame or beside it")


@dataclass(frozen=True, slots=True)
class ReviewNote:
    """What somebody noted on a shot in a ``master``, "" for all of them, at frames ``start`` to ``end`` of the shot.

    ``moment`` is when, in UTC (ISO 8601, to the second). ``answers`` is the id
    of the note that begins the thread, "" for one that does. A note is not
    changed once it is said; it can be withdrawn, and then has neither text nor
    ``marks``. Whatever the text holds is text.
    """

    id: str
    shot: str
    master: str
    start: int
    end: int
    author: str
    moment: str
    text: str
    answers: str = ""
    marks: tuple[Mark, ...] = ()

    def __post_init__(self) -> None:
        if self.end <= self.start:
            raise ValueError("a note is about at least one frame")
        if not _MOMENT.fullmatch(self.moment):
            raise ValueError("a note's moment is written as 2026-01-31T12:00:00Z")
        if len(self.text) > LONGEST_NOTE or len(self.author) > LONGEST_AUTHOR:
            raise ValueError(f"a note has at most {LONGEST_NOTE} letters")
        if sum(len(mark.points) for mark in self.marks) > MOST_POINTS:
            raise ValueError(f"what is drawn has at most {MOST_POINTS} points")

    @property
    def stands(self) -> bool:
        """Whether it says anything: it was not withdrawn."""
        return bool(self.text.strip() or self.marks)

    def later(self, offset: int) -> ReviewNote:
        """The same note for a shot that begins ``offset`` frames later."""
        return replace(self, start=self.start - offset, end=self.end - offset) if offset else self

    def withdrawn(self) -> ReviewNote:
        return replace(self, text="", marks=())


def threads(notes: Iterable[ReviewNote]) -> list[tuple[ReviewNote, ...]]:
    """Notes by the thread that they belong to: its beginning first, then the answers in order of time; threads in order
    of what they are about. An answer to what is not there begins one itself."""
    every = sorted(notes, key=lambda n: n.moment)
    known = {n.id for n in every if not n.answers}
    begun: dict[str, list[ReviewNote]] = {n.id: [n] for n in every if not n.answers or n.answers not in known}
    for note in every:
        if note.answers in known:
            begun[note.answers].append(note)
    return [tuple(each) for each in sorted(begun.values(), key=lambda each: (each[0].start, each[0].moment))]
