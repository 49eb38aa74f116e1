"""Styles of captions under names: kept for other masters and projects, exchanged as JSON."""

from __future__ import annotations

import os
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

from pydantic import TypeAdapter

from ezvar.core.model import CaptionStyle
from ezvar.core.store import parsed, read_listing, user_file, write_listing

SCHEMA = 1
_KEY = "ezvar caption styles"


@dataclass(frozen=True)
class NamedStyle:
    """A style under a name."""

    name: str
    style: CaptionStyle

    def __post_init__(self) -> None:
        if not self.name.strip():
            raise ValueError("a style that is kept has a name")


_STYLES = TypeAdapter(tuple[NamedStyle, ...])


def styles_file() -> Path:
    """Where the user's styles are kept."""
    return user_file("caption-styles.json")


def load_styles(path: str | os.PathLike[str]) -> tuple[NamedStyle, ...]:
    """Read styles; none where there is no such file. Raises `ProjectError` for what cannot be read."""
    data = read_listing(path, _KEY, SCHEMA, "styles of captions")
    return () if data is None else parsed(_STYLES, data.get("styles"), path)


def save_styles(styles: Iterable[NamedStyle], path: str | os.PathLike[str]) -> None:
    """Write styles, atomically; of two with one name the later."""
    named = {s.name: s for s in styles}
    write_listing(path, _KEY, SCHEMA, {"styles": _STYLES.dump_python(tuple(named.values()), mode="json")})
