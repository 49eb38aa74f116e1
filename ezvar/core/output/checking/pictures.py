"""Comparing the pictures of a finished movie with what the document says, by a second way of drawing them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import cv2
import numpy as np

from ezvar.core.lock import mix_at
from ezvar.core.media import Picture
from ezvar.core.model import Document, Flaw, Row
from ezvar.core.progress import CancelToken, Progress, silent
from ezvar.core.timing import FrameRange, can_drop, timecode

from ..segments import shown_of
from .witness import Seen, Witness

ALIKE = 35.0
"""Peak signal-to-noise ratio in dB from which pictures are alike, at a quarter of their width."""
READ = 22.0
"""The same, within the box of a caption."""
_ASIDE = 0.02  # of a window's width and height: how far the windows lie that must match worse
_DETAIL = 6.0  # squared levels by which a picture must differ from one aside for that to tell anything
_CERTAIN = 0.02  # of a picture, that must be known for it to be compared
_BLACK, _STILL = 36.0, 0.12  # levels of luminance: what black has at most, and how far a still picture changes
_LEAST = 1.0  # seconds that it lasts to be told
_MOST_WRITTEN = 400  # captions and titles that are looked at besides the shots
_EACH = 12  # flaws of a kind that are told one by one


@dataclass
class _Told:
    """Flaws as they are found: many of a kind are counted."""

    flaws: list[Flaw]
    counts: dict[str, int]

    def add(self, kind: str, said: str, start: int, end: int) -> None:
        self.counts[kind] = self.counts.get(kind, 0) + 1
        if self.counts[kind] <= _EACH:
            self.flaws.append(Flaw(said, start, end))

    def all(self) -> tuple[Flaw, ...]:
        more = [Flaw(f"{count - _EACH} more frames are like that.") for count in self.counts.values() if count > _EACH]
        return (*self.flaws, *more)


def frames_to_compare(doc: Document, row: Row, spans: Sequence[FrameRange]) -> dict[int, bool]:
    """Lock frames of a row within spans: the first, the middle and the last of every shot, the middle of every mix, of
    captions and titles; and of each whether its neighbours are looked at, too."""
    found: dict[int, bool] = {}
    for shot in doc.shots:
        start, end = max(shot.start, row.start), min(shot.end, row.end)
        if start < end:
            found |= {start: False, end - 1: False}
            found[(start + end) // 2] = True
        if shot.cut is not None and shot.cut.end > shot.cut.start and mix_at(doc, shot.start) is not None:
            found.setdefault(shot.start, False)
    rate = doc.lock.rate
    written = [c.frames(rate) for t in doc.tracks if t.shown for c in t.captions]
    written += [FrameRange(t.start, t.end) for t in doc.shown_titles]
    written += [FrameRange(n.start, n.end) for n in doc.lock.layers]
    for each in written[:: max(1, -(-len(written) // _MOST_WRITTEN))]:
        found.setdefault((each.start + each.end) // 2, False)
    inside = (f for f in sorted(found) if any(f in span for span in spans) and f in row.range)
    return {frame: found[frame] for frame in inside}


def compare_pictures(
    doc: Document, row: Row, pictures: Iterable[tuple[int, Picture]], spans: Sequence[FrameRange],
    progress: Progress = silent, cancel: CancelToken | None = None,
) -> tuple[int, tuple[Flaw, ...]]:  # fmt: skip
    """How many pictures of a finished movie were compared with what the document says, and what is wrong with them.

    ``pictures`` are all of the spans, by their lock frames in order. Stretches
    that are black or stand still are told where the document has none.
    """
    master, told = doc.master(row.master), _Told([], {})
    wanted = frames_to_compare(doc, row, spans)
    stretches = _Stretches(max(2, round(_LEAST * float(doc.lock.rate.fraction))))
    others: list[tuple[int, int, bool]] = []
    count, total = 0, sum(len(span) for span in spans)
    with Witness(doc, master, shown_of(row)) as witness:
        for n, (frame, picture) in enumerate(pictures):
            if cancel is not None:
                cancel.check()
            others += _others(witness, stretches.look(frame, picture))
            if frame in wanted:
                small = cv2.resize(picture.rgb(), (witness.width, witness.height), interpolation=cv2.INTER_AREA)
                _compare(doc, row, frame, small.astype(np.float32), witness, wanted[frame], told)
                count += 1
            progress((n + 1) / max(1, total), "Checking what was made")
        others += _others(witness, stretches.ended())
    for start, end, black in others:
        what = "It is black" if black else "The picture stands still"
        told.add("stretches", f"{what} from {_at(doc, start)} to {_at(doc, end)}.", start, end)
    return count, told.all()


def _compare(
    doc: Document, row: Row, frame: int, made: np.ndarray, witness: Witness, closely: bool, told: _Told
) -> None:
    before = witness.seen(frame - 1, quickly=True) if closely and frame else None  # in the order of reading
    seen = witness.seen(frame)
    if float(seen.certain.mean()) < _CERTAIN:
        return
    off = seen.differs(made)
    place = f"Frame {frame - row.start:,} in shot {doc.place_of(doc.shot_at(frame).id) + 1}"
    if (alike := psnr(_mean(off, seen))) < ALIKE:
        told.add("differs", f"{place} differs ({alike:.0f} dB).", frame, frame + 1)
        return
    if (box := _in_box(off, seen)) is not None and psnr(box) < READ:
        told.add("written", f"{place} lacks its caption.", frame, frame + 1)
    if not closely:
        return
    stated = witness.seen(frame, quickly=True)

    def better(other: Seen, at: int, aside: tuple[float, float] = (0.0, 0.0)) -> bool:
        """Whether another picture matches better; told by all samples where a few of them say so."""
        return _matches_better(made, other, stated) and _matches_better(made, witness.seen(at, aside), seen)

    for aside in ((-_ASIDE, 0.0), (_ASIDE, 0.0), (0.0, -_ASIDE), (0.0, _ASIDE)):
        if better(witness.seen(frame, aside, quickly=True), frame, aside):
            told.add("aside", f"{place} shows a window that lies elsewhere.", frame, frame + 1)
            return
    after = witness.seen(frame + 1, quickly=True) if frame + 1 < doc.lock.frames else None
    for other, at, which in ((before, frame - 1, "before"), (after, frame + 1, "after")):
        if other is not None and better(other, at):
            told.add("frames", f"{place} shows the frame {which} it.", frame, frame + 1)
            return


def _matches_better(made: np.ndarray, other: Seen, stated: Seen) -> bool:
    """Whether what was made is more like another picture than like the one that is stated, where these differ."""
    if _mean(other.differs(stated.rgb), other) <= _DETAIL:
        return False
    return _mean(other.differs(made), other) <= _mean(stated.differs(made), stated)


def _mean(off: np.ndarray, seen: Seen) -> float:
    return float(off.sum() / max(1, seen.certain.sum()))


def _in_box(off: np.ndarray, seen: Seen) -> float | None:
    """The mean squared difference within the box of a caption, where there is one and it is certain."""
    left, top, right, foot = seen.written
    inside = off[max(0, top) : foot, max(0, left) : right]
    return float(inside.mean()) if inside.size else None


def psnr(error: float) -> float:
    """The peak signal-to-noise ratio in dB of a mean squared error of levels up to 255.

    >>> round(psnr(1.0), 2)
    48.13
    """
    return float(10 * np.log10(255**2 / max(error, 1e-6)))


@dataclass(frozen=True)
class _Stretch:
    """Lock frames of a movie that are black or stand still, and the picture that they end with."""

    start: int
    end: int
    black: bool
    last: Picture


class _Stretches:
    """Looks for stretches that are black, or stand still, of so many frames at least, and hands them on as they end:
    each holds a picture."""

    def __init__(self, least: int) -> None:
        self._least = least
        self._before: tuple[int, Picture, np.ndarray] | None = None
        self._begun: dict[bool, int | None] = {True: None, False: None}  # by whether it is black
        self._found: list[_Stretch] = []

    def look(self, frame: int, picture: Picture) -> list[_Stretch]:
        """Those that a next picture ends."""
        few = picture.stored.y[::8, ::8].astype(np.int16)
        if self._before is not None and self._before[0] + 1 != frame:
            self._end()
        same = self._before is not None and float(np.abs(few - self._before[2]).mean()) < _STILL
        for black, is_so in ((True, few.max() < _BLACK), (False, same)):
            if not is_so:
                self._note(black)
            elif self._begun[black] is None:
                self._begun[black] = frame if black else frame - 1
        self._before = frame, picture, few
        return self._taken()

    def _taken(self) -> list[_Stretch]:
        found, self._found = self._found, []
        return found

    def _note(self, black: bool) -> None:
        begun, self._begun[black] = self._begun[black], None
        if begun is not None and self._before is not None and self._before[0] + 1 - begun >= self._least:
            self._found.append(_Stretch(begun, self._before[0] + 1, black, self._before[1]))

    def _end(self) -> None:
        self._note(True)
        self._note(False)
        self._before = None

    def ended(self) -> list[_Stretch]:
        """Those that the last picture ends."""
        self._end()
        return self._taken()


def _others(witness: Witness, stretches: Iterable[_Stretch]) -> list[tuple[int, int, bool]]:
    """Those stretches that the document does not have: where they start and end, and whether they are black."""
    return [(each.start, each.end, each.black) for each in stretches if not _is_so(witness, each)]


def _is_so(witness: Witness, stretch: _Stretch) -> bool:
    """Whether the document has it so: it is black too, or the last picture is no more like the first than like what it
    must be."""
    last = witness.seen(stretch.end - 1)
    if stretch.black:
        return float(last.rgb.max()) < _BLACK
    small = cv2.resize(stretch.last.rgb(), (witness.width, witness.height), interpolation=cv2.INTER_AREA)
    return not _matches_better(small.astype(np.float32), witness.seen(stretch.start), last)


def _at(doc: Document, frame: int) -> str:
    rate = doc.lock.rate
    return timecode(doc.lock.start + frame, rate, doc.lock.drop and can_drop(rate))
