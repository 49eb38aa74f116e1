"""Everything that stands between a project and its finished movies."""

from __future__ import annotations

from pathlib import Path

from ezvar.core.errors import EzvarError
from ezvar.core.media import fingerprint, probe
from ezvar.core.model import Document


def problems(doc: Document) -> list[str]:
    """Every problem of a project, a sentence each. Opens its media."""
    found: list[str] = []
    for media in doc.lock.media:
        name = Path(media.path).name
        try:
            facts = probe(media.path)
            if facts.frames != media.frames or facts.rate != media.rate:
                found.append(f"{name} is no longer the movie that was taken in: its length or rate differs.")
            elif fingerprint(media.path) != media.content:
                found.append(f"{name} is no longer the movie that was taken in: its content differs.")
        except EzvarError as error:
            found.append(str(error))
    if not doc.masters:
        found.append("There is no master yet.")
    for master in doc.masters:
        missing = [str(k) for k, shot in enumerate(doc.shots, 1) if doc.framing(shot.id, master.id) is None]
        if missing:
            found.append(f"{master.name}: no framing is decided for shot {', '.join(missing)}.")
        for part in master.ranges:
            if not 0 <= part.start < part.end <= doc.lock.frames:
                found.append(f"{master.name}: the range {part.name} lies outside the lock.")
            elif part.limit_seconds and doc.lock.rate.seconds(part.end - part.start) > part.limit_seconds:
                found.append(f"{master.name}: the range {part.name} is longer than {part.limit_seconds:g} s.")
    return found
