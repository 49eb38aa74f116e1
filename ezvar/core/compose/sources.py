"""Pictures that a master shows beside those of the shot it is in: other shots in panes, backdrops of their own."""

from __future__ import annotations

from fractions import Fraction
from math import floor
from types import TracebackType

from ezvar.core.errors import EzvarError
from ezvar.core.framing import pane_shot
from ezvar.core.lock import LockReader
from ezvar.core.media import STILL_SUFFIXES, MovieReader, Planes, read_still
from ezvar.core.model import Document, Pane, Shot


class Sources:
    """Reads such pictures with decoders of its own, so that those of the lock go on undisturbed.

    What cannot be read is noted in ``problems``, once each; a pane then shows
    its own shot, a backdrop its plain colour. One caller at a time.
    """

    def __init__(self, doc: Document) -> None:
        self._doc = doc
        self._lock: LockReader | None = None
        self._movies: dict[str, MovieReader | Planes | None] = {}
        self.problems: list[str] = []

    def __enter__(self) -> Sources:
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
        self._lock, self._movies = None, {}

    def show(self, doc: Document) -> None:
        """Go on with a changed document."""
        if self._lock is not None:
            self._lock.show(doc)
        self._doc = doc

    def of_pane(self, shot: Shot, pane: Pane, frame: int) -> Planes | None:
        """What a pane of ``shot`` shows at a lock frame if it names another shot, from that one's first frame on.

        Where the other is shorter its last frame stays. ``None`` where the
        pane shows its own.
        """
        other = pane_shot(self._doc, shot, pane)
        if other is shot:
            return None
        if self._lock is None:
            self._lock = LockReader(self._doc, lambda media, error: self._note(error))
        at = other.start + min(max(0, frame - shot.start), other.frames - 1)
        return self._lock.picture(other, at).planes()

    def backdrop(self, path: str, frame: int) -> Planes | None:
        """The picture of a backdrop's own movie or image at a lock frame; a movie that ends begins again."""
        if path not in self._movies:
            self._movies[path] = self._opened(path)
        movie = self._movies[path]
        if not isinstance(movie, MovieReader):
            return movie
        at = Fraction(frame) * movie.facts.rate.fraction / self._doc.lock.rate.fraction
        try:
            return movie.frame(floor(at) % movie.facts.frames).planes()
        except EzvarError as error:
            self._note(error)
            return None

    def _opened(self, path: str) -> MovieReader | Planes | None:
        try:
            if path[path.rfind(".") :].lower() in STILL_SUFFIXES:
                return read_still(path).picture.planes()
            return MovieReader(path)
        except EzvarError as error:
            self._note(error)
            return None

    def _note(self, error: EzvarError) -> None:
        said = f"Left out: {error}"
        if said not in self.problems:
            self.problems.append(said)
