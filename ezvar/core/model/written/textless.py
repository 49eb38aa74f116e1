"""A textless version of the lock: the same edit, picture by picture, without what was written into it."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Textless:
    """The flat movie of it, by its path, with the fingerprint of its content and how many frames it has."""

    path: str
    content: str
    frames: int


@dataclass(frozen=True, slots=True)
class TextlessShot:
    """That what is written in a shot is nothing to keep: it shows the textless version where one is linked."""

    shot: str
