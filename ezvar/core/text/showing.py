"""Captions as a master shows them: their style there, their layout, and the cel that is laid over its picture."""

from __future__ import annotations

import threading
from collections.abc import Callable, Hashable, Iterator
from dataclasses import replace

from cachetools import LRUCache

from ezvar.core.media import Cel
from ezvar.core.model import Caption, CaptionStyle, CaptionTrack, Document, Master, Rect, Title

from .band import free_band
from .setting.drawing import draw_laid_out
from .setting.layout import LaidOut, Wanted, lay_out, wanted
from .setting.titles import LaidTitle, draw_title, lay_out_title, on_its_way, scaled_title
from .setting.words import language_of

_NEARLY_ALL, _TOLD_BY = 0.97, 500  # of the captions, and how many of them are looked at at most
_SIZES = CaptionStyle().size / 2, CaptionStyle().size * 2
_KEPT = 32 * 1024**2  # bytes of drawn captions
_TALL, _TALL_MARGIN = 0.8, 0.16  # in shapes narrower than this captions begin higher: apps draw over their foot
_ONE_AFTER_ANOTHER = 0.01  # of the height, from one track's captions to the next one's


def style_of(doc: Document, track: CaptionTrack, master: Master) -> CaptionStyle:
    """How a track looks in a master: as was chosen, or else as its shape begins; a further track stands higher."""
    chosen = doc.style(track.id, master.id)
    if chosen is not None:
        return chosen
    first = CaptionStyle()
    margin = _TALL_MARGIN if master.width < _TALL * master.height else first.margin
    above = doc.place_of_track(track.id)
    return replace(first, margin=min(0.8, margin + above * (_block_high(first, master) + _ONE_AFTER_ANOTHER)))


def language_used(track: CaptionTrack) -> str:
    """The language of a track: as it says, or else the likeliest of its texts, as two letters."""
    if track.language:
        return track.language[:2].lower()
    return _LANGUAGES.of(track)


class _Languages:
    """Told once for each track's captions."""

    def __init__(self) -> None:
        self._told: LRUCache[int, tuple[object, str]] = LRUCache(64)
        self._lock = threading.Lock()

    def of(self, track: CaptionTrack) -> str:
        with self._lock:
            found = self._told.get(id(track.captions))
            if found is None or found[0] is not track.captions:
                found = track.captions, language_of(c.text for c in track.captions[:200])
                self._told[id(track.captions)] = found
            return found[1]


_LANGUAGES = _Languages()


def asked_of(doc: Document, track: CaptionTrack, caption: Caption, master: Master) -> Wanted:
    """What a caption asks for in a master."""
    differing, style = doc.differs(caption.id, master.id), style_of(doc, track, master)
    level = track.levels.get(caption.id, 0)
    if level:  # the one that began before stays where it is
        up = level * (_block_high(style, master) + _ONE_AFTER_ANOTHER) * (1 if style.down != "top" else -1)
        differing = replace(differing, raised=min(1.0, max(-1.0, differing.raised + up)))
    asked = wanted(caption, style, differing, language_used(track))
    if style.band and asked.place is None and style.down != "middle":
        frames = caption.frames(doc.lock.rate)
        band = free_band(doc, master, (frames.start, (frames.start + frames.end) // 2, frames.end - 1), style.down)
        if band is not None and band[1] - band[0] >= _block_high(style, master):
            x = {"left": style.side_margin, "centre": 0.5, "right": 1 - style.side_margin}[style.across]
            asked = replace(asked, place=(x, sum(band) / 2, style.across, "middle"))
    return asked


def _block_high(style: CaptionStyle, master: Master) -> float:
    """How high captions of as many lines as are allowed stand, as a part of the frame's height."""
    lines = style.lines * style.line_spacing + 2 * style.padding
    return lines * style.size * min(master.width, master.height) / master.height


def fitting_size(doc: Document, track: CaptionTrack, master: Master) -> float:
    """The largest size of type, as a style has it, at which nearly all captions of a track fit in a master.

    Between a half and twice what a track begins with; a long track is told by captions spread over it.
    """
    step = max(1, len(track.captions) // _TOLD_BY)
    asked = [asked_of(doc, track, caption, master) for caption in track.captions[::step]]
    low, high = _SIZES
    for _ in range(9):
        middle = (low + high) / 2
        laid = (lay_out(replace(a, style=replace(a.style, size=middle)), master.width, master.height) for a in asked)
        fits = sum(each.fits for each in laid) >= _NEARLY_ALL * len(asked)
        low, high = (middle, high) if fits else (low, middle)
    return round(low, 3)


def laid_out(doc: Document, track: CaptionTrack, caption: Caption, master: Master) -> LaidOut:
    """How a caption stands in a master, in its pixels."""
    return lay_out(asked_of(doc, track, caption, master), master.width, master.height)


def shown_at(doc: Document, master: Master, frame: int) -> Iterator[tuple[CaptionTrack, Caption]]:
    """The captions that a master shows at a lock frame, the lowest track's first."""
    for track in doc.tracks:
        if track.shown:
            for caption in track.at(frame, doc.lock.rate):
                if not doc.differs(caption.id, master.id).hidden:
                    yield track, caption


def caption_cel(
    doc: Document, track: CaptionTrack, caption: Caption, master: Master, size: tuple[int, int]
) -> Cel | None:
    """A caption as a master of a size in pixels shows it; ``None`` where nothing of it is seen.

    It is laid out at the master's own size, so that a small preview breaks as
    the finished movie does.
    """
    return _CELS.get(asked_of(doc, track, caption, master), (master.width, master.height), size)


class _Cels:
    """Drawn captions, kept within bounds. Safe across threads."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._kept: LRUCache[object, tuple[Cel | None, int]] = LRUCache(_KEPT, lambda each: each[1])

    def get(self, asked: Wanted, master: tuple[int, int], size: tuple[int, int]) -> Cel | None:

        def drawn() -> Cel | None:
            laid = scaled(lay_out(asked, *master), size[0] / master[0])
            return draw_laid_out(laid, asked.style, size, asked.language)

        return self.made((asked, master, size), drawn)

    def made(self, key: Hashable, draw: Callable[[], Cel | None]) -> Cel | None:
        """What is kept under a key, or is drawn now."""
        with self._lock:
            found = self._kept.get(key)
        if found is not None:
            return found[0]
        cel = draw()
        weight = 256 if cel is None else 256 + 16 * cel.opacity.size  # with what is weighed once for all pictures
        with self._lock:
            if weight <= _KEPT:
                self._kept[key] = cel, weight
        return cel


_CELS = _Cels()


LayerPlaces = Callable[[str, Master], Rect | None]
"""What a layer of the lock, by its `layer_key`, takes up of a master's frame, as fractions of it; ``None`` where it is
hidden or not known."""


def nowhere(item: str, master: Master) -> Rect | None:
    """Where layers are not known."""
    return None


def title_laid_out(doc: Document, title: Title, master: Master, layers: LayerPlaces = nowhere) -> LaidTitle:
    """How a title stands in a master, in its pixels; where it stands beside a layer of the lock, as far as ``layers``
    know of that."""
    return _laid(doc, title, master, layers, ())


def _laid(doc: Document, title: Title, master: Master, layers: LayerPlaces, past: tuple[str, ...]) -> LaidTitle:
    """As `title_laid_out`; those ``past`` stand beside it themselves, so it stands beside none of them."""
    placed, band = doc.stands(title.id, master.id), _band_of(doc, title, master)
    other, item = None, title.beside.item if title.beside is not None else ""
    if item and item not in past and not doc.stands(item, master.id).hidden:
        whose = next((t for t in doc.titles if t.id == item), None)
        if whose is not None:
            other = _laid(doc, whose, master, layers, (*past, title.id)).rect
        elif (part := layers(item, master)) is not None:
            other = Rect(
                part.x * master.width, part.y * master.height, part.width * master.width, part.height * master.height
            )
    return lay_out_title(title, placed, master.width, master.height, band, other)


def _band_of(doc: Document, title: Title, master: Master) -> tuple[float, float] | None:
    """The free band that a title stands in, if it is to and there is one."""
    design = title.design
    if not design.band or design.down == "middle":
        return None
    return free_band(doc, master, (title.start, (title.start + title.end) // 2, title.end - 1), design.down)


def titles_at(doc: Document, master: Master, frame: int) -> Iterator[Title]:
    """The titles that a master shows at a lock frame, the lowest first."""
    for title in doc.shown_titles:
        if title.start <= frame < title.end and not doc.stands(title.id, master.id).hidden:
            yield title


def title_cel(
    doc: Document, title: Title, master: Master, frame: int, size: tuple[int, int], layers: LayerPlaces = nowhere
) -> tuple[Cel | None, float]:
    """A title at a lock frame as a master of a size in pixels shows it, and how much of it is seen, 0..1.

    At rest it is drawn once; on its way, once for each frame.
    """
    movement, come = title.come(frame)
    shift, seen, part = on_its_way(movement, come)
    moving = shift != (0.0, 0.0) or part < 1
    laid = title_laid_out(doc, title, master, layers)

    def drawn(by: tuple[float, float] = (0.0, 0.0)) -> Cel | None:
        return draw_title(title, scaled_title(laid, size[0] / master.width), size, by, part)

    if not moving:
        return _CELS.made((title.kind, title.design, laid, size), drawn), seen
    return drawn((size[0] * shift[0], size[1] * shift[1])), seen


def scaled(laid: LaidOut, by: float) -> LaidOut:
    """A layout for a frame of another size of the same shape."""
    if by == 1:
        return laid
    rect = laid.rect
    return replace(
        laid,
        lines=tuple(replace(line, width=line.width * by, x=line.x * by, y=line.y * by) for line in laid.lines),
        rows=tuple((top * by, high * by) for top, high in laid.rows),
        rect=Rect(rect.x * by, rect.y * by, rect.width * by, rect.height * by),
        size=laid.size * by,
    )
