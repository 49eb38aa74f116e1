"""From a movie to a planned document: the steps of the lock, cuts and framing stages in one call."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable
from dataclasses import replace

from ezvar.core.cuts import judge
from ezvar.core.errors import EzvarError, TimelineError
from ezvar.core.evidence import Analysis, analyse
from ezvar.core.framing import solve
from ezvar.core.lock import (
    Carried,
    LockReader,
    TakenLock,
    carry,
    estimate_placements,
    lock_content,
    match_by_picture,
    match_by_source,
    take_lock,
)
from ezvar.core.model import Document, Master, Shot, edits
from ezvar.core.progress import CancelToken, Progress, part, silent
from ezvar.core.store import Cache
from ezvar.core.timing import Rate


def analysis_of(
    doc: Document, cache: Cache, progress: Progress = silent, cancel: CancelToken | None = None
) -> Analysis:
    """What is seen in the lock, from the cache or by reading it once.

    Missing media of a timeline show nothing; of a flat lock they raise `MediaError`.
    """
    with LockReader(doc, _raise_if_flat(doc)) as reader:
        return analyse(reader.frames, doc.lock.frames, lock_content(doc), cache, progress, cancel)


def _raise_if_flat(doc: Document) -> Callable[[str, EzvarError], None]:
    def missing(media: str, error: EzvarError) -> None:
        if doc.lock.flat:
            raise error

    return missing


def with_cuts(doc: Document, analysis: Analysis) -> Document:
    """The document with its lock split into the shots that the analysis shows. Framings go with the old shots."""
    judged = judge(analysis.signals, candidates=analysis.candidates)
    cut = edits.set_shots(doc, edits.shots_from_cuts(doc.lock, doc.lock.media[0].id, judged.cuts))
    return replace(cut, passed=judged.passed)


def with_framings(
    doc: Document, analysis: Analysis, masters: Iterable[Master] | None = None, shots: Iterable[Shot] | None = None
) -> Document:
    """Solve framings anew, for all masters and shots where none are given. Agreed ones and those by hand stay."""
    chosen = tuple(doc.shots if shots is None else shots)
    solved = []
    for master in doc.masters if masters is None else masters:
        for framing in solve(doc, master, analysis, chosen):
            old = doc.framing(framing.shot, framing.master)
            if old is None or (old.decided == "solved" and old.verdict != "agreed"):
                solved.append(replace(framing, verdict=old.verdict if old else "open"))
    return edits.set_framings(doc, solved)


def relocked(
    old: Document,
    path: str | os.PathLike[str],
    cache: Cache,
    progress: Progress = silent,
    cancel: CancelToken | None = None,
    *,
    rate: Rate | None = None,
    folders: Iterable[str | os.PathLike[str]] = (),
) -> tuple[Document, list[Carried]]:
    """A lock that was changed, with every decision of the old document carried over, and what became of each shot.

    Timelines are matched by what their shots show of which media, flat movies
    by their pictures, for which both are read through.
    """
    taken = take_lock(path, rate or (None if old.lock.flat else old.lock.rate), folders, cache.folder, progress, cancel)
    new = taken.doc
    if new.lock.rate != old.lock.rate:
        raise TimelineError(
            f"it has {new.lock.rate} frames a second, the lock had {old.lock.rate}", file=path,
            remedy="Begin a new project with it",
        )  # fmt: skip
    if not new.lock.flat and not old.lock.flat:
        return carry(old, new, match_by_source(old, new))
    before = analysis_of(old, cache, part(progress, 0.1, 0.5), cancel).signals.thumbs
    analysis = analysis_of(new, cache, part(progress, 0.5, 1), cancel)
    if new.lock.flat:
        new = with_cuts(new, analysis)
    return carry(old, new, match_by_picture(old, new, before, analysis.signals.thumbs))


def resized(doc: Document, master: str, width: int, height: int, analysis: Analysis | None) -> Document:
    """The document with a master in another size.

    Framings by hand and agreed ones keep their centres and zooms; solved ones
    are solved again where there is an analysis, and keep theirs too where not.
    Raises `ValueError` for a size that cannot be.
    """
    doc = edits.change_master(doc, replace(doc.master(master), width=width, height=height))
    return doc if analysis is None else with_framings(doc, analysis, [doc.master(master)])


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
) -> TakenLock:
    """Everything from a movie or a timeline to a framing of each shot for each master.

    A flat ``reference`` movie says where the pictures were placed if the timeline does not.
    """
    taken = take_lock(path, rate, folders, cache.folder, part(progress, 0, 0.05), cancel)
    doc = taken.doc
    if reference is not None:
        found = estimate_placements(doc, reference, part(progress, 0.05, 0.1), cancel)
        doc = edits.place_shots(doc, found.placements)
    for master in masters:
        doc = edits.add_master(doc, master)
    analysis = analysis_of(doc, cache, part(progress, 0.1, 1), cancel)
    if doc.lock.flat:
        doc = with_cuts(doc, analysis)
    return replace(taken, doc=with_framings(doc, analysis))
