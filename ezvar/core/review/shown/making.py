"""The pictures and movies of a handoff, each made once however many of its files show them."""

from __future__ import annotations

import pickle
from collections.abc import Iterator, Sequence
from pathlib import Path

from ezvar.core.model import Document, Master, Shot
from ezvar.core.progress import CancelToken, Progress, portion
from ezvar.core.work import Surroundings

from .movies import Looks, ReviewMovie, make_review_movies
from .stills import ShotStills, shot_stills
from .tasks import review_tasks

_STILLS = 216  # pixels that stills are high
_MOVIES = 0.7  # of the time, where there are both


class Making:
    """Makes stills and movies of some shots in some masters when they are first asked for, in a ``folder`` of its own.

    ``wanted`` are the movies, by name, that are made in one pass; or by others, each by itself, where there are such
    ``around``, who must see the folder.
    """

    def __init__(
        self, doc: Document, masters: Sequence[Master], shots: Sequence[Shot], folder: Path,
        wanted: dict[str, ReviewMovie], sound: bool, progress: Progress, cancel: CancelToken | None,
        around: Surroundings | None = None,
    ) -> None:  # fmt: skip
        self.doc, self.masters, self.shots = doc, masters, shots
        self.room, self._wanted, self._sound, self._cancel = folder, wanted, sound, cancel
        self._of_movies = portion(progress, 0, _MOVIES if wanted else 0)
        self._of_stills = portion(progress, _MOVIES if wanted else 0, 0.99)
        self._around = around
        self._looks: Looks | None = None
        self._current: tuple[ShotStills, Iterator[ShotStills]] | None = None

    def looks(self) -> Looks:
        """The movies are made; what they look like at one glance."""
        others = self._around.others if self._around is not None else None
        if self._looks is None and others is not None and self._around is not None and self._wanted:
            tasks = review_tasks(self.doc, self._wanted, self.masters, self.shots, self._sound, self.room)
            self._looks, *_ = list(others(tasks, self._around, self._of_movies, self._cancel))
        elif self._looks is None:
            self._looks = make_review_movies(
                self.doc, [each.at(self.room / f"{name}.mp4") for name, each in self._wanted.items()], self.masters,
                self.shots, sound=self._sound, progress=self._of_movies, cancel=self._cancel,
            )  # fmt: skip
        return self._looks

    def movie(self, name: str) -> Path:
        """The movie that was wanted under a name."""
        self.looks()
        return self.room / f"{name}.mp4"

    def stills(self) -> Iterator[ShotStills]:
        """The stills of all shots in order; drawn the first time, and kept on disk for the next."""
        kept = self.room / "stills"
        if kept.exists():
            with kept.open("rb") as file:
                for _ in self.shots:
                    yield pickle.load(file)  # our own, written below
            return
        part = self.room / "stills.part"
        with part.open("wb") as file:
            made = shot_stills(self.doc, self.shots, self.masters, _STILLS, self._of_stills, self._cancel)
            for number, each in enumerate(made, 1):
                pickle.dump(each, file)
                if number == len(self.shots):  # whoever asks may stop at the last
                    file.flush()
                    part.rename(kept)
                yield each

    def still(self, shot: Shot, place: int) -> bytes:
        """A shot's picture for place 0, or the middle of what a master shows of it, by its place from 1.

        Shots are to be asked for in order.
        """
        if self._current is None:
            stills = self.stills()
            self._current = next(stills), stills
        while self._current[0].shot.id != shot.id:
            self._current = next(self._current[1]), self._current[1]
        found = self._current[0]
        if place == 0:
            return found.picture
        return found.masters[self.masters[place - 1].id][1]
