"""The layers of a lock, drawn for masters: what its upper picture tracks lay over the edit."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from cachetools import LRUCache

from ezvar.core.errors import EzvarError, MediaError
from ezvar.core.framing import Window
from ezvar.core.lock import media_frames
from ezvar.core.media import Cel, MovieReader, black_of, cel_of, image_of_sequence, read_cel
from ezvar.core.model import Document, Layer, Master, Media, Placement, Rect, layer_key
from ezvar.core.text import Fit, fit

from .sampling import chroma_window, sample

_MOST_OPEN, _MOST_DRAWN, _MOST_IMAGES = 4, 6, 4
_LOOKS = 5  # pictures of a movie by which it is told what it takes up
_GREY = 128
_TOGETHER = 0.5  # of the shorter one's time, for which layers of a group are on together
_BESIDE, _FRAME = 0.02, 0.95  # of the frame: the gap between things that lie against each other, and what fills it


class _Open(LRUCache[str, "MovieReader | Cel"]):
    def popitem(self) -> tuple[str, MovieReader | Cel]:
        id, media = super().popitem()
        if isinstance(media, MovieReader):
            media.close()
        return id, media


class Layers:
    """The layers of a document's lock. What cannot be read is told to ``note``, and not drawn. One caller at a time."""

    def __init__(self, doc: Document, note: Callable[[EzvarError], object]) -> None:
        self._note = note
        self._open = _Open(_MOST_OPEN)
        self._images: LRUCache[str, Cel] = LRUCache(_MOST_IMAGES)
        self._failed: set[str] = set()
        self._drawn: LRUCache[object, Cel | None] = LRUCache(_MOST_DRAWN)
        self._taken: dict[Layer, Rect | None] = {}
        self._groups: dict[Layer, tuple[str, Rect | None]] = {}
        self._doc, self._lock, self._media = doc, doc.lock, {media.id: media for media in doc.lock.media}

    def show(self, doc: Document) -> None:
        """Go on with a changed document. What layers take up of the lock's frame is known while the lock stays."""
        known, self._doc = doc.lock is self._lock, doc
        if known:
            return
        self._lock, self._media = doc.lock, {media.id: media for media in doc.lock.media}
        self._failed.clear()
        self._taken.clear()
        self._groups.clear()
        self._drawn.clear()
        self.close()

    def close(self) -> None:
        for media in self._open.values():
            if isinstance(media, MovieReader):
                media.close()
        self._open.clear()

    def drawn(
        self, layer: Layer, frame: int, master: Master, size: tuple[int, int], quickly: bool = False
    ) -> Cel | None:
        """A layer at a lock frame as a master of a ``size`` in pixels shows it; ``None`` where it shows nothing.

        ``quickly`` leaves out what has to be decoded first.
        """
        media = self._media.get(layer.source.media)
        if media is None or media.id in self._failed or (quickly and media.kind != "still"):
            return None
        if self._doc.stands(self._group(layer)[0], master.id).hidden:
            return None
        stands = layer.placement.at(frame - layer.start)
        key = self._doc.placed, layer, (stands.x, stands.y, stands.scale), (master.width, master.height), size
        if key in self._drawn:
            return self._drawn[key]
        try:
            content = self._content(layer, media)
            if content is None:
                return None
            cel = self._cel(media, layer, frame)
        except EzvarError as error:
            self._failed.add(media.id)
            self._note(error)
            return None
        place = self._placed_in(layer, content, master)
        window = self._window(layer, cel, frame, place, master, size)
        made = _sampled(cel, window, size, not layer.placement.keys).trimmed()
        if media.kind == "still":
            self._drawn[key] = made
        return made

    def place(self, layer: Layer, master: Master) -> Rect | None:
        """What a layer takes up of a master's frame, as fractions of it; ``None`` where it is hidden, shows nothing or
        cannot be read, which is told."""
        media = self._media.get(layer.source.media)
        if media is None or media.id in self._failed or self._doc.stands(self._group(layer)[0], master.id).hidden:
            return None
        try:
            content = self._content(layer, media)
        except EzvarError as error:
            self._failed.add(media.id)
            self._note(error)
            return None
        if content is None:
            return None
        at = self._placed_in(layer, content, master)
        across, down = self._lock.width / master.width, self._lock.height / master.height
        return Rect(
            content.x * across * at.scale + at.x / master.width, content.y * down * at.scale + at.y / master.height,
            content.width * across * at.scale, content.height * down * at.scale,
        )  # fmt: skip

    def place_of(self, item: str, master: Master) -> Rect | None:
        """As `place`, of the layer of a `layer_key`."""
        layer = next((each for each in self._lock.layers if layer_key(each) == item), None)
        return None if layer is None else self.place(layer, master)

    def _placed_in(self, layer: Layer, content: Rect, master: Master) -> Fit:
        """How a layer is laid out in a master: with its group, moved and scaled by hand about the group's middle."""
        key, whole = self._group(layer)
        whole = whole or content
        size = self._lock.width, self._lock.height
        first, by = fit(whole, size, (master.width, master.height)), self._doc.stands(key, master.id)
        middle = (whole.x + whole.width / 2) * size[0], (whole.y + whole.height / 2) * size[1]
        scale = first.scale * by.scale
        x, y = (m * (first.scale - scale) + at for m, at in zip(middle, (first.x, first.y), strict=True))
        return Fit(scale, x + by.x * master.width, y + by.y * master.height)

    def _group(self, layer: Layer) -> tuple[str, Rect | None]:
        """The key of the first layer of those that stay together with this one, and what all of them take up.

        Layers are a group where they are on at much the same time and lie against or over each other in the lock's
        frame: a text and its bar.
        """
        if layer not in self._groups:
            members, grown = [layer], True
            while grown:
                more = [o for o in self._lock.layers if o not in members and any(self._together(o, m) for m in members)]
                members, grown = members + more, bool(more)
            rects = [r for m in members if (r := self._known_content(m)) is not None]
            key = layer_key(min(members, key=lambda m: (m.track, m.start)))
            for member in members:
                self._groups[member] = key, _union(rects)
        return self._groups[layer]

    def _together(self, a: Layer, b: Layer) -> bool:
        both = min(a.end, b.end) - max(a.start, b.start)
        if a.track == b.track or both < _TOGETHER * min(a.end - a.start, b.end - b.start):
            return False
        first, second = self._known_content(a), self._known_content(b)
        if first is None or second is None or any(min(r.width, r.height) >= _FRAME for r in (first, second)):
            return False  # what fills the frame belongs to nothing in it
        return (
            first.x - _BESIDE <= second.x + second.width and second.x - _BESIDE <= first.x + first.width
            and first.y - _BESIDE <= second.y + second.height and second.y - _BESIDE <= first.y + first.height
        )  # fmt: skip

    def _known_content(self, layer: Layer) -> Rect | None:
        media = self._media.get(layer.source.media)
        if media is None or media.id in self._failed:
            return None
        try:
            return self._content(layer, media)
        except EzvarError as error:
            self._failed.add(media.id)
            self._note(error)
            return None

    def _window(self, layer: Layer, cel: Cel, frame: int, place: Fit, master: Master, size: tuple[int, int]) -> Window:
        """The master's frame in the pixels of a cel."""
        left, top, scale = self._placed(layer.placement, cel, frame - layer.start)
        by = size[0] / master.width
        each = scale * place.scale * by
        x, y = (left * place.scale + place.x) * by, (top * place.scale + place.y) * by
        width, height = size
        return Window((width / 2 - x) / each, (height / 2 - y) / each, width / each, height / each)

    def _placed(self, placement: Placement, cel: Cel, at: int) -> tuple[float, float, float]:
        """Where a cel begins in the lock's frame, in its pixels, and how many of them one of its own becomes."""
        key, (width, height) = placement.at(at), (cel.planes.width, cel.planes.height)
        scale = min(self._lock.width / width, self._lock.height / height) * key.scale
        left = self._lock.width * (0.5 + key.x) - width * scale / 2
        return left, self._lock.height * (0.5 + key.y) - height * scale / 2, scale

    def _content(self, layer: Layer, media: Media) -> Rect | None:
        """What a layer takes up of the lock's frame at one time or another, as fractions; ``None`` for nothing."""
        if layer not in self._taken:
            last = layer.end - layer.start - 1
            frames = {0, last, *(k.frame for k in layer.placement.keys if 0 < k.frame < last)}
            if media.kind != "still":
                frames |= {round(last * k / (_LOOKS - 1)) for k in range(_LOOKS)}
            parts = [p for at in sorted(frames) if (p := self._part(layer, media, at)) is not None]
            self._taken[layer] = None
            if parts:
                left, top = np.min(parts, axis=0)[:2]
                right, foot = np.max(parts, axis=0)[2:]
                self._taken[layer] = Rect(float(left), float(top), float(right - left), float(foot - top))
        return self._taken[layer]

    def _part(self, layer: Layer, media: Media, at: int) -> tuple[float, float, float, float] | None:
        cel = self._cel(media, layer, layer.start + at)
        rows, columns = (np.flatnonzero(cel.opacity.any(axis=axis)) for axis in (1, 0))
        if not len(rows):
            return None
        left, top, scale = self._placed(layer.placement, cel, at)
        across = ((left + scale * c) / self._lock.width for c in (columns[0], columns[-1] + 1))
        down = ((top + scale * r) / self._lock.height for r in (rows[0], rows[-1] + 1))
        (x, right), (y, foot) = (tuple(min(max(v, 0.0), 1.0) for v in ends) for ends in (across, down))
        return (x, y, right, foot) if right > x and foot > y else None

    def _image(self, path: str) -> Cel:
        if path not in self._images:
            self._images[path] = read_cel(path)
        return self._images[path]

    def _cel(self, media: Media, layer: Layer, frame: int) -> Cel:
        """What a layer's media shows at a lock frame, without what its placement cuts off."""
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


def layers_taken(
    doc: Document, note: Callable[[EzvarError], object] = lambda error: None
) -> dict[tuple[str, str], Rect]:
    """What a lock's layers, by `layer_key`, take up of masters' frames, by their ids, as fractions. Opens media."""
    layers = Layers(doc, note)
    try:
        found = {(layer_key(n), m.id): layers.place(n, m) for n in doc.lock.layers for m in doc.masters}
    finally:
        layers.close()
    return {key: rect for key, rect in found.items() if rect is not None}


def _union(rects: list[Rect]) -> Rect | None:
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


def _sampled(cel: Cel, window: Window, size: tuple[int, int], resting: bool) -> Cel:
    """A window of a cel at a size in pixels; nothing where it reaches past it."""
    width, height = size
    half = -(-width // 2), -(-height // 2)
    small = chroma_window(window)
    black = np.full((height, width), black_of(cel.planes), np.uint8)
    grey = np.full(half[::-1], _GREY, np.uint8)
    y = sample(cel.planes.y, window, width, height, black, resting)
    u, v = (sample(plane, small, *half, grey, resting) for plane in (cel.planes.u, cel.planes.v))
    opacity = sample(cel.opacity, window, width, height, np.zeros((height, width), np.uint8), resting)
    return Cel(replace(cel.planes, y=y, u=u, v=v), opacity)
