"""A lock as runs along strips: which pictures of which media it shows, in a way that other locks share.

What is seen in pictures, and small copies of them, are kept by strip. So a
changed lock, or another timeline of the same rushes, finds them again.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from math import ceil, floor

from ezvar.core.model import Document, Media, Placement, Shot
from ezvar.core.viewing import Span

from .placement import used_size


@dataclass(frozen=True)
class Run(Span):
    """Lock frames ``start`` to ``end``, which one clip fills without a jump; ``shot`` is the first of its shots.

    ``strip`` names the media's pictures, one each lock frame, as the lock shows them: the same media at the same speed
    and in the same place have the same strip, wherever they are used. The run shows it from its picture ``first`` on;
    pictures ``low`` to ``high`` exist, so that some before and after can be looked at as well. Numbers of pictures may
    be negative. Where nothing is to be seen the strip is empty.
    """

    shot: Shot
    low: int
    high: int

    def at(self, picture: int) -> int:
        """The lock frame of a picture of the strip, also outside the run."""
        return picture - self.first + self.start


def runs(doc: Document) -> tuple[Run, ...]:
    """The runs of a lock, in order."""
    known = {m.id: m for m in doc.lock.media}
    return tuple(_run(doc, group[0], group[-1].end, known[group[0].source.media]) for group in _groups(doc))


def lock_content(doc: Document) -> str:
    """A name for all pictures of a lock in their order: two locks of one name show the same.

    Where a continuous clip is cut does not matter, so that what is kept under
    the name outlives cuts that are added or removed.
    """
    if doc.lock.flat:
        return doc.lock.media[0].content
    known = {m.id: m for m in doc.lock.media}
    said = [
        (s.start, known[s.source.media].content, known[s.source.media].kind, str(s.source), s.uses, s.placement)
        for s, *_ in _groups(doc)
    ]
    told = repr((doc.lock.frames, doc.lock.width, doc.lock.height, str(doc.lock.rate), doc.lock.rule, said))
    return hashlib.sha256(told.encode()).hexdigest()[:32]


def _groups(doc: Document) -> Iterator[list[Shot]]:
    """The shots, those that only go on with the clip of the one before together."""
    group: list[Shot] = []
    for shot in doc.shots:
        if group and not _goes_on(group[-1], shot):
            yield group
            group = []
        group.append(shot)
    if group:
        yield group


def _goes_on(last: Shot, shot: Shot) -> bool:
    there = last.uses, last.source.media, last.placement.later(last.frames)
    return there == (shot.uses, shot.source.media, shot.placement) and last.source.later(last.frames) == shot.source


def _run(doc: Document, shot: Shot, end: int, media: Media) -> Run:
    step = Fraction(0) if media.kind == "still" else shot.source.step
    position = Fraction(0) if media.kind == "still" else shot.source.start
    length = end - shot.start
    if step == 0:
        first, low, high = 0, 0, length
    elif step > 0:
        first = floor(position / step)
        rest = position - first * step
        low, high = ceil(-rest / step), ceil((media.frames - rest) / step)
    else:
        first = -floor(position / -step)
        rest = position - first * step
        low, high = floor((media.frames - rest) / step) + 1, floor(rest / -step) + 1
    phase = position - first * step
    name = "" if media.missing or media.kind == "black" else _name(doc, shot, media, phase, step, first)
    size = used_size(doc, shot)
    return Run(shot.start, end, name, first, *size, shot, min(low, first), max(high, first + length))


def _name(doc: Document, shot: Shot, media: Media, phase: Fraction, step: Fraction, first: int) -> str:
    whole = phase.denominator == step.denominator == 1
    rule = "nearest" if whole or doc.lock.flat else doc.lock.rule
    part: tuple[object, ...] = ()
    if shot.uses != "the full source" and shot.placement != Placement():
        part = (doc.lock.width, doc.lock.height, shot.placement.later(-first))
    told = repr((media.content, media.kind, str(phase), str(step), rule, str(doc.lock.rate.fraction), part))
    return hashlib.sha256(told.encode()).hexdigest()[:24]
