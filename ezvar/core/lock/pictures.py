"""The lock as a reader of pictures, whatever media its shots draw on."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator
from fractions import Fraction
from math import floor
from pathlib import Path
from types import TracebackType

from cachetools import LRUCache

from ezvar.core.errors import EzvarError, MediaError
from ezvar.core.media import MovieFacts, MovieReader, Picture, black, image_of_sequence, probe, read_still
from ezvar.core.model import Document, FrameRule, Rect, Shot
from ezvar.core.progress import Cancelled

from .placement import used_part, used_size
from .strips import Run, lock_content

_MOST_OPEN, _MOST_IMAGES = 6, 4
_TEXTLESS = "the textless version"
_SAME_SHAPE = 0.01  # by which the shape of what the edit showed may differ from the lock's, and is the same
_SHARE = Fraction(1, 20)  # blending with less of a frame than this is not seen


def media_frames(position: Fraction, frames: int, rule: FrameRule) -> list[tuple[int, float]]:
    """The media frames that a position (in media frames) shows, with their weights.

    "nearest" takes the frame that is on screen at that time, as a player
    would; "blended" mixes it with the next one by how far the time has gone
    on. Positions outside the media give its first or last frame.

    >>> media_frames(Fraction(21, 2), 100, "nearest")
    [(10, 1.0)]
    >>> media_frames(Fraction(21, 2), 100, "blended")
    [(10, 0.5), (11, 0.5)]
    """
    first = floor(position)
    part = position - first
    inside = min(max(first, 0), frames - 1)
    after = min(max(first + 1, 0), frames - 1)
    if rule == "nearest" or inside == after or part < _SHARE:
        return [(inside, 1.0)]
    if part > 1 - _SHARE:
        return [(after, 1.0)]
    return [(inside, float(1 - part)), (after, float(part))]


def is_deep(doc: Document) -> bool:
    """Whether any movie of a lock has samples of more than eight bits; those that cannot be read have not."""
    for media in doc.lock.media:
        if media.kind == "movie" and not media.missing:
            try:
                if probe(media.path).depth > 8:
                    return True
            except EzvarError:
                continue  # it is told where its pictures are wanted
    return False


def _name_of(doc: Document) -> str:
    """A name for all pictures that a document's shots show."""
    textless = tuple((s.start, s.end) for s in doc.shots if doc.is_textless(s.id))
    if not textless or doc.textless is None:
        return lock_content(doc)
    return f"{lock_content(doc)} {doc.textless.content} {textless}"


class _Readers(LRUCache[str, MovieReader]):
    """Open movies; the one that was read longest ago is closed for another."""

    def popitem(self) -> tuple[str, MovieReader]:
        id, reader = super().popitem()
        reader.close()
        return id, reader


class LockReader:
    """Reads the pictures of a lock by its frames.

    Opens media when they are first shown and keeps the last few open. Media
    that are missing, or vanish meanwhile, show black; what is wrong with them
    is told to ``on_missing`` once each. Where it may be ``deep``, pictures of
    more than eight bits come in ten; ``glancing`` is as `MovieReader` has it. One caller at a time.
    """

    def __init__(
        self, doc: Document, on_missing: Callable[[str, EzvarError], object] | None = None, deep: bool = False,
        glancing: bool = False,
    ) -> None:  # fmt: skip
        self.doc, self.deep, self._glancing = doc, deep, glancing
        self._name = _name_of(doc)
        self._media = {m.id: m for m in doc.lock.media}
        self._readers = _Readers(_MOST_OPEN)
        self._stills: dict[str, Picture] = {}
        self._images: LRUCache[str, Picture] = LRUCache(_MOST_IMAGES)
        self._blank: Picture | None = None
        self._failed: dict[str, EzvarError] = {}
        self._told: set[str] = set()
        self._on_missing = on_missing or (lambda media, error: None)
        self._lock = threading.RLock()

    def __enter__(self) -> LockReader:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()

    def close(self) -> None:
        with self._lock:
            for reader in self._readers.values():
                reader.close()
            self._readers.clear()

    @property
    def count(self) -> int:
        """How many frames there are."""
        return self.doc.lock.frames

    @property
    def name(self) -> str:
        """What its pictures are kept under."""
        return self._name

    def frame(self, frame: int, unwanted: Callable[[], bool] | None = None) -> Picture:
        """The picture of the shot that owns a lock frame."""
        return self.picture(self.doc.shot_at(frame), frame, unwanted)

    def frames(self, start: int = 0, end: int | None = None) -> Iterator[Picture]:
        """The pictures of lock frames ``start`` up to, and without, ``end``, in order."""
        last = self.doc.lock.frames if end is None else min(end, self.doc.lock.frames)
        shot = self.doc.shot_at(start)
        for frame in range(start, last):
            if frame >= shot.end:
                shot = self.doc.shot_at(frame)
            yield self.picture(shot, frame)

    def strip(self, run: Run, start: int, end: int) -> Iterator[Picture]:
        """Pictures ``start`` up to, and without, ``end`` of a run's strip, in order, numbered as such."""
        for n in range(start, end):
            yield self._own(run.shot, run.at(n), None).numbered(n)

    def picture(self, shot: Shot, frame: int, unwanted: Callable[[], bool] | None = None) -> Picture:
        """What a shot shows at a lock frame, also before its start and after its end, for mixes.

        It is what the shot's windows lie in: the part that the edit showed,
        or the full source; of a shot that is to be textless the textless
        version of it. Its ``index`` is the lock frame.
        """
        if self.doc.is_textless(shot.id):
            found = self._without_text(shot, frame, unwanted)
            if found is not None:
                return found
        return self._own(shot, frame, unwanted)

    def _own(self, shot: Shot, frame: int, unwanted: Callable[[], bool] | None) -> Picture:
        """What a shot's own media shows at a lock frame."""
        media = self._media[shot.source.media]
        position = shot.source.at(frame - shot.start)
        with self._lock:
            try:
                picture = self._of_media(media.id, position, unwanted)
            except Cancelled:
                raise
            except EzvarError as error:
                self._tell(media.id, error)
                picture = self._nothing(media.width, media.height)
        part = used_part(self.doc, shot, frame - shot.start)
        if part != Rect():
            picture = picture.cropped(part.x, part.y, part.width, part.height, *used_size(self.doc, shot))
        return picture.numbered(frame)

    def _without_text(self, shot: Shot, frame: int, unwanted: Callable[[], bool] | None) -> Picture | None:
        """What the textless version shows; ``None`` where it cannot be read, which is told, or shows another part."""
        size, textless = used_size(self.doc, shot), self.doc.textless
        lock = self.doc.lock
        if textless is None or abs(size[0] * lock.height / (size[1] * lock.width) - 1) > _SAME_SHAPE:
            return None
        with self._lock:
            try:
                if (failed := self._failed.get(_TEXTLESS)) is not None:
                    raise failed.with_traceback(None)
                reader = self._readers.get(_TEXTLESS)
                if reader is None:
                    reader = self._readers[_TEXTLESS] = MovieReader(textless.path, deep=self.deep)
                picture = reader.frame(min(max(0, frame), reader.facts.frames - 1), unwanted)
            except Cancelled:
                raise
            except EzvarError as error:
                self._keep_failure(_TEXTLESS, error)
                self._tell(_TEXTLESS, error)
                return None
        if (picture.width, picture.height) != size:
            picture = picture.cropped(0.0, 0.0, 1.0, 1.0, *size)
        return picture.numbered(frame)

    def show(self, doc: Document) -> None:
        """Go on with a changed document: media that are others now are opened anew."""
        with self._lock:
            media = {m.id: m for m in doc.lock.media}
            for id, old in self._media.items():
                if media.get(id) != old:
                    self.forget(id)
            if doc.textless != self.doc.textless:
                self.forget(_TEXTLESS)
            self.doc, self._media, self._name = doc, media, _name_of(doc)

    def quick_frame(self, start: int, end: int, near: int) -> int:
        """A frame from ``start`` to ``end`` close to ``near`` that is quick to decode."""
        facts = self.facts
        return near if facts is None else facts.quick_frame(start, end, near)

    @property
    def facts(self) -> MovieFacts | None:
        """The facts of a flat lock's movie; ``None`` for a timeline, or while the movie cannot be read."""
        if not self.doc.lock.flat:
            return None
        id = self.doc.lock.media[0].id
        with self._lock:
            try:
                return None if id in self._failed else self._reader(id).facts
            except EzvarError as error:
                self._keep_failure(id, error)  # not to be opened again for every still
                return None

    def forget(self, media: str) -> None:
        """Try a media again that could not be read."""
        with self._lock:
            self._failed.pop(media, None)
            self._told.discard(media)
            self._stills.pop(media, None)
            if (reader := self._readers.pop(media, None)) is not None:
                reader.close()

    def _nothing(self, width: int, height: int) -> Picture:
        """What is shown for media that are not there."""
        if self._blank is None or (self._blank.width, self._blank.height) != (width, height):
            self._blank = black(width, height).standing_for_nothing()
        return self._blank

    def _keep_failure(self, media: str, error: EzvarError) -> None:
        """Keep what is wrong with a media, and not the callers' frames with it, which a traceback holds."""
        self._failed[media] = error.with_traceback(None)

    def _tell(self, media: str, error: EzvarError) -> None:
        """Say once what is wrong with a media; a damaged frame costs no other."""
        if media not in self._told:
            self._told.add(media)
            self._on_missing(media, error)

    def _of_media(self, id: str, position: Fraction, unwanted: Callable[[], bool] | None) -> Picture:
        media = self._media[id]
        if media.kind == "black":
            return self._nothing(media.width, media.height)
        if (failed := self._failed.get(id)) is not None:
            raise failed.with_traceback(None)
        if media.missing:
            raise MediaError("it was not found", file=media.path or media.name, remedy="Choose its file")
        try:
            if media.kind == "still":
                if id not in self._stills:
                    self._stills[id] = read_still(media.path).picture
                return self._stills[id]
            if media.kind == "sequence":
                ((image, _),) = media_frames(position, media.frames, "nearest")
                return self._image(media.path, image)
            reader = self._reader(id)
        except EzvarError as error:
            self._keep_failure(id, error)  # not to be tried again for every frame
            raise
        rule: FrameRule = "nearest" if self.doc.lock.flat else self.doc.lock.rule
        wanted = media_frames(position, reader.facts.frames, rule)
        if len(wanted) == 1:
            return reader.frame(wanted[0][0], unwanted)
        (a, _), (b, share) = wanted
        return reader.frame(a, unwanted).mixed(reader.frame(b, unwanted), share)

    def _image(self, first: str, number: int) -> Picture:
        """An image of a sequence; the last few are kept, since a mix asks for two in turns."""
        path = str(image_of_sequence(first, number))
        if path not in self._images:
            self._images[path] = read_still(path).picture
        return self._images[path]

    def _reader(self, id: str) -> MovieReader:
        reader = self._readers.get(id)
        if reader is None:
            media = self._media[id]
            reader = MovieReader(media.path, deep=self.deep, glancing=self._glancing)
            if reader.facts.frames != media.frames:
                reader.close()
                raise MediaError(
                    f"it now has {reader.facts.frames} frames, not {media.frames}",
                    file=Path(media.path),
                    remedy="Put the right file back, or choose it anew",
                )
            self._readers[id] = reader
        return reader
