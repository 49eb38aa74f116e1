"""The layers of a lock, drawn for masters: what its upper picture tracks lay over the edit."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from cachetools import LRUCache

from ezvar.core.errors import EzvarError
from ezvar.core.framing import Window
from ezvar.core.media import Cel, black_of
from ezvar.core.model import Document, Layer, Master, Rect, layer_key
from ezvar.core.text import Fit, fit, free_band, same_shape, title_laid_out

from .layer_media import LayerMedia, union
from .sampling import chroma_window, sample

_MOST_DRAWN = 6
_GREY = 128
_TOGETHER = 0.5  # of the shorter one's time, for which layers of a group are on together
_BESIDE, _FRAME = 0.02, 0.95  # of the frame: the gap between things that lie against each other, and what fills it


@dataclass(frozen=True)
class _Group:
    """Layers that stay together: the `layer_key` of the first, by which all are placed, what they take up of the lock's
    frame, and from and to which lock frame they are on."""

    key: str
    rect: Rect | None
    start: int
    end: int


@dataclass(frozen=True)
class LayersTaken:
    """What a lock's layers, by `layer_key`, take up of masters' frames, by their ids, as fractions; and by the key of
    which layer each is placed with its group."""

    rects: dict[tuple[str, str], Rect]
    groups: dict[str, str]


class Layers:
    """The layers of a document's lock. What cannot be read is told to ``note``, and not drawn. One caller at a time."""

    def __init__(self, doc: Document, note: Callable[[EzvarError], object]) -> None:
        self._note = note
        self._drawn: LRUCache[object, Cel | None] = LRUCache(_MOST_DRAWN)
        self._groups: dict[Layer, _Group] = {}
        self._doc, self._lock = doc, doc.lock
        self._media = LayerMedia(doc.lock, note)

    def show(self, doc: Document) -> None:
        """Go on with a changed document. What layers take up of the lock's frame is known while the lock stays."""
        known, self._doc = doc.lock is self._lock, doc
        if known:
            return
        self.close()
        self._lock, self._media = doc.lock, LayerMedia(doc.lock, self._note)
        self._groups.clear()
        self._drawn.clear()

    def close(self) -> None:
        self._media.close()

    def drawn(
        self, layer: Layer, frame: int, master: Master, size: tuple[int, int], quickly: bool = False
    ) -> Cel | None:
        """A layer at a lock frame as a master of a ``size`` in pixels shows it; ``None`` where it shows nothing.

        ``quickly`` leaves out what has to be decoded first.
        """
        media = self._media.of(layer)
        if media is None or (quickly and media.kind != "still"):
            return None
        place = self._placed_in(layer, master)
        if place is None:
            return None
        stands = layer.placement.at(frame - layer.start)
        key = layer, (stands.x, stands.y, stands.scale), place, (master.width, master.height), size
        if key in self._drawn:
            return self._drawn[key]
        cel = self._media.cel(layer, frame)
        if cel is None:
            return None
        window = self._window(layer, cel, frame, place, master, size)
        made = _sampled(cel, window, size, not layer.placement.keys).trimmed()
        if media.kind == "still":
            self._drawn[key] = made
        return made

    def place(self, layer: Layer, master: Master, past: tuple[str, ...] = ()) -> Rect | None:
        """What a layer takes up of a master's frame, as fractions of it; ``None`` where it is hidden, shows nothing or
        cannot be read, which is told. What stands beside it itself, those ``past``, is not what it stands beside."""
        content, at = self._media.content(layer), self._placed_in(layer, master, past)
        if content is None or at is None:
            return None
        across, down = self._lock.width / master.width, self._lock.height / master.height
        return Rect(
            content.x * across * at.scale + at.x / master.width, content.y * down * at.scale + at.y / master.height,
            content.width * across * at.scale, content.height * down * at.scale,
        )  # fmt: skip

    def place_of(self, item: str, master: Master, past: tuple[str, ...] = ()) -> Rect | None:
        """As `place`, of the layer of a `layer_key`."""
        layer = next((each for each in self._lock.layers if layer_key(each) == item), None)
        return None if layer is None else self.place(layer, master, past)

    def group_of(self, layer: Layer) -> str:
        """The `layer_key` of the layer by which one is placed with those that stay together with it."""
        return self._group(layer).key

    def _placed_in(self, layer: Layer, master: Master, past: tuple[str, ...] = ()) -> Fit | None:
        """How a layer is laid out in a master: with its group, anchored as was chosen, moved and scaled by hand about
        the group's middle. ``None`` where nothing of it is shown."""
        group = self._group(layer)
        by, whole = self._doc.stands(group.key, master.id), group.rect
        if by.hidden or whole is None:
            return None
        size, wanted = (self._lock.width, self._lock.height), (master.width, master.height)
        anchoring, band, other = self._doc.anchoring(group.key), None, None
        if not anchoring.nothing and not same_shape(size, wanted):
            if anchoring.band and anchoring.down in ("top", "foot"):
                ends = (group.start, (group.start + group.end) // 2, group.end - 1)
                band = free_band(self._doc, master, ends, "top" if anchoring.down == "top" else "foot")
            if anchoring.beside is not None and group.key not in past:
                other = self._other(anchoring.beside.item, master, (*past, group.key))
        first = fit(whole, size, wanted, anchoring, band, other)
        middle = (whole.x + whole.width / 2) * size[0], (whole.y + whole.height / 2) * size[1]
        scale = first.scale * by.scale
        x, y = (m * (first.scale - scale) + at for m, at in zip(middle, (first.x, first.y), strict=True))
        return Fit(scale, x + by.x * master.width, y + by.y * master.height)

    def _other(self, item: str, master: Master, past: tuple[str, ...]) -> Rect | None:
        """What an item that something stands beside takes up of a master's frame, in its pixels."""
        title = next((t for t in self._doc.titles if t.id == item), None)
        if title is not None:
            if self._doc.stands(item, master.id).hidden:
                return None
            return title_laid_out(self._doc, title, master, lambda i, m: self.place_of(i, m, past)).rect
        rect = self.place_of(item, master, past)
        if rect is None:
            return None
        return Rect(
            rect.x * master.width, rect.y * master.height, rect.width * master.width, rect.height * master.height
        )

    def _group(self, layer: Layer) -> _Group:
        """Layers are a group where they are on at much the same time and lie against or over each other in the lock's
        frame: a text and its bar."""
        if layer not in self._groups:
            members, grown = [layer], True
            while grown:
                more = [o for o in self._lock.layers if o not in members and any(self._together(o, m) for m in members)]
                members, grown = members + more, bool(more)
            rects = [r for m in members if (r := self._media.content(m)) is not None]
            first = min(members, key=lambda m: (m.track, m.start))
            group = _Group(
                layer_key(first), union(rects), min(m.start for m in members), max(m.end for m in members)
            )  # fmt: skip
            self._groups.update(dict.fromkeys(members, group))
        return self._groups[layer]

    def _together(self, a: Layer, b: Layer) -> bool:
        both = min(a.end, b.end) - max(a.start, b.start)
        if a.track == b.track or both < _TOGETHER * min(a.end - a.start, b.end - b.start):
            return False
        first, second = self._media.content(a), self._media.content(b)
        if first is None or second is None or any(min(r.width, r.height) >= _FRAME for r in (first, second)):
            return False  # what fills the frame belongs to nothing in it
        return (
            first.x - _BESIDE <= second.x + second.width and second.x - _BESIDE <= first.x + first.width
            and first.y - _BESIDE <= second.y + second.height and second.y - _BESIDE <= first.y + first.height
        )  # fmt: skip

    def _window(self, layer: Layer, cel: Cel, frame: int, place: Fit, master: Master, size: tuple[int, int]) -> Window:
        """The master's frame in the pixels of a cel."""
        left, top, scale = self._media.placed(layer.placement, cel, frame - layer.start)
        by = size[0] / master.width
        each = scale * place.scale * by
        x, y = (left * place.scale + place.x) * by, (top * place.scale + place.y) * by
        width, height = size
        return Window((width / 2 - x) / each, (height / 2 - y) / each, width / each, height / each)


def places_depend_on(doc: Document) -> tuple[object, ...]:
    """What of a document decides where its layers stand in masters, to be compared part by part by identity."""
    titles = {title.id for title in doc.titles}
    beside = any(a.beside is not None and a.beside.item in titles for a in doc.anchorings)
    return (
        doc.lock, doc.masters, doc.placed, doc.anchorings, doc.titles if beside else None,
        doc.framings if any(a.band for a in doc.anchorings) else None,
    )  # fmt: skip


def layers_taken(doc: Document, note: Callable[[EzvarError], object] = lambda error: None) -> LayersTaken:
    """What a lock's layers take up of masters' frames, and how they stay together. Opens media."""
    layers = Layers(doc, note)
    try:
        found = {(layer_key(n), m.id): layers.place(n, m) for n in doc.lock.layers for m in doc.masters}
        groups = {layer_key(n): layers.group_of(n) for n in doc.lock.layers}
    finally:
        layers.close()
    return LayersTaken({key: rect for key, rect in found.items() if rect is not None}, groups)


def _sampled(cel: Cel, window: Window, size: tuple[int, int], resting: bool) -> Cel:
    """A window of a cel at a size in pixels; nothing where it reaches past it."""
    width, height = size
    half = -(-width // 2), -(-height // 2)
    small = chroma_window(window)
    black = np.full((height, width), black_of(cel.planes), np.uint8)
    y = sample(cel.planes.y, window, width, height, black, resting)
    u, v = (  # each on a ground of its own, which it is drawn into
        sample(plane, small, *half, np.full(half[::-1], _GREY, np.uint8), resting)
        for plane in (cel.planes.u, cel.planes.v)
    )
    opacity = sample(cel.opacity, window, width, height, np.zeros((height, width), np.uint8), resting)
    return Cel(replace(cel.planes, y=y, u=u, v=v), opacity)
