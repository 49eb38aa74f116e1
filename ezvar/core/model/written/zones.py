"""Overlay zones: parts of a shape that a viewing app draws over."""

from __future__ import annotations

from dataclasses import dataclass

from ..locked import Rect


@dataclass(frozen=True, slots=True)
class Zone:
    """A rectangle in fractions of the frame, with a name and the reason why nothing should stand there."""

    name: str
    rect: Rect
    why: str = ""


@dataclass(frozen=True, slots=True)
class ZoneProfile:
    """Zones under one name, made for frames of a shape: width over height."""

    name: str
    shape: float
    zones: tuple[Zone, ...] = ()

    def __post_init__(self) -> None:
        if not self.name.strip() or not 0.05 <= self.shape <= 20:
            raise ValueError("a profile of zones has a name and a shape")
