"""What users keep under names and exchange: styles of captions, designs of titles, profiles of overlay zones."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from ezvar.core.model import CaptionStyle, Master, Rect, TitleDesign, ZoneProfile
from ezvar.core.store import NamedList

_SAME = 0.06  # by which the shape of a frame may differ from that of a profile, as a part of it

TITLE_SAFE = Rect(0.05, 0.05, 0.9, 0.9)
"""SMPTE ST 2046-1: 90 % of the width and the height."""
ACTION_SAFE = Rect(0.035, 0.035, 0.93, 0.93)
"""SMPTE ST 2046-1: 93 % of the width and the height."""


@dataclass(frozen=True)
class NamedStyle:
    """A style of captions under a name."""

    name: str
    style: CaptionStyle


@dataclass(frozen=True)
class NamedDesign:
    """A design of titles under a name."""

    name: str
    design: TitleDesign


STYLES = NamedList(NamedStyle, "ezvar caption styles", "styles", "styles of captions", "caption-styles.json")
DESIGNS_KEPT = NamedList(NamedDesign, "ezvar title designs", "designs", "designs of titles", "title-designs.json")
ZONES = NamedList(ZoneProfile, "ezvar overlay zones", "profiles", "profiles of overlay zones", "overlay-zones.json")


@cache
def shipped_zones() -> tuple[ZoneProfile, ...]:
    """The profiles that are shipped."""
    return ZONES.load(Path(__file__).with_name("zones.json"))


def known_zones() -> tuple[ZoneProfile, ...]:
    """The profiles that are shipped, and the user's own. Raises `ProjectError` where these cannot be read."""
    return (*shipped_zones(), *ZONES.load())


def zones_for(master: Master, profiles: Iterable[ZoneProfile]) -> list[ZoneProfile]:
    """The profiles that are made for a master's shape."""
    shape = master.width / master.height
    return [p for p in profiles if abs(p.shape / shape - 1) <= _SAME]
