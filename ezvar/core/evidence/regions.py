"""Regions: what the finders say of one frame, in one form."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

RegionKind = Literal["face", "text", "moving", "person", "animal", "vehicle", "sport", "thing", "work", "drawn"]


@dataclass(frozen=True)
class Region:
    """Something seen on one frame: its box as fractions of the picture and how sure it is, 0..1.

    ``strength`` says how much of it there is beside others of its kind: how
    strongly a moving thing moves, how sharp a face is. ``look`` of a face is which way it looks,
    -1 to the left of the picture, 1 to the right.
    """

    kind: RegionKind
    x: float
    y: float
    width: float
    height: float
    confidence: float
    strength: float = 1.0
    look: float = 0.0

    @property
    def cx(self) -> float:
        return self.x + self.width / 2

    @property
    def cy(self) -> float:
        return self.y + self.height / 2

    @property
    def weight(self) -> float:
        """How much it pulls by itself: faces above text above what moves, sure and large ones above others.

        Of faces that are surely there and sharp, size alone tells which matters more.
        """
        sure, strong = self.confidence, self.strength
        if self.kind == "face":
            sure, strong = min(1.0, sure / _SURE_FACE), min(1.0, strong / _SHARP_FACE)
        return _PULL[self.kind] * sure * strong * float((self.width * self.height) ** 0.5)

    def in_picture(self) -> Region:
        """The part of it that lies in the picture."""
        x, y = max(0.0, self.x), max(0.0, self.y)
        right, foot = min(1.0, self.x + self.width), min(1.0, self.y + self.height)
        x, y, right, foot = (round(v, 4) for v in (x, y, right, foot))
        return replace(self, x=x, y=y, width=max(0.0, right - x), height=max(0.0, foot - y))

    def overlap(self, other: Region) -> float:
        """Intersection over union of the two boxes, 0..1."""
        across = min(self.x + self.width, other.x + other.width) - max(self.x, other.x)
        down = min(self.y + self.height, other.y + other.height) - max(self.y, other.y)
        if across <= 0 or down <= 0:
            return 0.0
        both = across * down
        return both / (self.width * self.height + other.width * other.height - both)

    def holds(self, other: Region) -> bool:
        """Whether the middle of another region lies in this one."""
        return abs(other.cx - self.cx) <= self.width / 2 and abs(other.cy - self.cy) <= self.height / 2


_SURE_FACE, _SHARP_FACE = 0.6, 0.7  # confidence, and sharpness beside the sharpest, of a face that is surely there
_PULL: dict[str, float] = {
    "face": 2.2, "person": 1.6, "animal": 1.3, "vehicle": 1.0, "sport": 1.0, "thing": 0.7, "text": 0.7, "moving": 1.0,
    "work": 1.0, "drawn": 10.0,
}  # fmt: skip
