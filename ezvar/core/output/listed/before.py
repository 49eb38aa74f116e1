"""What still waits before movies are made: each with a place to go to. Nothing here keeps anybody from making them."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from ezvar.core.errors import EzvarError
from ezvar.core.framing import NEEDS_A_LOOK, enlargements, shape_enlarges
from ezvar.core.lock import hdr_media
from ezvar.core.media import known_cube
from ezvar.core.model import Document, Framing, Master, Row, Shot, cut_places, look_of
from ezvar.core.names import readable
from ezvar.core.text import CaptionProblem, problem_frame, problem_line

from ..naming import told_as
from ..receiving import not_taken

Where = Literal["lock", "cuts", "framing", "text", "review", "output"]
_LARGE = 1.5  # times that pixels may be enlarged without a word
_TIGHTER = 1.1  # times that a window may be tighter than one that fills


@dataclass(frozen=True)
class Concern:
    """Something that waits, in a sentence, and where it is seen to: in a stage, at a lock frame of a master."""

    said: str
    where: Where
    frame: int = 0
    master: str = ""


def before_making(doc: Document, rows: Sequence[Row], text: Iterable[CaptionProblem] = ()) -> list[Concern]:
    """All that waits in what rows of a document show; ``text`` is what is wrong with captions and titles.

    Shots that were never played count as not played since they changed.
    """
    found = [*_missing(doc, rows), *_colours(doc, rows), *_cuts(doc, rows)]
    played = {(p.shot, p.master): p.look for p in doc.played}
    for master in doc.masters:
        shots = _shots(doc, [r for r in rows if r.master == master.id])
        if shots:
            found += _framings(doc, master, shots, played)
    found += _text(doc, rows, text)
    for row in rows:
        for said in not_taken(doc, row, row.receiver) if row.receiver is not None else ():
            found.append(Concern(f"{told_as(doc, row)}: {said.rstrip('.')}", "output", row.start, row.master))
        limits = (r.limit_seconds for r in doc.master(row.master).ranges if r.name == row.label)
        seconds = doc.lock.rate.seconds(row.end - row.start)
        if (limit := next(limits, None)) is not None and seconds > limit:
            said = f"{told_as(doc, row)} lasts {float(seconds):.4g} s, longer than {limit:g} s"
            found.append(Concern(said, "output", row.start, row.master))
    return found


def _shots(doc: Document, rows: Iterable[Row]) -> list[Shot]:
    spans = [row.range for row in rows]
    return [s for s in doc.shots if any(s.start < span.end and span.start < s.end for span in spans)]


def _missing(doc: Document, rows: Sequence[Row]) -> Iterator[Concern]:
    shown = _shots(doc, rows)
    for media in doc.lock.media:
        at = next((s.start for s in shown if s.source.media == media.id), None)
        if media.missing and at is not None:
            yield Concern(f"{readable(media.name or media.path)} is missing: black is shown", "lock", at)


def _colours(doc: Document, rows: Sequence[Row]) -> Iterator[Concern]:
    """Colour tables that cannot be read, and HDR where it does not come through."""
    shown = _shots(doc, rows)
    for path in sorted({doc.colouring.table_of(shot.source.media) for shot in shown} - {""}):
        try:
            known_cube(path)
        except EzvarError as error:
            yield Concern(f"the colour table is left out: {str(error).rstrip('.')}", "lock")
    hdr = {m.id for m in hdr_media(doc)} if not doc.colouring.tone_mapped else set()
    if not hdr or not shown:
        return
    if doc.shots[0].source.media not in hdr:
        of = [s for s in shown if s.source.media in hdr]
        if of:
            said = _named(doc, of, "is HDR in a lock that is not", "are HDR in a lock that is not")
            yield Concern(f"{said}: show HDR pictures as SDR", "lock", of[0].start)
    elif any(row.preset.picture.depth == 8 for row in rows):
        yield Concern("the masters are HDR in 8 bits: choose a preset of 10, or show HDR pictures as SDR", "lock")


def _cuts(doc: Document, rows: Sequence[Row]) -> Iterator[Concern]:
    spans = [row.range for row in rows]
    waiting = [p for p in cut_places(doc) if p.waits and any(p.frame in span for span in spans)]
    if waiting:
        yield Concern(f"{_counted(len(waiting), 'cut needs', 'cuts need')} a look", "cuts", waiting[0].frame)


def _framings(
    doc: Document, master: Master, shots: Sequence[Shot], played: dict[tuple[str, str], str]
) -> Iterator[Concern]:
    decided = [(shot, doc.framing(shot.id, master.id)) for shot in shots]
    there = [(shot, framing) for shot, framing in decided if framing is not None]

    def of(shots: Sequence[Shot], one: str, many: str, where: Where) -> Iterator[Concern]:
        if shots:
            said = f"{master.name}: {_named(doc, shots, one, many)}"
            yield Concern(said, where, (shots[0].start + shots[0].end) // 2, master.id)

    yield from of([s for s, f in decided if f is None], "has no framing", "have no framing", "framing")
    doubtful = [s for s, f in there if f.doubt >= NEEDS_A_LOOK and f.verdict != "agreed"]
    yield from of(doubtful, "needs a look", "need a look", "framing")
    wanted = [s for s, f in there if f.verdict == "change"]
    yield from of(wanted, "is answered “change”", "are answered “change”", "review")
    unanswered = [s for s, f in there if _is_open(doc, f)]
    yield from of(unanswered, "is not answered in review", "are not answered in review", "review")
    changed = [s for s, f in there if f.verdict != "agreed" and not _is_played(doc, s, master, played)]
    yield from of(changed, "was not played since it changed", "were not played since they changed", "framing")
    usual = max(_LARGE, _TIGHTER * shape_enlarges(doc, master))  # what the shape brings is said in the lock stage
    large = {e.shot for e in enlargements(doc, [master], usual)}
    yield from of(
        [s for s, _ in there if s.id in large],
        f"is enlarged over {usual:.0%}",
        f"are enlarged over {usual:.0%}",
        "framing",
    )


def _is_open(doc: Document, framing: Framing) -> bool:
    """Whether a framing was handed out, and nobody has answered."""
    return framing.verdict == "open" and bool(doc.sent(framing.shot, framing.master))


def _is_played(doc: Document, shot: Shot, master: Master, played: dict[tuple[str, str], str]) -> bool:
    return played.get((shot.id, master.id)) == look_of(doc, shot.id, master.id)


def _text(doc: Document, rows: Sequence[Row], text: Iterable[CaptionProblem]) -> Iterator[Concern]:
    """What is wrong with captions and titles that rows show, one line a master."""
    by: dict[str, list[tuple[int, CaptionProblem]]] = {}
    known = {("", t.id) for t in doc.titles} | {(t.id, "") for t in doc.tracks}
    known |= {(t.id, c.id) for t in doc.tracks for c in t.captions}
    masters = {"", *(m.id for m in doc.masters)}
    for problem in text:
        if (problem.track, problem.caption) not in known or problem.master not in masters:
            continue  # it was found in the document as it was before
        frame = problem_frame(doc, problem)
        those = (row for row in rows if problem.master in ("", row.master))
        if any(frame is None or row.start <= frame < row.end for row in those):
            by.setdefault(problem.master, []).append((frame or 0, problem))
    for master, problems in by.items():
        frame = min(frame for frame, _ in problems)
        items = len({(p.track, p.caption) for _, p in problems})
        name = f"{doc.master(master).name}: " if master else ""
        said = problem_line(doc, problems[0][1]).rstrip(".") if items == 1 else (
            f"{name}{items} captions or titles have something wrong with them"
        )  # fmt: skip
        yield Concern(said, "text", frame, master)


def _counted(count: int, one: str, many: str) -> str:
    return f"{count} {one if count == 1 else many}"


def _named(doc: Document, shots: Sequence[Shot], one: str, many: str) -> str:
    if len(shots) == 1:
        return f"shot {doc.place_of(shots[0].id) + 1} {one}"
    return f"{len(shots)} shots {many}"
