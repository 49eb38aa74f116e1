"""From a movie to a planned document: the steps of the lock, cuts and framing stages in one call."""

from __future__ import annotations

import os
from collections.abc import Iterable
from dataclasses import replace

from ezvar.core.cuts import judge
from ezvar.core.errors import MediaError
from ezvar.core.evidence import Analysis, analyse
from ezvar.core.framing import solve
from ezvar.core.lock import lock_from_movie
from ezvar.core.media import MovieReader, probe
from ezvar.core.model import Document, Master, Shot, Source, edits
from ezvar.core.progress import CancelToken, Progress, silent
from ezvar.core.store import Cache


def new_document(path: str | os.PathLike[str]) -> Document:
    """A flat movie taken in: its lock, as one shot, without masters."""
    lock = lock_from_movie(probe(path))
    shot = Shot(edits.new_id(), 0, lock.frames, Source(lock.media[0].id, 0))
    return Document(lock, (shot,))


def analysis_of(
    doc: Document, cache: Cache, progress: Progress = silent, cancel: CancelToken | None = None
) -> Analysis:
    """What is seen in the lock's movie, from the cache or by reading it once."""
    media = doc.lock.media[0]
    with MovieReader(media.path) as reader:
        if reader.facts.frames != media.frames:
            raise MediaError(
                f"it now has {reader.facts.frames} frames, not {media.frames}",
                file=media.path,
                remedy="Put the locked movie back, or begin a new project with this one",
            )
        return analyse(reader, media.content, cache, progress, cancel)


def with_cuts(doc: Document, analysis: Analysis) -> Document:
    """The document with its lock split into the shots that the analysis shows. Framings go with the old shots."""
    cuts = judge(analysis.signals)
    return edits.set_shots(doc, edits.shots_from_cuts(doc.lock, doc.lock.media[0].id, cuts))


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


def plan(
    path: str | os.PathLike[str],
    masters: Iterable[Master],
    cache: Cache,
    progress: Progress = silent,
    cancel: CancelToken | None = None,
) -> Document:
    """Everything from a flat movie to a framing of each shot for each master."""
    doc = new_document(path)
    for master in masters:
        doc = edits.add_master(doc, master)
    analysis = analysis_of(doc, cache, progress, cancel)
    return with_framings(with_cuts(doc, analysis), analysis)
