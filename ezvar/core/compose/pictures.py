"""Where the pictures of a master come from: its shots, other shots in panes, backdrops of their own."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from fractions import Fraction
from math import floor
from types import TracebackType
from typing import Protocol

from ezvar.core.errors import EzvarError
from ezvar.core.framing import pane_shot
from ezvar.core.lock import LockReader, coloured, media_tags
from ezvar.core.media import STILL_SUFFIXES, Cel, MovieReader, Picture, Planes, raising_table, read_still, tabled
from ezvar.core.model import Document, Layer, Master, Pane, Rect, Shot

from .layers import Layers


class Pictures(Protocol):
    """Gives the pictures that a master's frame is drawn from."""

    @property
    def coding(self) -> Planes | None:
        """Planes whose matrix and range the master has; ``None`` where those of what is shown will do."""

    def of_shot(self, shot: Shot, frame: int) -> Planes:
        """What a shot shows at a lock frame."""

    def of_pane(self, shot: Shot, pane: Pane, frame: int) -> Planes | None:
        """What a pane of a shot shows at a lock frame if it names another shot; ``None`` where it shows its own."""

    def of_backdrop(self, path: str, frame: int) -> Planes | None:
        """The picture of a backdrop's own movie or image at a lock frame."""

    def of_layer(self, layer: Layer, frame: int, master: Master, size: tuple[int, int]) -> Cel | None:
        """A layer at a lock frame as a master of a size in pixels shows it; ``None`` where it shows nothing."""

    def place_of_layer(self, item: str, master: Master) -> Rect | None:
        """What a layer, by its `layer_key`, takes up of a master's frame, as fractions; ``None`` where that is not
        known."""


class LockPictures:
    """Pictures of a lock through its ``reader``; of other shots and backdrops with decoders of its own.

    The lock's own decoders so go on undisturbed. What cannot be read is
    noted in ``problems``, once each; a pane then shows its own shot, a
    backdrop its plain colour. One caller at a time. Closing leaves the reader
    open, which is another's. Of a ``reader`` that may be deep all come in ten bits.
    """

    def __init__(self, reader: LockReader) -> None:
        self._own = reader
        self._doc = reader.doc
        self._lock: LockReader | None = None
        self._movies: dict[str, MovieReader | Planes | None] = {}
        self._coding: Planes | None = None
        self._last: tuple[Picture, Planes] | None = None
        self._shallow: Shallow | None = None
        self.damaged: set[int] = set()  # the lock frames that were asked for and whose media are damaged there
        self._layers = Layers(reader.doc, self._note)
        self.problems: list[str] = []

    def __enter__(self) -> LockPictures:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()

    def close(self) -> None:
        if self._lock is not None:
            self._lock.close()
        for movie in self._movies.values():
            if isinstance(movie, MovieReader):
                movie.close()
        self._layers.close()
        self._lock, self._movies = None, {}

    def show(self, doc: Document) -> None:
        """Go on with a changed document."""
        if self._lock is not None:
            self._lock.show(doc)
        was = self._doc
        if (doc.lock is not was.lock, doc.shots[0], doc.colouring) != (False, was.shots[0], was.colouring):
            self._coding = None
        self._layers.show(doc)
        self._doc, self._last = doc, None

    @property
    def coding(self) -> Planes:
        """The picture of the lock's first frame, whose colours a master's are coded as."""
        if self._coding is None:
            first = self._doc.shots[0]
            planes = self._planes(self._own.frame(0), first)
            light = media_tags(self._doc.media_of(first)).light if planes.tags.hdr else None
            self._coding = replace(planes, tags=replace(planes.tags, light=light))
        return self._coding

    def in_bits(self, depth: int) -> Pictures:
        """These pictures for a master whose samples have so many bits."""
        if depth > 8 or not self._own.deep:
            return self
        self._shallow = self._shallow or Shallow(self)
        return self._shallow

    def of_shot(self, shot: Shot, frame: int) -> Planes:
        """What a shot shows at a lock frame, also before its start and after its end."""
        picture = self._own.picture(shot, frame)
        if picture.damaged:
            self.damaged.add(frame)
        if self._last is None or self._last[0].stored is not picture.stored:
            self._last = picture, self._fitted(self._planes(picture, shot))
        return self._last[1]

    def _planes(self, picture: Picture, shot: Shot) -> Planes:
        """A picture's planes, as deep as those of all others, in the colours that were asked for."""
        planes = picture.planes().deep() if self._own.deep else picture.planes()
        return coloured(self._doc, shot, planes, self._note)

    def _fitted(self, planes: Planes) -> Planes:
        """Planes of SDR among those of a master that is HDR."""
        transfer = self.coding.tags.transfer
        if self.coding.tags.hdr and not planes.tags.hdr:
            return tabled(planes, [raising_table(transfer)])
        return planes

    def of_pane(self, shot: Shot, pane: Pane, frame: int) -> Planes | None:
        """What a pane of ``shot`` shows if it names another shot, from that one's first frame on.

        Where the other is shorter its last frame stays. ``None`` where the
        pane shows its own.
        """
        other = pane_shot(self._doc, shot, pane)
        if other is shot:
            return None
        if self._lock is None:
            self._lock = LockReader(self._doc, lambda media, error: self._note(error), self._own.deep)
        at = other.start + min(max(0, frame - shot.start), other.frames - 1)
        picture = self._lock.picture(other, at)
        if picture.damaged:
            self.damaged.add(frame)
        return self._fitted(self._planes(picture, other))

    def of_backdrop(self, path: str, frame: int) -> Planes | None:
        """The picture of a backdrop's own movie or image at a lock frame; a movie that ends begins again."""
        if path not in self._movies:
            self._movies[path] = self._opened(path)
        movie = self._movies[path]
        if not isinstance(movie, MovieReader):
            return movie and self._fitted(movie)
        at = Fraction(frame) * movie.facts.rate.fraction / self._doc.lock.rate.fraction
        try:
            return self._fitted(movie.frame(floor(at) % movie.facts.frames).planes())
        except EzvarError as error:
            self._note(error)
            return None

    def of_layer(
        self, layer: Layer, frame: int, master: Master, size: tuple[int, int], quickly: bool = False
    ) -> Cel | None:
        """A layer as a master shows it; ``quickly`` leaves out what has to be decoded first."""
        return self._layers.drawn(layer, frame, master, size, quickly)

    def place_of_layer(self, item: str, master: Master) -> Rect | None:
        return self._layers.place_of(item, master)

    def _opened(self, path: str) -> MovieReader | Planes | None:
        try:
            if path[path.rfind(".") :].lower() in STILL_SUFFIXES:
                return read_still(path).picture.planes()
            return MovieReader(path, deep=self._own.deep)
        except EzvarError as error:
            self._note(error)
            return None

    def _note(self, error: EzvarError) -> None:
        said = f"Left out: {error}"
        if said not in self.problems:
            self.problems.append(said)


class Shallow:
    """The pictures of others in eight bits, those of a shot made so once for all masters."""

    def __init__(self, deep: LockPictures) -> None:
        self._deep = deep
        self._last: tuple[Planes, Planes] | None = None

    @property
    def coding(self) -> Planes:
        return self._deep.coding.shallow()

    def of_shot(self, shot: Shot, frame: int) -> Planes:
        planes = self._deep.of_shot(shot, frame)
        if self._last is None or self._last[0] is not planes:
            self._last = planes, planes.shallow()
        return self._last[1]

    def of_pane(self, shot: Shot, pane: Pane, frame: int) -> Planes | None:
        planes = self._deep.of_pane(shot, pane, frame)
        return planes and planes.shallow()

    def of_backdrop(self, path: str, frame: int) -> Planes | None:
        planes = self._deep.of_backdrop(path, frame)
        return planes and planes.shallow()

    def of_layer(self, layer: Layer, frame: int, master: Master, size: tuple[int, int]) -> Cel | None:
        return self._deep.of_layer(layer, frame, master, size)

    def place_of_layer(self, item: str, master: Master) -> Rect | None:
        return self._deep.place_of_layer(item, master)


class Given:
    """Pictures of which one is there already: that of the shot that owns a lock ``frame``.

    ``rest`` gives all others; without it a mix shows that one alone, panes
    their own shot and backdrops their plain colour, as is good enough for a
    playhead on its way. Then ``layers`` gives those layers that stand still.
    """

    def __init__(
        self, doc: Document, frame: int, planes: Callable[[], Planes], rest: Pictures | None = None,
        layers: LockPictures | None = None,
    ) -> None:  # fmt: skip
        self._doc = doc
        self._owner = doc.shot_at(frame).id
        self._planes = planes
        self._rest = rest
        self._layers = layers

    @property
    def coding(self) -> Planes | None:
        return self._rest.coding if self._rest else None

    def of_shot(self, shot: Shot, frame: int) -> Planes:
        if self._rest is None or shot.id == self._owner or self._doc.lock.flat:
            return self._planes()
        return self._rest.of_shot(shot, frame)

    def of_pane(self, shot: Shot, pane: Pane, frame: int) -> Planes | None:
        return self._rest.of_pane(shot, pane, frame) if self._rest else None

    def of_backdrop(self, path: str, frame: int) -> Planes | None:
        return self._rest.of_backdrop(path, frame) if self._rest else None

    def of_layer(self, layer: Layer, frame: int, master: Master, size: tuple[int, int]) -> Cel | None:
        if self._rest is not None:
            return self._rest.of_layer(layer, frame, master, size)
        return self._layers.of_layer(layer, frame, master, size, quickly=True) if self._layers else None

    def place_of_layer(self, item: str, master: Master) -> Rect | None:
        known = self._rest or self._layers
        return known.place_of_layer(item, master) if known else None
