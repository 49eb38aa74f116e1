"""What is wrong with captions: in time, in their layout in a master, and over its picture.

Problems that an editor has let stand (`Differing.right`) are not among them.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

from ezvar.core.evidence import Analysis
from ezvar.core.model import TO_WRITE, Caption, CaptionTrack, Document, Master, Rect, Shot, Title, Zone, layer_key
from ezvar.core.timing import FrameRange, timecode

from ..placing import SAFE
from ..setting.fonts import families, font_problem
from ..setting.layout import LaidOut, face_of
from ..setting.titles import face_of_design
from ..showing import LayerPlaces, laid_out, language_used, style_of, title_laid_out
from .in_picture import SeenInMasters
from .in_time import NOT_WRITTEN, ProblemName, in_time

_HAIR = 0.002
_MOST_KEPT = 100_000  # captions in masters, whose problems are remembered
HIDES_FACE, HIDES_WRITING, HIDES_CORNER = 0.08, 0.05, 0.02
"""Parts of a face, a block of writing and a caption that may be hidden and are not told."""


@dataclass(frozen=True, slots=True)
class CaptionProblem:
    """One thing that is wrong with a caption, in a master or, where none is named, in all; ``caption`` is empty where
    it is so for the whole track."""

    track: str
    caption: str
    master: str
    name: ProblemName
    said: str


@dataclass(frozen=True, eq=False)
class _Around:
    """What the captions of a track stand in, in a master; ``depends`` is all of it that their problems depend on."""

    doc: Document
    track: CaptionTrack
    master: Master
    analysis: Analysis | None
    taken: Taken | None
    depends: tuple[object, ...]

    @classmethod
    def of(
        cls, doc: Document, track: CaptionTrack, master: Master, analysis: Analysis | None, taken: Taken | None
    ) -> _Around:
        depends = (
            master, doc.style(track.id, master.id), doc.lock, doc.shown_titles, doc.placed, doc.textless,
            doc.textless_shots, track.limits, language_used(track), analysis, taken, len(doc.tracks),
            doc.place_of_track(track.id), *(other for other in doc.tracks if other.id != track.id),
        )  # fmt: skip
        return cls(doc, track, master, analysis, taken, depends)


class CaptionChecks:
    """Looks for what is wrong, and works out again only what has changed. Safe across threads."""

    def __init__(self) -> None:
        self._seen = SeenInMasters()
        self._kept: dict[tuple[str, str], tuple[tuple[object, ...], tuple[tuple[ProblemName, str], ...]]] = {}

    def all(self, doc: Document, analysis: Analysis | None = None, taken: Taken | None = None) -> list[CaptionProblem]:
        """Every problem of all titles and captions in all masters, each in order of time.

        Without an ``analysis`` faces and writing are not known; ``taken`` is
        what the lock's layers take up of masters' frames, where known.
        """
        found = [
            p
            for title in sorted(doc.shown_titles, key=lambda t: t.start)
            for p in self.of_title(doc, title, analysis, taken)
        ]
        for track in doc.tracks:
            if not track.shown:
                continue
            found += self._of_track(doc, track)
            around = [_Around.of(doc, track, master, analysis, taken) for master in doc.masters]
            for caption in track.captions:
                found += self._of_caption(doc, track, caption, around)
        return found

    def _of_track(self, doc: Document, track: CaptionTrack) -> Iterator[CaptionProblem]:
        for master in doc.masters:
            said = font_problem(face_of(style_of(doc, track, master)))
            if said:
                yield CaptionProblem(track.id, "", master.id, "font missing", f"{said[:1].upper()}{said[1:]}.")

    def of_caption(
        self, doc: Document, track: CaptionTrack, caption: Caption, analysis: Analysis | None = None,
        taken: Taken | None = None, masters: Iterable[Master] | None = None,
    ) -> Iterator[CaptionProblem]:  # fmt: skip
        """What is wrong with one caption."""
        wanted = doc.masters if masters is None else masters
        around = [_Around.of(doc, track, master, analysis, taken) for master in wanted]
        return self._of_caption(doc, track, caption, around)

    def _of_caption(
        self, doc: Document, track: CaptionTrack, caption: Caption, around: Sequence[_Around]
    ) -> Iterator[CaptionProblem]:
        right = doc.differs(caption.id, "").right
        for name, said in in_time(doc, track, caption):
            if name not in right:
                yield CaptionProblem(track.id, caption.id, "", name, said)
        frames = caption.frames(doc.lock.rate)
        shots = tuple(_shots(doc, frames.start, frames.end))
        for each in around:
            master = each.master
            differing = doc.differs(caption.id, master.id)
            if differing.hidden:
                continue
            depends = caption, differing, track.levels.get(caption.id), each.depends, *(
                doc.framing(shot.id, master.id) for shot in shots
            )  # fmt: skip
            for name, said in self._known(each, caption, depends):
                if name not in differing.right:
                    yield CaptionProblem(track.id, caption.id, master.id, name, said)

    def _known(
        self, around: _Around, caption: Caption, depends: tuple[object, ...]
    ) -> tuple[tuple[ProblemName, str], ...]:
        """What is wrong with a caption in a master; worked out again only where something that it ``depends`` on is
        another."""
        key = caption.id, around.master.id
        found = self._kept.get(key)
        if found is not None and _alike(found[0], depends):
            return found[1]
        laid = laid_out(around.doc, around.track, caption, around.master)
        made = tuple(self._in_master(around, caption, laid))
        if len(self._kept) > _MOST_KEPT:
            self._kept.clear()
        self._kept[key] = depends, made
        return made

    def of_title(
        self, doc: Document, title: Title, analysis: Analysis | None = None, taken: Taken | None = None
    ) -> Iterator[CaptionProblem]:
        """What is wrong with a title."""
        said = font_problem(face_of_design(title.design))
        if said:
            yield CaptionProblem("", title.id, "", "font missing", f"{said[:1].upper()}{said[1:]}.")
        if title.lines == (TO_WRITE,):
            yield CaptionProblem("", title.id, "", "not written", NOT_WRITTEN)
        for master in doc.masters:
            if doc.stands(title.id, master.id).hidden:
                continue
            laid = title_laid_out(doc, title, master, places_of(taken or {}))
            rect = in_frame(laid.rect, master)
            lacking = families(face_of_design(title.design)).lacks("".join(title.lines))
            found: list[tuple[ProblemName, str]] = []
            if laid.shrunk < 1:
                found.append(("does not fit", f"It was made smaller to fit: {round(100 * laid.shrunk)} %."))
            if lacking:
                found.append(("letters missing", f"No type at hand has {' '.join(lacking[:8])}."))
            if not _within(rect):
                found.append(("outside the safe area", "It reaches out of the title-safe area."))
            if (zone := self.behind(rect, master)) is not None and title.kind != "end card":
                found.append(("behind controls", f"It stands where “{zone.name}” is."))
            if analysis is not None and doc.shots and title.kind != "end card":
                faces, writing = self._hidden(doc, master, title.start, title.end, rect, analysis)
                if faces > HIDES_FACE:
                    found.append(("over a face", "It hides a face, or part of one."))
                if writing > HIDES_WRITING:
                    found.append(("over writing", "It stands over writing in the picture."))
            right = doc.differs(title.id, master.id).right
            yield from (CaptionProblem("", title.id, master.id, n, said) for n, said in found if n not in right)

    def _in_master(self, around: _Around, caption: Caption, laid: LaidOut) -> Iterator[tuple[ProblemName, str]]:
        doc, track, master = around.doc, around.track, around.master
        if not laid.fits:
            yield "does not fit", _fits_not(laid)
        longest = max(len(line.text) for line in laid.lines)
        if longest > track.limits.letters_a_line:
            yield "long line", f"A line has {longest} letters; {track.limits.letters_a_line} are allowed."
        if not caption.text.isascii():
            face = face_of(style_of(doc, track, master), language_used(track))
            lacking = families(face).lacks(caption.text)
            if lacking:
                yield "letters missing", f"No type at hand has {' '.join(lacking[:8])}."
        rect = in_frame(laid.rect, master)
        yield from self.collisions(doc, track, caption, master, rect, around.analysis, around.taken)

    def collisions(
        self, doc: Document, track: CaptionTrack, caption: Caption, master: Master, rect: Rect,
        analysis: Analysis | None, taken: Taken | None = None,
    ) -> Iterator[tuple[ProblemName, str]]:  # fmt: skip
        """What a caption would hide, or be hidden by, that takes up ``rect`` of the frame, as fractions."""
        frames = caption.frames(doc.lock.rate)
        zone = self.behind(rect, master)
        if zone is not None:
            why = f": {zone.why}" if zone.why else ""
            yield "behind controls", f"It stands where “{zone.name}” is{why}."
        over = next(_titles_under(doc, master, frames, rect, taken or {}), None)
        if over is not None:
            yield "over a title", f"It stands over the title “{over}”."
        for other in doc.tracks:
            if other.id != track.id and other.shown and self._over_captions(doc, other, caption, master, rect):
                yield "over captions", f"It stands over captions of the track “{other.name}”."
                break
        if analysis is not None and doc.shots:
            faces, writing = self._hidden(doc, master, frames.start, frames.end, rect, analysis)
            if faces > HIDES_FACE:
                yield "over a face", "It hides a face, or part of one."
            if writing > HIDES_WRITING:
                yield "over writing", "It stands over writing in the picture."

    def behind(self, rect: Rect, master: Master) -> Zone | None:
        """The overlay zone of a master that a rectangle, as fractions of its frame, lies in."""
        zones = master.zones.zones if master.zones else ()
        return next((zone for zone in zones if _shared(rect, zone.rect) > HIDES_CORNER), None)

    def _over_captions(
        self, doc: Document, other: CaptionTrack, caption: Caption, master: Master, rect: Rect
    ) -> bool:  # fmt: skip
        frames = caption.frames(doc.lock.rate)
        seen: set[str] = set()
        for frame in range(frames.start, frames.end, max(1, (frames.end - frames.start) // 8)):
            for beside in other.at(frame, doc.lock.rate):
                if beside.id in seen or doc.differs(beside.id, master.id).hidden:
                    continue
                seen.add(beside.id)
                if _shared(rect, in_frame(laid_out(doc, other, beside, master).rect, master)) > HIDES_CORNER:
                    return True
        return False

    def _hidden(
        self, doc: Document, master: Master, start: int, end: int, rect: Rect, analysis: Analysis
    ) -> tuple[float, float]:
        """The largest parts of a face and of writing that are hidden at one time."""
        faces = writing = 0.0
        for shot in _shots(doc, start, end):
            if not analysis.knows(shot.start, shot.end):
                continue
            seen = self._seen.of(doc, shot, master, analysis)
            first, last = max(start, shot.start), min(end, shot.end)
            faces = max(faces, seen.covered("face", first, last, rect))
            writing = max(writing, seen.covered("text", first, last, rect))
        return faces, writing


def problem_line(doc: Document, problem: CaptionProblem) -> str:
    """A problem in one line, with the caption's number, its timecode and its master."""
    values = problem_values(doc, problem)
    where = f" in {values['master']}" if values["master"] else ""
    if not problem.track:
        return f"Title “{values['track']}” at {values['at']}{where}: {problem.said}"
    what = f"Caption {values['caption']} at {values['at']}" if problem.caption else f"Captions “{values['track']}”"
    return f"{what}{where}: {problem.said}"


def problem_frame(doc: Document, problem: CaptionProblem) -> int | None:
    """The lock frame at which a caption or title begins that has a problem; ``None`` for a whole track."""
    if not problem.track:
        return doc.title(problem.caption).start
    if not problem.caption:
        return None
    return doc.track(problem.track).caption(problem.caption).frames(doc.lock.rate).start


def problem_values(doc: Document, problem: CaptionProblem) -> dict[str, str | int]:
    """A problem as plain values.

    ``caption`` is its number from 1; 0 for the whole track, and for a title,
    whose name then stands in the place of the track's.
    """
    master = doc.master(problem.master).name if problem.master else ""
    called = doc.track(problem.track).name if problem.track else doc.title(problem.caption).called
    number = doc.track(problem.track).place_of(problem.caption) + 1 if problem.track and problem.caption else 0
    frame = problem_frame(doc, problem) or 0
    at = timecode(doc.lock.start + frame, doc.lock.rate, doc.lock.drop)
    return {
        "track": called, "caption": number, "at": at, "frame": frame, "master": master, "what": problem.name,
        "said": problem.said,
    }  # fmt: skip


def _shots(doc: Document, start: int, end: int) -> Iterator[Shot]:
    k = doc.place_of(doc.shot_at(start).id)
    while k < len(doc.shots) and doc.shots[k].start < end:
        yield doc.shots[k]
        k += 1


def _alike(some: tuple[object, ...], others: tuple[object, ...]) -> bool:
    return len(some) == len(others) and all(a is b or a == b for a, b in zip(some, others, strict=True))


Taken = Mapping[tuple[str, str], Rect]
"""What layers of the lock, by `layer_key`, take up of masters' frames, by their ids, as fractions."""


def places_of(taken: Taken) -> LayerPlaces:
    """The same, asked for item by item."""
    return lambda item, master: taken.get((item, master.id))


def _titles_under(doc: Document, master: Master, frames: FrameRange, rect: Rect, taken: Taken) -> Iterator[str]:
    """The names of titles and layers that are on with a caption, and lie where it does."""
    for layer in doc.lock.layers:
        place = taken.get((layer_key(layer), master.id))
        if place is not None and layer.start < frames.end and frames.start < layer.end and _shared(rect, place) > 0:
            yield layer.name
    for title in doc.shown_titles:
        if title.start < frames.end and frames.start < title.end and not doc.stands(title.id, master.id).hidden:
            laid = title_laid_out(doc, title, master, places_of(taken))
            place = in_frame(laid.block if title.kind == "end card" else laid.rect, master)
            if _shared(rect, place) > 0:
                yield title.called


def _within(rect: Rect) -> bool:
    """Whether a rectangle lies in the safe area, but for a hair."""
    low, high = SAFE - _HAIR, 1 - SAFE + _HAIR
    return low <= rect.x and rect.x + rect.width <= high and low <= rect.y and rect.y + rect.height <= high


def in_frame(rect: Rect, master: Master) -> Rect:
    """A rectangle in a master's pixels as fractions of its frame."""
    return Rect(rect.x / master.width, rect.y / master.height, rect.width / master.width, rect.height / master.height)


def _shared(a: Rect, b: Rect) -> float:
    """The part of the smaller of two rectangles that lies in the other, 0..1."""
    across = min(a.x + a.width, b.x + b.width) - max(a.x, b.x)
    down = min(a.y + a.height, b.y + b.height) - max(a.y, b.y)
    if across <= 0 or down <= 0:
        return 0.0
    return across * down / min(a.width * a.height, b.width * b.height)


def _fits_not(laid: LaidOut) -> str:
    if laid.torn:
        return "A word is wider than a line, and was parted."
    if laid.shrunk < 1:
        return f"It fills the frame, and was made smaller: {round(100 * laid.shrunk)} %."
    rest = laid.lines[laid.allowed].text.strip()
    return f"It needs {laid.needs} lines; “{rest}” does not fit."
