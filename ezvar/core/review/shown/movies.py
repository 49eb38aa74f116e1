"""Review movies: small and quick, with shot, timecode and master burnt in; a poster, contact sheets."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator, Sequence
from contextlib import ExitStack
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import groupby

import cv2
import numpy as np

from ezvar.core import compose
from ezvar.core.compose import Given, LockPictures, master_sound
from ezvar.core.encoding import MovieWriter
from ezvar.core.lock import LockReader, lock_sound
from ezvar.core.media import SOUND_RATE, ColourTags, Planes
from ezvar.core.model import Document, Master, Shot
from ezvar.core.progress import CancelToken, Progress, silent
from ezvar.core.timing import timecode
from ezvar.core.viewing import master_line

from .stills import jpeg, outlines, small_scale
from .strip import STRIP, Strip

HIGH = 360
"""How high pictures of review movies are, in pixels."""
_BETWEEN = 8  # pixels from one picture to the next, where several are in one movie
_GROUND = (44, 46, 46)
_TAGS = ColourTags(1, 1, 1, 1)
_SHEET_WIDE, THUMB, _SHEET_ROWS = 1600, 150, 12  # of contact sheets: pixels, and rows


@dataclass(frozen=True)
class ReviewMovie:
    """A movie to be made: of one master, of the edit's own picture where none is named, or of all ``together`` in one
    picture; ``burnt`` with shot, timecode and master below."""

    path: str | os.PathLike[str] = ""
    master: Master | None = None
    together: bool = False
    burnt: bool = True

    def at(self, path: str | os.PathLike[str]) -> ReviewMovie:
        """The same movie, to be made there."""
        return replace(self, path=path)


@dataclass(frozen=True)
class Looks:
    """What the movies look like at one glance, as JPEG: a ``poster``, and contact ``sheets`` by master's id."""

    poster: bytes
    sheets: dict[str, list[bytes]]


def make_review_movies(
    doc: Document, wanted: Sequence[ReviewMovie], masters: Sequence[Master], shots: Sequence[Shot], *,
    sound: bool = True, high: int = HIGH, progress: Progress = silent, cancel: CancelToken | None = None,
) -> Looks:  # fmt: skip
    """Make review movies of some shots, one after the other, in one pass over the edit. What cannot be read is black.

    Raises `OutputError` and the like for what the disk refuses; what was begun is left to whoever owns the folder.
    """
    total = sum(shot.frames for shot in shots)
    poster_at = max(shots, key=lambda shot: shot.frames)
    thumbs: dict[str, list[tuple[Shot, np.ndarray]]] = {m.id: [] for m in masters}
    done, poster = 0, b""
    with ExitStack() as stack:
        reader = stack.enter_context(LockReader(doc, lambda media, error: None))
        pictures = stack.enter_context(LockPictures(reader))
        view = _View(doc, masters, pictures, high)
        heard = sound and doc.lock.has_sound
        movies = [_Movie(view, each, shots, heard, stack) for each in wanted]
        for shot in shots:
            middle = (shot.start + shot.end - 1) // 2
            for frame in range(shot.start, shot.end):
                if cancel is not None:
                    cancel.check()
                view.go(shot, frame)
                for movie in movies:
                    movie.add()
                if frame == middle:
                    for master in masters:
                        thumbs[master.id].append((shot, _thumb(view.master(master))))
                    if shot is poster_at:
                        poster = jpeg(view.together(False))
                done += 1
                progress(done / total, "Making review movies")
        for movie in movies:
            movie.finish()
    sheets = {m.id: list(thumb_sheets(doc, m, thumbs[m.id])) for m in masters}
    return Looks(poster, sheets)


class _View:
    """The edit's picture and the masters at one frame after the other, each drawn once for all movies."""

    def __init__(self, doc: Document, masters: Sequence[Master], pictures: LockPictures, high: int) -> None:
        self.doc, self.masters, self._pictures, self.high = doc, masters, pictures, high
        self.strip = Strip(doc)
        self.shot, self.frame = doc.shots[0], 0
        self._drawn: dict[str, np.ndarray] = {}

    def go(self, shot: Shot, frame: int) -> None:
        self.shot, self.frame = shot, frame
        self._drawn = {}
        whole = self._pictures.of_shot(shot, frame)
        self._whole = whole
        half = whole.width // 4 * 2, whole.height // 4 * 2
        small = whole.glanced(*half) if half[1] >= self.high else whole  # has all that such small pictures show
        self._given = Given(self.doc, frame, lambda: small, self._pictures)

    def _once(self, key: str, draw: Callable[[], np.ndarray]) -> np.ndarray:
        if key not in self._drawn:
            self._drawn[key] = draw()
        return self._drawn[key]

    def picture(self, windows: bool) -> np.ndarray:
        """The shot's picture, with the windows of all masters over it or without."""
        wide = max(2, round(self.high * self._whole.width / self._whole.height / 2) * 2)
        bare = self._once("", lambda: np.ascontiguousarray(self._whole.glanced(wide, self.high).rgb()))
        if not windows:
            return bare
        made = bare.copy()
        for place, master in enumerate(self.masters):
            line = master_line(place)
            for corners in outlines(self.doc, self.shot, master, self.frame - self.shot.start):
                _outline(made, corners * (wide, self.high), line.on_picture, line.dash)
        return made

    def master(self, master: Master) -> np.ndarray:
        """What a master shows."""

        def draw() -> np.ndarray:
            return compose.frame(self.doc, master, self.frame, self._given, small_scale(master, self.high)).rgb()

        return self._once(master.id, draw)

    def together(self, burnt: bool) -> np.ndarray:
        """The picture with windows and all masters beside one another."""
        parts = [("edit", self.picture(True)), *((m.name, self.master(m)) for m in self.masters)]
        gap = np.full((self.high + (STRIP if burnt else 0), _BETWEEN, 3), _GROUND, np.uint8)
        made: list[np.ndarray] = []
        for name, part in parts:
            whole = _of_height(part, self.high)
            made += [self._burnt(whole, name) if burnt else whole, gap]
        return _even(np.hstack(made[:-1]))

    def alone(self, master: Master | None, burnt: bool) -> np.ndarray:
        """The picture of one master, or the edit's own."""
        part = self.picture(False) if master is None else self.master(master)
        return _even(self._burnt(part, "edit" if master is None else master.name) if burnt else part)

    def _burnt(self, picture: np.ndarray, name: str) -> np.ndarray:
        return np.vstack([picture, self.strip.below(picture.shape[1], self.shot, self.frame, name)])


class _Movie:
    """One of the movies, written as its pictures come."""

    def __init__(self, view: _View, of: ReviewMovie, shots: Sequence[Shot], sound: bool, stack: ExitStack) -> None:
        self._view, self._of, self._shots, self._sound = view, of, shots, sound
        self._writer: MovieWriter | None = None
        self._blocks = _sound(view.doc, of.master, shots) if sound else iter(())
        self._pictures, self._heard = 0, Fraction(0)
        stack.callback(self._let_go)

    def add(self) -> None:
        """Add the picture that is drawn now, and the sound below it."""
        of, rate = self._of, self._view.doc.lock.rate
        rgb = self._view.together(of.burnt) if of.together else self._view.alone(of.master, of.burnt)
        if self._writer is None:
            label = timecode(self._view.doc.lock.start + self._view.frame, rate, self._view.doc.lock.drop)
            self._writer = MovieWriter(of.path, rgb.shape[1], rgb.shape[0], rate, _TAGS, self._sound, label)
            self._size = rgb.shape
        if rgb.shape != self._size:  # a shot of another shape, of a timeline
            rgb = _within(rgb, self._size[0], self._size[1])
        self._writer.picture(Planes.of_rgb(rgb))
        self._pictures += 1
        while self._heard <= rate.seconds(self._pictures) and (block := next(self._blocks, None)) is not None:
            self._writer.sound(block)
            self._heard += Fraction(block.shape[1], SOUND_RATE)

    def finish(self) -> None:
        assert self._writer is not None
        for block in self._blocks:
            self._writer.sound(block)
        self._writer.close()
        self._writer = None

    def _let_go(self) -> None:
        if self._writer is not None:
            self._writer.abandon()


def _sound(doc: Document, master: Master | None, shots: Sequence[Shot]) -> Iterator[np.ndarray]:
    """The sound below shots, those that follow one another at once."""
    for _, group in groupby(enumerate(shots), key=lambda each: doc.place_of(each[1].id) - each[0]):
        run = [shot for _, shot in group]
        start, end = run[0].start, run[-1].end
        yield from lock_sound(doc, start, end, 2) if master is None else master_sound(doc, master, start, end)


def _even(rgb: np.ndarray) -> np.ndarray:
    """A picture of even size, an edge of it repeated where it has to be."""
    high, wide = rgb.shape[:2]
    return np.pad(rgb, ((0, high % 2), (0, wide % 2), (0, 0)), "edge") if high % 2 or wide % 2 else rgb


def _of_height(rgb: np.ndarray, high: int) -> np.ndarray:
    return rgb if rgb.shape[0] == high else _within(rgb, high, max(2, round(rgb.shape[1] * high / rgb.shape[0])))


def _within(rgb: np.ndarray, high: int, wide: int) -> np.ndarray:
    """A picture in the middle of another size, all of it, with plain ground around it."""
    scale = min(high / rgb.shape[0], wide / rgb.shape[1])
    size = max(1, round(rgb.shape[1] * scale)), max(1, round(rgb.shape[0] * scale))
    small = cv2.resize(rgb, size, interpolation=cv2.INTER_AREA)
    made = np.full((high, wide, 3), _GROUND, np.uint8)
    top, left = (high - size[1]) // 2, (wide - size[0]) // 2
    made[top : top + size[1], left : left + size[0]] = small
    return made


def _outline(rgb: np.ndarray, corners: np.ndarray, ink: str, dash: tuple[float, ...]) -> None:
    """Draw a closed line through corners (4, 2), in pixels, over a picture, dark around it."""
    colour = tuple(int(ink[k : k + 2], 16) for k in (1, 3, 5))
    ends = np.clip(corners, 1, (rgb.shape[1] - 2, rgb.shape[0] - 2))
    cv2.polylines(rgb, [np.round(ends).astype(np.int32)], True, (32, 34, 34), 4, cv2.LINE_AA)
    strokes = [2 * 2.0 * d for d in (dash if len(dash) % 2 == 0 else dash * 2)]
    for a, b in zip(ends, np.roll(ends, -1, axis=0), strict=True):
        length = float(np.hypot(*(b - a)))
        if not strokes or length < 1:
            cv2.line(rgb, _pixel(a), _pixel(b), colour, 2, cv2.LINE_AA)
            continue
        at = 0.0
        while at < length:
            for stroke, gap in zip(strokes[::2], strokes[1::2], strict=True):
                first, last = (a + (b - a) * min(1.0, v / length) for v in (at, at + stroke))
                cv2.line(rgb, _pixel(first), _pixel(last), colour, 2, cv2.LINE_AA)
                at += stroke + gap


def _pixel(point: np.ndarray) -> tuple[int, int]:
    return round(float(point[0])), round(float(point[1]))


def _thumb(rgb: np.ndarray) -> np.ndarray:
    wide = max(2, round(rgb.shape[1] * THUMB / rgb.shape[0]))
    return np.asarray(cv2.resize(rgb, (wide, THUMB), interpolation=cv2.INTER_AREA))


def _columns(master: Master) -> tuple[int, int]:
    """How many pictures of a master stand beside one another on a contact sheet, and how wide each one's place is."""
    cell = max(160, round(THUMB * master.width / master.height))
    return max(1, _SHEET_WIDE // (cell + _BETWEEN)), cell


def contact_sheets(shots: Sequence[Shot], master: Master) -> int:
    """How many contact sheets a master has."""
    return -(-len(shots) // (_columns(master)[0] * _SHEET_ROWS))


def thumb_sheets(doc: Document, master: Master, pictures: Sequence[tuple[Shot, np.ndarray]]) -> Iterator[bytes]:
    """Contact sheets of a master, as JPEG: a picture of each shot, `THUMB` pixels high, with its number and timecode
    below."""
    thumbs = [(shot, rgb if rgb.shape[0] == THUMB else _thumb(rgb)) for shot, rgb in pictures]
    strip, (columns, cell) = Strip(doc), _columns(master)
    for start in range(0, len(thumbs), columns * _SHEET_ROWS):
        part = thumbs[start : start + columns * _SHEET_ROWS]
        rows = -(-len(part) // columns)
        high = THUMB + STRIP + _BETWEEN
        sheet = np.full((rows * high + _BETWEEN, columns * (cell + _BETWEEN) + _BETWEEN, 3), _GROUND, np.uint8)
        for k, (shot, thumb) in enumerate(part):
            top, left = _BETWEEN + k // columns * high, _BETWEEN + k % columns * (cell + _BETWEEN)
            inset = left + (cell - thumb.shape[1]) // 2
            sheet[top : top + THUMB, inset : inset + thumb.shape[1]] = thumb[:, :cell]
            below = strip.below(cell, shot, shot.start, master.name)
            sheet[top + THUMB : top + THUMB + STRIP, left : left + cell] = below
        yield jpeg(sheet)
