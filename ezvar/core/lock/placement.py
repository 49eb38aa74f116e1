"""What part of a source the edit showed."""

from __future__ import annotations

from ezvar.core.model import Document, Placement, Rect, Shot

_LEAST = 0.02  # of the picture: what shows less of it is as good as outside


def shown_part(placement: Placement, picture: tuple[int, int], frame: tuple[int, int], at: int) -> Rect:
    """The part of a picture that the lock's frame showed ``at`` frames into the shot, as fractions of the picture.

    ``picture`` and ``frame`` are widths and heights in pixels. A picture
    placed wholly outside the frame counts as shown whole.

    >>> shown_part(Placement(scale=2.0), (1920, 1080), (1920, 1080), 0)
    Rect(x=0.25, y=0.25, width=0.5, height=0.5)
    """
    key = placement.at(at)
    scale = min(frame[0] / picture[0], frame[1] / picture[1]) * key.scale
    sides = []
    for place, length, whole, low, part in (
        (key.x, picture[0], frame[0], placement.crop.x, placement.crop.width),
        (key.y, picture[1], frame[1], placement.crop.y, placement.crop.height),
    ):
        left = whole * (0.5 + place) - length * scale / 2  # of the picture in the frame
        first = max(low, -left / (length * scale))
        last = min(low + part, (whole - left) / (length * scale))
        sides.append((first, last - first))
    (x, width), (y, height) = sides
    if width < _LEAST or height < _LEAST:
        return placement.crop
    return Rect(x, y, width, height)


def used_part(doc: Document, shot: Shot, at: int = 0) -> Rect:
    """The part of its source that a shot's windows lie in: what the edit showed, or all of it."""
    if shot.uses == "the full source" or shot.placement == Placement():
        return Rect()
    media = doc.media_of(shot)
    return shown_part(shot.placement, (media.width, media.height), (doc.lock.width, doc.lock.height), at)


def used_size(doc: Document, shot: Shot) -> tuple[int, int]:
    """Width and height, in source pixels, of what a shot's windows lie in; even where it is a part."""
    media = doc.media_of(shot)
    part = used_part(doc, shot)
    if part == Rect():
        return media.width, media.height
    return max(2, round(part.width * media.width / 2) * 2), max(2, round(part.height * media.height / 2) * 2)
