"""Profiles of overlay zones: those that are shipped, and the user's own, as JSON."""

from __future__ import annotations

import os
from collections.abc import Iterable
from functools import cache
from pathlib import Path

from pydantic import TypeAdapter

from ezvar.core.model import Master, Rect, ZoneProfile
from ezvar.core.store import parsed, read_listing, user_file, write_listing

SCHEMA = 1
_KEY = "ezvar overlay zones"
_PROFILES = TypeAdapter(tuple[ZoneProfile, ...])
_SHIPPED = Path(__file__).with_name("zones.json")
_SAME = 0.06  # by which the shape of a frame may differ from that of a profile, as a part of it

TITLE_SAFE = Rect(0.05, 0.05, 0.9, 0.9)
"""SMPTE ST 2046-1: 90 % of the width and the height."""
ACTION_SAFE = Rect(0.035, 0.035, 0.93, 0.93)
"""SMPTE ST 2046-1: 93 % of the width and the height."""


@cache
def shipped_zones() -> tuple[ZoneProfile, ...]:
    """The profiles that are shipped."""
    return load_zones(_SHIPPED)


def zones_file() -> Path:
    """Where the user's own profiles are kept."""
    return user_file("overlay-zones.json")


def load_zones(path: str | os.PathLike[str]) -> tuple[ZoneProfile, ...]:
    """Read profiles; none where there is no such file. Raises `ProjectError` for what cannot be read."""
    data = read_listing(path, _KEY, SCHEMA, "profiles of overlay zones")
    return () if data is None else parsed(_PROFILES, data.get("profiles"), path)


def save_zones(profiles: Iterable[ZoneProfile], path: str | os.PathLike[str]) -> None:
    """Write profiles, atomically; of two with one name the later."""
    named = {p.name: p for p in profiles}
    write_listing(path, _KEY, SCHEMA, {"profiles": _PROFILES.dump_python(tuple(named.values()), mode="json")})


def zones_for(master: Master, profiles: Iterable[ZoneProfile]) -> list[ZoneProfile]:
    """The profiles that are made for a master's shape."""
    shape = master.width / master.height
    return [p for p in profiles if abs(p.shape / shape - 1) <= _SAME]
