"""What the layers of a lock show, read from their media, and what they take up of the lock's frame."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from cachetools import LRUCache

from ezvar.core.errors import EzvarError, MediaError
from ezvar.core.lock import media_frames
from ezvar.core.media import Cel, MovieReader, cel_of, image_of_sequence, read_cel
from ezvar.core.model import Layer, Lock, Media, Placement, Rect

_MOST_OPEN, _MOST_IMAGES = 4, 4
_LOOKS = 5  # pictures of a movie by which it is told what it takes up


class _Open(LRUCache[str, "MovieReader | Cel"]):
    def popitem(self) -> tuple[str, MovieReader | Cel]:
        id, media = super().popitem()
        if isinstance(media, MovieReader):
            media.close()
        return id, media


class LayerMedia:
    """The media of a lock's layers. What cannot be read is told to ``note`` once, and shows nothing from then on. One
    caller at a time."""

    def __init__(self, lock: Lock, note: Callable[[EzvarError], object]) -> None:
        self._lock, self._note = lock, note
        self._media = {media.id: media for media in lock.media}
        self._open = _Open(_MOST_OPEN)
        self._images: LRUCache[str, Cel] = LRUCache(_MOST_IMAGES)
        self._failed: set[str] = set()
        self._taken: dict[Layer, Rect | None] = {}

    def close(self) -> None:
        for media in self._open.values():
            if isinstance(media, MovieReader):
                media.close()
        self._open.clear()

    def of(self, layer: Layer) -> Media | None:
        """The media of a layer, as long as it can be read."""
        media = self._media.get(layer.source.media)
        return None if media is None or media.id in self._failed else media

    def cel(self, layer: Layer, frame: int) -> Cel | None:
        """What a layer's media shows at a lock frame, without what its placement cuts off; ``None`` where it cannot be
        read."""
        media = self.of(layer)
        if media is None:
            return None
        try:
            return self._cel(media, layer, frame)
        except EzvarError as error:
            self._fail(media, error)
            return None

    def content(self, layer: Layer) -> Rect | None:
        """What a layer takes up of the lock's frame at one time or another, as fractions; ``None`` where it shows
        nothing or cannot be read."""
        media = self.of(layer)
        if media is None:
            return None
        if layer not in self._taken:
            try:
                self._taken[layer] = self._looked_for(layer, media)
            except EzvarError as error:
                self._fail(media, error)
                return None
        return self._taken[layer]

    def placed(self, placement: Placement, cel: Cel, at: int) -> tuple[float, float, float]:
        """Where a cel begins in the lock's frame, in its pixels, and how many of them one of its own becomes."""
        key, (width, height) = placement.at(at), (cel.planes.width, cel.planes.height)
        scale = min(self._lock.width / width, self._lock.height / height) * key.scale
        left = self._lock.width * (0.5 + key.x) - width * scale / 2
        return left, self._lock.height * (0.5 + key.y) - height * scale / 2, scale

    def _fail(self, media: Media, error: EzvarError) -> None:
        self._failed.add(media.id)
        self._note(error)

    def _looked_for(self, layer: Layer, media: Media) -> Rect | None:
        last = layer.end - layer.start - 1
        frames = {0, last, *(k.frame for k in layer.placement.keys if 0 < k.frame < last)}
        if media.kind != "still":
            frames |= {round(last * k / (_LOOKS - 1)) for k in range(_LOOKS)}
        return union([r for at in sorted(frames) if (r := self._part(layer, media, at)) is not None])

    def _part(self, layer: Layer, media: Media, at: int) -> Rect | None:
        cel = self._cel(media, layer, layer.start + at)
        rows, columns = (np.flatnonzero(cel.opacity.any(axis=axis)) for axis in (1, 0))
        if not len(rows):
            return None
        left, top, scale = self.placed(layer.placement, cel, at)
        across = (float(left + scale * c) / self._lock.width for c in (columns[0], columns[-1] + 1))
        down = (float(top + scale * r) / self._lock.height for r in (rows[0], rows[-1] + 1))
        (x, right), (y, foot) = (tuple(min(max(v, 0.0), 1.0) for v in ends) for ends in (across, down))
        return Rect(x, y, right - x, foot - y) if right > x and foot > y else None

    def _image(self, path: str) -> Cel:
        if path not in self._images:
            self._images[path] = read_cel(path)
        return self._images[path]

    def _cel(self, media: Media, layer: Layer, frame: int) -> Cel:
        if media.missing:
            raise MediaError("it was not found", file=media.path or media.name, remedy="Choose its file")
        if media.kind == "sequence":
            position = layer.source.at(frame - layer.start)
            ((image, _),) = media_frames(position, media.frames, "nearest")
            return _cut(self._image(str(image_of_sequence(media.path, image))), layer.placement.crop)
        opened = self._open.get(media.id)
        if opened is None:
            still = media.kind == "still"
            opened = self._open[media.id] = read_cel(media.path) if still else MovieReader(media.path, opacity=True)
        if isinstance(opened, Cel):
            return _cut(opened, layer.placement.crop)
        position = layer.source.at(frame - layer.start)
        wanted = max(media_frames(position, opened.facts.frames, "nearest"), key=lambda each: each[1])
        return _cut(cel_of(opened.frame(wanted[0])), layer.placement.crop)


def union(rects: list[Rect]) -> Rect | None:
    """The smallest rectangle that holds all of these; ``None`` of none."""
    if not rects:
        return None
    left, top = min(r.x for r in rects), min(r.y for r in rects)
    right, foot = max(r.x + r.width for r in rects), max(r.y + r.height for r in rects)
    return Rect(left, top, right - left, foot - top)


def _cut(cel: Cel, crop: Rect) -> Cel:
    """A cel of which only a part, as fractions of it, is seen."""
    if crop == Rect():
        return cel
    high, wide = cel.opacity.shape
    seen = np.zeros_like(cel.opacity)
    rows = slice(round(crop.y * high), round((crop.y + crop.height) * high))
    columns = slice(round(crop.x * wide), round((crop.x + crop.width) * wide))
    seen[rows, columns] = 255
    return cel.within(seen)
