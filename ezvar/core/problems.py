"""Everything that stands between a project and its finished movies."""

from __future__ import annotations

from pathlib import Path

from ezvar.core.encoding import DELIVERY
from ezvar.core.errors import EzvarError
from ezvar.core.evidence import Analysis, damages
from ezvar.core.lock import not_drawn, silences
from ezvar.core.media import STILL_SUFFIXES, fingerprint, probe, read_still
from ezvar.core.model import Document, backdrops_of
from ezvar.core.names import readable
from ezvar.core.output import listed_rows, renamed

_LONG = 20  # seconds; a finished movie longer than this is hardly one shot


def without_cuts(doc: Document) -> bool:
    """Whether a flat movie of some length is one shot, so that it would be framed as one block."""
    return doc.lock.flat and len(doc.shots) == 1 and doc.lock.rate.seconds(doc.lock.frames) > _LONG


def problems(doc: Document, analysis: Analysis | None = None) -> list[str]:
    """Every problem of a project, a sentence each. Opens its media; what is damaged in them is told of an analysis."""
    found: list[str] = []
    for media in doc.lock.media:
        if media.kind == "black":
            continue
        if media.missing:
            places = [str(k) for k, shot in enumerate(doc.shots, 1) if shot.source.media == media.id]
            where = f", used by shot {', '.join(places)}" if places else ""
            found.append(f"{readable(media.name or media.path)} was not found{where}.")
            continue
        name = readable(Path(media.path).name)
        try:
            facts = probe(media.path) if media.kind == "movie" else None
            if facts is not None and (facts.frames, facts.rate) != (media.frames, media.rate):
                found.append(f"{name} is no longer the movie that was taken in: its length or rate differs.")
            elif fingerprint(media.path) != media.content:
                found.append(f"{name} is no longer the media that was taken in: its content differs.")
        except EzvarError as error:
            found.append(str(error))
    for path in sorted(backdrops_of(doc)):
        try:
            (read_still if Path(path).suffix.lower() in STILL_SUFFIXES else probe)(path)
        except EzvarError as error:
            found.append(f"A backdrop cannot be shown: {error}")
    if without_cuts(doc):
        found.append("The cuts of the lock are not found yet: it would be framed as one block.")
    if analysis is not None:
        found += [damage.said(doc.lock) for damage in damages(analysis.damaged)]
    found += [silence.said(doc.lock) for silence in silences(doc)]
    found += [each.said() for each in not_drawn(doc)]
    found += doc.lock.left_out
    if not doc.masters:
        found.append("There is no master yet.")
    found += renamed(doc, listed_rows(doc, DELIVERY))
    for master in doc.masters:
        missing = [str(k) for k, shot in enumerate(doc.shots, 1) if doc.framing(shot.id, master.id) is None]
        if missing:
            found.append(f"{master.name}: no framing is decided for shot {', '.join(missing)}.")
        for part in master.ranges:
            if not 0 <= part.start < part.end <= doc.lock.frames:
                found.append(f"{master.name}: the range {part.name} lies outside the lock.")
            elif part.limit_seconds and doc.lock.rate.seconds(part.end - part.start) > part.limit_seconds:
                found.append(f"{master.name}: the range {part.name} is longer than {part.limit_seconds:g} s.")
    for master in doc.masters:
        if kept := sum(f.master == master.id for f in doc.aside):
            decisions = "a decision on a shot that is" if kept == 1 else f"{kept} decisions on shots that are"
            found.append(f"{master.name}: {decisions} gone lies aside.")
    return found
