"""Masters from the words that people use for shapes."""

from __future__ import annotations

import re
from fractions import Fraction

from ezvar.core.errors import InputError

from .checks import LARGEST_SIDE
from .document import Document, Master
from .ids import new_id
from .windows import Backdrop

SHAPES = ("9:16", "4:5", "1:1", "16:9", "2:1")
"""Shapes that are offered; any other can be asked for."""

_SHORT_SIDE = 1080


def size_of_shape(shape: str) -> tuple[int, int]:
    """The usual size of a shape "W:H": 1080 pixels on the short side, both sides even.

    >>> size_of_shape("4:5")
    (1080, 1350)
    """
    match = re.fullmatch(r"\s*(\d{1,5}(?:\.\d+)?)\s*:\s*(\d{1,5}(?:\.\d+)?)\s*", shape)
    if not match or not (Fraction(match[1]) and Fraction(match[2])):
        raise InputError(f"“{shape}” is not a shape", remedy="Write it like 9:16")
    aspect = Fraction(match[1]) / Fraction(match[2])
    if not Fraction(1, 8) <= aspect <= 8:
        raise InputError(f"“{shape}” is narrower or wider than 1:8", remedy="Choose another shape")
    long_side = round(_SHORT_SIDE * max(aspect, 1 / aspect) / 2) * 2
    return (_SHORT_SIDE, long_side) if aspect <= 1 else (long_side, _SHORT_SIDE)


def make_master(name: str, width: int, height: int, start: str = "fill") -> Master:
    """A new master; raises `InputError` for sizes that cannot be."""
    if not name.strip():
        raise InputError("a master needs a name", remedy="Give it one")
    try:
        return Master(new_id(), name.strip(), width, height, "whole" if start == "whole" else "fill", Backdrop())
    except ValueError as error:
        raise InputError(
            f"{width} × {height}: {error}", remedy=f"Choose even sizes from 16 to {LARGEST_SIDE}"
        ) from error


def master_from_text(text: str) -> Master:
    """A master from "9:16" or "NAME=WxH"."""
    name, equals, size = text.partition("=")
    if not equals:
        return make_master(text.strip(), *size_of_shape(text))
    match = re.fullmatch(r"\s*(\d{1,6})\s*[x×]\s*(\d{1,6})\s*", size)
    if not match:
        raise InputError(f"“{size}” is not a size", remedy="Write it like 1080x1920")
    return make_master(name, int(match[1]), int(match[2]))


def odd_shape(name: str, width: int, height: int) -> str:
    """A question where a master's name and size do not go together, as a tall shape with a wide size; else empty.

    >>> odd_shape("9:16", 1920, 1080)
    '“9:16” is tall, but 1920 × 1080 is wide. Is that meant?'
    """
    match = re.search(r"(\d{1,3}(?:\.\d+)?)\s*[:x]\s*(\d{1,3}(?:\.\d+)?)(?!\d)", name)
    if not match or not Fraction(match[2]):
        return ""
    words = {1: "wide", 0: "square", -1: "tall"}
    named, sized = ((a > b) - (a < b) for a, b in ((Fraction(match[1]), Fraction(match[2])), (width, height)))
    if named == sized:
        return ""
    return f"“{match[0]}” is {words[named]}, but {width} × {height} is {words[sized]}. Is that meant?"


def master_named(doc: Document, name: str) -> Master:
    """The master of this name; raises `InputError` naming those there are."""
    for master in doc.masters:
        if master.name == name:
            return master
    known = ", ".join(m.name for m in doc.masters) or "none"
    raise InputError(f"there is no master {name}", remedy=f"Choose from: {known}")
