"""What a user has set for all projects: keys, theme and size of text."""

from __future__ import annotations

import os
from dataclasses import dataclass, field
from pathlib import Path
from typing import Literal, get_args

from pydantic import TypeAdapter

from .listing import parsed, read_listing, write_listing
from .user_files import user_file

SCHEMA = 1
Theme = Literal["light", "dim"]
TEXT_SIZES = (100, 125, 150)
"""Sizes of text, in per cent."""


@dataclass(frozen=True)
class Preferences:
    """``keys`` are the commands' ids with the keys that were changed, empty for none; ``author`` is who notes are said
    by, empty for whoever is logged in; ``machines`` is the address of those that do the work, empty for this one,
    ``paths`` what beginnings of paths are called there, and ``then_here`` whether this one goes on where they fail;
    ``preset`` names the preset that rows of the output list have by themselves,
    empty for the delivery preset; ``notice`` is whether it is said on the desktop when all movies are made."""

    keys: dict[str, str] = field(default_factory=dict)
    theme: Theme = "light"
    text: int = 100
    author: str = ""
    preset: str = ""
    notice: bool = False
    machines: str = ""
    paths: tuple[str, ...] = ()
    then_here: bool = False

    def __post_init__(self) -> None:
        if self.text not in TEXT_SIZES or self.theme not in get_args(Theme):
            raise ValueError("there is no such theme or size of text")


_PREFERENCES = TypeAdapter(Preferences)


def preferences_file() -> Path:
    """Where the user\'s preferences are kept."""
    return user_file("preferences.json")


def load_preferences(path: str | os.PathLike[str]) -> Preferences:
    """Read preferences; the usual ones where there is no such file. Raises `ProjectError` for what cannot be read."""
    data = read_listing(path, "ezvar preferences", SCHEMA, "preferences")
    if data is None:
        return Preferences()
    known = ("keys", "theme", "text", "author", "preset", "notice", "machines", "paths", "then_here")
    return parsed(_PREFERENCES, {k: data[k] for k in known if k in data}, path)


def save_preferences(preferences: Preferences, path: str | os.PathLike[str]) -> None:
    """Write preferences, atomically. Raises `ProjectError` where they cannot be written."""
    write_listing(path, "ezvar preferences", SCHEMA, _PREFERENCES.dump_python(preferences, mode="json"))
