"""Ranges of frames."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, order=True)
class FrameRange:
    """Frames from ``start`` up to, and without, ``end``."""

    start: int
    end: int

    def __post_init__(self) -> None:
        if self.end < self.start:
            raise ValueError(f"a range cannot end ({self.end}) before it starts ({self.start})")

    def __len__(self) -> int:
        return self.end - self.start

    def __contains__(self, frame: int) -> bool:
        return self.start <= frame < self.end
