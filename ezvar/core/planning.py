"""From a movie to a planned document: the steps of the lock, cuts and framing stages in one call."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable
from dataclasses import replace
from pathlib import Path

from ezvar.core import edits
from ezvar.core.cuts import Judged, judge
from ezvar.core.errors import EzvarError, TimelineError
from ezvar.core.evidence import Analysis, look_through, track
from ezvar.core.framing import (
    Place,
    sight_of,
    solve,
    solved_with,
    subject_shown,
    subjects_in,
)
from ezvar.core.lock import (
    LockReader,
    TakenLock,
    cut_as_before,
    estimate_placements,
    match_by_picture,
    match_by_source,
    take_lock,
)
from ezvar.core.model import Cut, Document, Drawn, Master, Rect, Shot, Turn, new_id
from ezvar.core.progress import CancelToken, Progress, portion, silent
from ezvar.core.review import Asked, Returned, Side, Taken, merge_all, read_return, write_handoff
from ezvar.core.store import Cache, Piece
from ezvar.core.timing import Rate, moment_now
from ezvar.core.work import Runner, run_here

_TAKEN = 0.4  # of the window, around its middle, that is taken for the subject where none was found


def _raise_if_flat(doc: Document) -> Callable[[str, EzvarError], None]:
    def missing(media: str, error: EzvarError) -> None:
        if doc.lock.flat:
            raise error

    return missing


_BEHIND = 60  # frames behind the last that was read, up to which cuts are decided: what follows has its say in them
_BEFORE = 120  # frames before a stretch that have their say in its cuts


def decidable(analysis: Analysis) -> list[Piece]:
    """The stretches of lock frames whose cuts can be decided from what was read: as those of the whole lock."""
    frames = analysis.frames
    known = analysis.known if analysis.known is not None else ((0, frames),)
    inside = ((a + _BEFORE if a else 0, b if b == frames else b - _BEHIND) for a, b in known)
    return [(a, b) for a, b in inside if a < b]


def cuts_between(analysis: Analysis, start: int, end: int) -> Judged:
    """The cuts of lock frames ``start`` to ``end``, which are `decidable`, and what was passed over there.

    As those of the whole lock, since what lies farther away has no say in them.
    """
    first, until = max(0, start - _BEFORE), min(end + _BEHIND, analysis.frames)
    judged = judge(analysis.parts.signals(first, until))

    def here(cuts: Iterable[Cut]) -> tuple[Cut, ...]:
        moved = (replace(c, start=c.start + first, end=c.end + first) for c in cuts)
        return tuple(c for c in moved if start <= c.frame < end)

    return Judged(here(judged.cuts), here(judged.passed))


def with_cuts(doc: Document, analysis: Analysis) -> Document:
    """The document with its lock split into the shots that the analysis shows. Framings go with the old shots."""
    judged = judge(analysis.signals, candidates=analysis.candidates)
    cut = edits.set_shots(doc, edits.shots_from_cuts(doc.lock, doc.lock.media[0].id, judged.cuts))
    return replace(cut, passed=judged.passed)


def with_framings(
    doc: Document, analysis: Analysis, masters: Iterable[Master] | None = None, shots: Iterable[Shot] | None = None,
    progress: Progress = silent, cancel: CancelToken | None = None,
) -> Document:  # fmt: skip
    """Solve framings anew, for all masters and shots where none are given. Agreed ones and those by hand stay, and so
    do those of shots that were not read yet."""
    chosen = tuple(s for s in (doc.shots if shots is None else shots) if analysis.knows(s.start, s.end))
    solved = []
    wanted = tuple(doc.masters if masters is None else masters)
    for k, master in enumerate(wanted):
        within = portion(progress, k / len(wanted), (k + 1) / len(wanted))
        for framing in solve(doc, master, analysis, chosen, within, cancel):
            old = doc.framing(framing.shot, framing.master)
            if old is None or (old.decided == "solved" and old.verdict != "agreed"):
                solved.append(replace(framing, verdict=old.verdict if old else "open"))
    return edits.set_framings(doc, solved)


def with_drawn(
    doc: Document, shot: Shot, frame: int, box: Rect, progress: Progress = silent, cancel: CancelToken | None = None
) -> tuple[Document, Drawn]:
    """The document with what lies in ``box`` at lock frame ``frame`` as a subject of its shot, tracked both ways.

    The box is given in fractions of the picture. Raises `ValueError` for a
    frame outside the shot and for a box too small to be known again.
    """
    with LockReader(doc, _raise_if_flat(doc)) as reader:
        found = track(reader.frames, shot.start, shot.end, frame, box, progress, cancel)
    frames = tuple(n - shot.start for n in found.frames)
    drawn = Drawn(new_id(), shot.id, frame - shot.start, frames, found.boxes, found.before, found.after)
    return edits.draw_subject(doc, drawn), drawn


def following_the_window(
    place: Place, frame: int, analysis: Analysis, progress: Progress = silent, cancel: CancelToken | None = None
) -> Document:
    """What a pane's window shows at a lock frame, taken for the subject and followed through the shot in this master.

    It is the subject that stands nearest to the window's middle, or, where
    none is near, what lies in the middle of the window, drawn and tracked.
    The path is no longer by hand.
    """
    doc, shot, size = place.doc, place.shot, place.size
    window = place.window(frame - shot.start)
    subject = subject_shown(window, size, subjects_in(doc, shot, analysis), frame)
    if subject is None:
        wide, high = _TAKEN * window.width / size.width, _TAKEN * window.height / size.height
        left, top = window.cx / size.width - wide / 2, window.cy / size.height - high / 2
        box = Rect(max(0.0, left), max(0.0, top), min(wide, 1.0), min(high, 1.0))
        doc, _ = with_drawn(doc, shot, frame, box, progress, cancel)
        subject = next(s for s in subjects_in(doc, shot, analysis) if s.kind == "drawn")
    turn = Turn(0, (sight_of(subject, shot, frame),))
    pane = place.pane
    asked = replace(pane, by_hand=(), choices=replace(pane.choices, follow=(turn,)))
    return edits.set_framings(doc, [solved_with(doc, place.with_pane(asked), analysis)])


def relocked(
    old: Document,
    path: str | os.PathLike[str],
    cache: Cache,
    progress: Progress = silent,
    cancel: CancelToken | None = None,
    *,
    rate: Rate | None = None,
    folders: Iterable[str | os.PathLike[str]] = (),
) -> tuple[Document, list[edits.Carried]]:
    """Another lock of the same pictures, with every decision of the old document carried over, and what became of each
    shot: a lock that was changed, or a shorter or rearranged edit, such as a trailer.

    A timeline is matched by what its shots show of which media, and cut where those were cut; what is not matched so
    where one of the two is a flat movie by its pictures, for which both are read through.
    """
    beside = {Path(media.path).parent for media in old.lock.media if media.content}  # media that it shares are there
    stated = rate or (None if old.lock.flat else old.lock.rate)
    new = take_lock(path, stated, (*folders, *sorted(beside)), cache.folder, progress, cancel).doc
    if new.lock.rate != old.lock.rate:
        raise TimelineError(
            f"it has {new.lock.rate} frames a second, the lock had {old.lock.rate}", file=path,
            remedy="Begin a new project with it",
        )  # fmt: skip
    same = {}
    if not new.lock.flat:
        new = cut_as_before(old, new)
        same = match_by_source(old, new)
        if not old.lock.flat or len(same) == len(new.shots):
            return edits.carry(old, new, same)
    before = look_through(old, cache, portion(progress, 0.1, 0.5), cancel).signals.thumbs
    analysis = look_through(new, cache, portion(progress, 0.5, 1), cancel)
    if new.lock.flat:
        new = with_cuts(new, analysis)
    wanted = {shot.id for shot in new.shots} - same.keys()
    return edits.carry(old, new, same | match_by_picture(old, new, before, analysis.signals.thumbs, wanted))


def handed_out(doc: Document, folder: str | os.PathLike[str], asked: Asked = Asked()) -> tuple[Document, list[Path]]:
    """A handoff written, as `write_handoff` does: the document that knows what the other side has, and the files."""
    exchanged, files = write_handoff(doc, folder, asked)
    return edits.set_exchanged(doc, exchanged), files


def taken_in(
    doc: Document, path: str | os.PathLike[str], folders: Iterable[str | os.PathLike[str]] = (), prefer: Side = "ours"
) -> tuple[Document, Taken]:
    """What came back taken in, as `take` says, and what that came to."""
    return merged(doc, read_return(doc, path), folders, prefer, f"Take in {Path(path).name}")


def merged(
    doc: Document, returned: Iterable[Returned], folders: Iterable[str | os.PathLike[str]] = (), prefer: Side = "ours",
    step: str = "Take in",
) -> tuple[Document, Taken]:  # fmt: skip
    """Decisions that came back, merged in, with what they were before kept under a ``step``; and what that came to."""
    found = merge_all(doc, returned, folders, prefer)
    taken = edits.take_decisions(doc, found.framings, found.exchanged, found.notes, found.versions)
    return edits.remember(doc, taken, "", step, moment_now()), found


def resized(
    doc: Document, master: str, width: int, height: int, analysis: Analysis | None, progress: Progress = silent,
    cancel: CancelToken | None = None,
) -> Document:  # fmt: skip
    """The document with a master in another size.

    Framings by hand and agreed ones keep their centres and zooms; solved ones
    are solved again where there is an analysis, and keep theirs too where not.
    Raises `ValueError` for a size that cannot be.
    """
    doc = edits.change_master(doc, replace(doc.master(master), width=width, height=height))
    if analysis is None:
        return doc
    return with_framings(doc, analysis, [doc.master(master)], progress=progress, cancel=cancel)


def plan(
    path: str | os.PathLike[str],
    masters: Iterable[Master],
    cache: Cache,
    progress: Progress = silent,
    cancel: CancelToken | None = None,
    *,
    rate: Rate | None = None,
    folders: Iterable[str | os.PathLike[str]] = (),
    reference: str | os.PathLike[str] | None = None,
    runner: Runner = run_here,
) -> TakenLock:
    """Everything from a movie or a timeline to a framing of each shot for each master.

    A flat ``reference`` movie says where the pictures were placed if the timeline does not. A ``runner`` may look
    through the lock elsewhere.
    """
    taken = take_lock(path, rate, folders, cache.folder, portion(progress, 0, 0.05), cancel)
    doc = taken.doc
    if reference is not None:
        found = estimate_placements(doc, reference, portion(progress, 0.05, 0.1), cancel)
        doc = edits.place_shots(doc, found.placements)
    for master in masters:
        doc = edits.add_master(doc, master)
    analysis = look_through(doc, cache, portion(progress, 0.1, 1), cancel, runner=runner)
    if doc.lock.flat:
        doc = with_cuts(doc, analysis)
    return replace(taken, doc=with_framings(doc, analysis, cancel=cancel))
