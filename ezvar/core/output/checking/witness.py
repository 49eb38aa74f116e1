"""A master's picture drawn a second time, by plain means and slowly, to bear witness of what was made.

It shares the decisions (where windows lie, how text is set) and the decoding
with the drawing that masters are made by, and nothing of the drawing itself:
it works in R'G'B', at a quarter of the size, by averaging many samples of the
picture for each of its own.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from fractions import Fraction
from math import ceil, cos, floor, radians, sin
from types import TracebackType

import cv2
import numpy as np

from ezvar.core.compose import Shown, layers_taken
from ezvar.core.errors import EzvarError
from ezvar.core.framing import Size, Window, framed, pane_shot, pane_window
from ezvar.core.lock import LockReader, mix_at, parts_at
from ezvar.core.media import STILL_SUFFIXES, Cel, MovieReader, read_cel, read_still
from ezvar.core.model import Backdrop, Document, Layer, Master, Pane, Rect, Shot, layer_key
from ezvar.core.text import caption_cel, places_of, shown_at, title_cel, titles_at

from .colours import Colours

PART = 4
"""By how much it is drawn smaller than the master."""
_FINEST, _COARSEST, _QUICK = 12, 4, 2  # samples of the picture, each way, for one drawn
_LUMA = np.array([0.2126, 0.7152, 0.0722], np.float32)  # BT.709
_SHADOW, _FALLS = 0.025, 0.012  # the shadow's softness, and how far down it falls, in widths of the pane
_EDGE = 2  # samples beside the edge of something uncertain that are uncertain too


@dataclass(frozen=True)
class Seen:
    """What must be seen at a lock frame: R'G'B' float32 (height, width, 3), 0..255, at a quarter of the master's size.

    ``other`` is what may be seen in each place instead, of a wipe. Only where
    it is ``certain`` (height, width) is it known. ``written`` is where a caption
    is read, empty (0, 0, 0, 0) where there is none: left, top, right, foot.
    """

    rgb: np.ndarray
    certain: np.ndarray
    other: np.ndarray | None = None
    written: tuple[int, int, int, int] = (0, 0, 0, 0)

    def differs(self, made: np.ndarray) -> np.ndarray:
        """The squared difference of a picture of the same size, float32 (height, width), 0 where nothing is certain."""
        found = _squared(made - self.rgb)
        if self.other is not None:
            found = np.minimum(found, _squared(made - self.other))
        return np.where(self.certain, found, 0)


class Witness:
    """Draws the frames of a master. One caller at a time."""

    def __init__(self, doc: Document, master: Master, shown: Shown) -> None:
        self._doc, self._master, self._shown = doc, master, shown
        self.width, self.height = max(1, master.width // PART), max(1, master.height // PART)
        self._reader = LockReader(doc, lambda media, error: None)
        self._others = LockReader(doc, lambda media, error: None)
        self._backdrops: dict[str, MovieReader | np.ndarray | None] = {}
        self._taken = layers_taken(doc).rects if doc.lock.layers else {}
        self._last: tuple[object, np.ndarray] | None = None
        self._colours = Colours(doc, self._reader.frame(0).tags)
        self._least = _COARSEST

    def __enter__(self) -> Witness:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self._reader.close()
        self._others.close()
        for each in self._backdrops.values():
            if isinstance(each, MovieReader):
                each.close()

    def seen(self, frame: int, aside: tuple[float, float] = (0.0, 0.0), quickly: bool = False) -> Seen:
        """What must be seen at a lock frame; with windows so many of their widths and heights ``aside``. ``quickly``
        takes fewer samples of the picture, fit for telling one picture from another."""
        self._least = _QUICK if quickly else _COARSEST
        parts = parts_at(self._doc, frame)
        drawn = [(self._framing(shot, frame, aside), share) for shot, share in parts]
        certain = np.logical_and.reduce([known for (_, known), _ in drawn])
        mix = mix_at(self._doc, frame)
        other = None
        if mix is not None and mix.wipe is not None and not self._doc.lock.flat:
            rgb, other = drawn[0][0][0], drawn[1][0][0]
        else:
            rgb = np.sum([picture * np.float32(share) for (picture, _), share in drawn], axis=0)
        return self._laid_over(frame, Seen(rgb, certain, other))

    # The picture

    def _framing(self, shot: Shot, frame: int, aside: tuple[float, float]) -> tuple[np.ndarray, np.ndarray]:
        """How one shot sits in the master, and where that is certain."""
        doc, master = self._doc, self._master
        framing = framed(doc, shot, master)
        arrangement = framing.arrangement
        between = arrangement.colour if arrangement is not None else master.backdrop.colour
        rgb = np.empty((self.height, self.width, 3), np.float32)
        rgb[:] = self._colours.named(between)
        certain = np.ones((self.height, self.width), bool)
        alone = len(framing.panes) == 1 and framing.panes[0].rect == Rect()
        border = arrangement.border * min(self.width, self.height) if arrangement is not None and not alone else 0.0
        for pane in framing.panes:
            r = pane.rect
            left, right = r.x * self.width + border, (r.x + r.width) * self.width - border
            top, foot = r.y * self.height + border, (r.y + r.height) * self.height - border
            box = tuple(round(v) for v in (left, top, right, foot))
            seen = max(0, box[0]), max(0, box[1]), min(self.width, box[2]), min(self.height, box[3])
            if seen[2] <= seen[0] or seen[3] <= seen[1]:
                continue
            drawn, known = self._pane(pane, shot, frame, (box[2] - box[0], box[3] - box[1]), aside)
            part = slice(seen[1] - box[1], seen[3] - box[1]), slice(seen[0] - box[0], seen[2] - box[0])
            rgb[seen[1] : seen[3], seen[0] : seen[2]] = drawn[part]
            certain[seen[1] : seen[3], seen[0] : seen[2]] = known[part]
            if not alone:  # edges between panes fall on whole samples elsewhere
                for at in (box[0], box[2]):
                    certain[:, max(0, at - 1) : at + 1] = False
                for at in (box[1], box[3]):
                    certain[max(0, at - 1) : at + 1] = False
        return rgb, certain

    def _pane(
        self, pane: Pane, shot: Shot, frame: int, size: tuple[int, int], aside: tuple[float, float]
    ) -> tuple[np.ndarray, np.ndarray]:
        """One pane of a size in samples, and where it is certain."""
        other = pane_shot(self._doc, shot, pane)
        if other is shot:
            picture = self._picture(shot, frame)
        else:
            at = other.start + min(max(0, frame - shot.start), other.frames - 1)
            picture = self._colours.of_picture(other, self._others.picture(other, at))
        high, wide = picture.shape[:2]
        window = pane_window(pane, self._master, Size(wide, high), frame - shot.start)
        window = replace(window, cx=window.cx + aside[0] * window.width, cy=window.cy + aside[1] * window.height)
        each = max(window.width / size[0], window.height / size[1])
        n = self._least if self._least == _QUICK else min(_FINEST, max(self._least, ceil(each)))
        x, y = _places(window, size, n)
        trim = pane.trim
        edges = (trim.x * wide, trim.y * high, (trim.x + trim.width) * wide, (trim.y + trim.height) * high)
        sampled = cv2.remap(picture, x - 0.5, y - 0.5, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
        known = np.ones(size[::-1], bool)
        if trim == Rect() and window.covers(Size(wide, high), 0.01):
            drawn = _averaged(sampled, n)
        else:
            within = ((x >= edges[0]) & (x <= edges[2]) & (y >= edges[1]) & (y <= edges[3])).astype(np.uint8)
            covered = _averaged(within * np.uint8(255), n) / 255
            drawn = _averaged(sampled * within[..., None], n)
            part = picture[floor(edges[1]) : ceil(edges[3]), floor(edges[0]) : ceil(edges[2])]
            backdrop = pane.backdrop or self._master.backdrop
            drawn += (1 - covered) * self._behind(part, backdrop, frame, size, covered)
            known = ~_grown((covered[..., 0] > 0.002) & (covered[..., 0] < 0.998), 1)
        if other is shot:
            known &= ~self._hidden_writing(shot, frame, (x, y), (wide, high), n)
        return drawn, known

    def _picture(self, shot: Shot, frame: int) -> np.ndarray:
        """What a shot shows at a lock frame, R'G'B' uint8; the last one is kept, for windows aside."""
        key = shot.id if not self._doc.lock.flat else "", frame
        if self._last is None or self._last[0] != key:
            self._last = key, self._colours.of_picture(shot, self._reader.picture(shot, frame))
        return self._last[1]

    def _hidden_writing(
        self, shot: Shot, frame: int, at: tuple[np.ndarray, np.ndarray], size: tuple[int, int], n: int
    ) -> np.ndarray:
        """Where a bar in the picture's own colours lies over writing that is titled anew."""
        x, y = at
        hidden = np.zeros((x.shape[0] // n, x.shape[1] // n), bool)
        if not self._shown.layers or self._doc.is_textless(shot.id):
            return hidden
        for title in self._doc.shown_titles:
            if title.cover is not None and title.start <= frame < title.end:
                c, (wide, high) = title.cover, size
                inside = (x >= c.x * wide) & (x <= (c.x + c.width) * wide)
                inside &= (y >= c.y * high) & (y <= (c.y + c.height) * high)
                rows, columns = np.nonzero(_averaged(inside.astype(np.float32), n)[..., 0] > 0)
                if len(rows):  # the bar is upright, however the window is turned
                    hidden[rows.min() : rows.max() + 1, columns.min() : columns.max() + 1] = True
        return _grown(hidden, _EDGE)

    # What shows behind it

    def _behind(
        self, picture: np.ndarray, backdrop: Backdrop, frame: int, size: tuple[int, int], covered: np.ndarray
    ) -> np.ndarray:
        """A backdrop of a size in samples, R'G'B' float32."""
        from scipy.ndimage import gaussian_filter, shift  # loaded late: it would hold up the first window

        colour, wide = self._colours.named(backdrop.colour), size[0]
        source = {"picture": picture, "media": self._media(backdrop.media, frame), "colour": None}[backdrop.kind]
        ground = np.empty((size[1], size[0], 3), np.float32)
        ground[:] = colour
        if source is not None:
            high = source.shape[0]
            scale = min(source.shape[1] / size[0], high / size[1]) / backdrop.zoom
            cover = Window(source.shape[1] / 2, high / 2, size[0] * scale, size[1] * scale)
            n = min(_FINEST, max(_COARSEST, ceil(scale)))
            x, y = _places(cover, size, n)
            taken = cv2.remap(source, x - 0.5, y - 0.5, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
            soft = _averaged(taken, n)
            if backdrop.blur > 0:
                soft = gaussian_filter(soft, (backdrop.blur * wide, backdrop.blur * wide, 0), mode="mirror")
            soft *= 1 - backdrop.darken
            light = (soft @ _LUMA)[..., None]
            soft = light + (soft - light) * (1 - backdrop.tint) + backdrop.tint * (colour - colour @ _LUMA)
            ground += (soft - ground) * backdrop.strength
        if backdrop.shadow > 0:
            fallen = shift(gaussian_filter(covered[..., 0], _SHADOW * wide), (_FALLS * wide, 0), order=1)
            ground *= (1 - backdrop.shadow * fallen)[..., None]
        return ground

    def _media(self, path: str, frame: int) -> np.ndarray | None:
        """The picture of a backdrop's own movie or image at a lock frame; a movie that ends begins again."""
        if not path:
            return None
        if path not in self._backdrops:
            try:
                still = path[path.rfind(".") :].lower() in STILL_SUFFIXES
                self._backdrops[path] = read_still(path).picture.rgb() if still else MovieReader(path)
            except EzvarError:  # it is told where the master is made
                self._backdrops[path] = None
        source = self._backdrops[path]
        if not isinstance(source, MovieReader):
            return None if source is None else self._colours.among(source)
        at = Fraction(frame) * source.facts.rate.fraction / self._doc.lock.rate.fraction
        return self._colours.among(source.frame(floor(at) % source.facts.frames).rgb())

    # What lies over it

    def _laid_over(self, frame: int, seen: Seen) -> Seen:
        doc, master, shown = self._doc, self._master, self._shown
        size = master.width, master.height
        places = places_of(self._taken)
        for layer in doc.lock.layers if shown.layers else ():
            if layer.start <= frame < layer.end:
                seen = self._layer(layer, frame, seen)
        for title in titles_at(doc, master, frame) if shown.layers else ():
            cel, share = title_cel(doc, title, master, frame, size, places)
            if cel is not None and share > 0:
                seen = self._cel(cel, share, seen)
        for track, caption in shown_at(doc, master, frame) if shown.captions else ():
            if (cel := caption_cel(doc, track, caption, master, size)) is not None:
                high, wide = cel.opacity.shape
                box = cel.left, cel.top, cel.left + wide, cel.top + high
                seen = replace(self._cel(cel, 1.0, seen), written=tuple(round(v / PART) for v in box))  # type: ignore[arg-type]
        return seen

    def _cel(self, cel: Cel, share: float, seen: Seen) -> Seen:
        """Something drawn at the master's size, laid over."""
        wide, high = self._master.width, self._master.height
        over, opacity = np.zeros((high, wide, 3), np.float32), np.zeros((high, wide), np.float32)
        rgb = self._colours.over(cel)[: high - cel.top, : wide - cel.left]
        rows, columns = slice(cel.top, cel.top + rgb.shape[0]), slice(cel.left, cel.left + rgb.shape[1])
        over[rows, columns] = rgb
        opacity[rows, columns] = cel.opacity[: rgb.shape[0], : rgb.shape[1]] / np.float32(255)
        size = self.width, self.height
        over, opacity = (cv2.resize(each, size, interpolation=cv2.INTER_AREA) for each in (over, opacity))
        keeps = (1 - share * opacity)[..., None]
        other = None if seen.other is None else seen.other * keeps + share * over
        return replace(seen, rgb=seen.rgb * keeps + share * over, other=other)

    def _layer(self, layer: Layer, frame: int, seen: Seen) -> Seen:
        """A layer of the lock; where one moves, or is wiped, it is not certain what is seen."""
        taken = self._taken.get((layer_key(layer), self._master.id))
        share = layer.seen(frame)
        if taken is None or share <= 0:
            return seen
        media = next((m for m in self._doc.lock.media if m.id == layer.source.media), None)
        plain = layer.placement.crop == Rect() and not layer.placement.keys and not layer.wiped(frame)
        if media is None or media.kind != "still" or media.missing or not plain:
            return replace(seen, certain=seen.certain & ~self._box(taken))
        cel = read_cel(media.path)
        rows, columns = (np.flatnonzero(cel.opacity.any(axis=axis)) for axis in (1, 0))
        if not len(rows):
            return seen
        left, right, top, foot = columns[0], columns[-1] + 1, rows[0], rows[-1] + 1
        wide, high = taken.width * self.width, taken.height * self.height
        sx, sy = (right - left) / wide, (foot - top) / high
        n = min(_FINEST, max(_COARSEST, ceil(max(sx, sy))))
        x, y = _places(Window(0, 0, self.width * sx, self.height * sy), (self.width, self.height), n)
        x += np.float32(left + (self.width / 2 - taken.x * self.width) * sx)
        y += np.float32(top + (self.height / 2 - taken.y * self.height) * sy)
        over, opacity = (
            _averaged(cv2.remap(each, x - 0.5, y - 0.5, cv2.INTER_LINEAR), n)
            for each in (self._colours.over(cel), cel.opacity)
        )
        keeps = 1 - share * opacity / 255
        edge = _grown((opacity[..., 0] > 8) & (opacity[..., 0] < 247), 1)  # where it begins is known to a sample only
        other = None if seen.other is None else seen.other * keeps + share * over
        return replace(seen, rgb=seen.rgb * keeps + share * over, other=other, certain=seen.certain & ~edge)

    def _box(self, rect: Rect) -> np.ndarray:
        """The samples of a rectangle, in fractions of the frame, and those beside it."""
        inside = np.zeros((self.height, self.width), bool)
        rows = slice(max(0, floor(rect.y * self.height)), max(0, ceil((rect.y + rect.height) * self.height)))
        columns = slice(max(0, floor(rect.x * self.width)), max(0, ceil((rect.x + rect.width) * self.width)))
        inside[rows, columns] = True
        return _grown(inside, _EDGE)


def _squared(off: np.ndarray) -> np.ndarray:
    """Squared differences of R'G'B', luminance and both colours weighed 6 : 1 : 1 as in comparisons of codecs (ITU-T
    HSTP-VID-WPOM): colour is stored at half the size."""
    light = off @ _LUMA
    blue, red = (off[..., 2] - light) / 1.8556, (off[..., 0] - light) / 1.5748
    return np.asarray((6 * light**2 + blue**2 + red**2) / 8)


def _places(window: Window, size: tuple[int, int], n: int) -> tuple[np.ndarray, np.ndarray]:
    """Where ``n`` × ``n`` samples for each of a surface lie in the picture, float32 (height · n, width · n) each."""
    wide, high = size[0] * n, size[1] * n
    across = ((np.arange(wide, dtype=np.float32) + 0.5) / wide - 0.5) * window.width
    down = ((np.arange(high, dtype=np.float32) + 0.5) / high - 0.5)[:, None] * window.height
    c, s = cos(radians(window.angle)), sin(radians(window.angle))
    x, y = window.cx + c * across - s * down, window.cy + s * across + c * down
    return np.asarray(x, np.float32), np.asarray(y, np.float32)


def _averaged(samples: np.ndarray, n: int) -> np.ndarray:
    """The means of ``n`` × ``n`` samples each, float32 (height, width, channels)."""
    high, wide = samples.shape[:2]
    small = cv2.resize(samples, (wide // n, high // n), interpolation=cv2.INTER_AREA)  # rounded, where they are
    return np.asarray(small.reshape(high // n, wide // n, -1), np.float32)


def _grown(mask: np.ndarray, by: int) -> np.ndarray:
    """A mask with ``by`` more samples on every side."""
    return np.asarray(cv2.dilate(mask.astype(np.uint8), np.ones((2 * by + 1, 2 * by + 1), np.uint8)) > 0)
