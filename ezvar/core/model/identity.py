"""What tells one lock from another."""

from __future__ import annotations

import hashlib

from .document import Document, Shot


def lock_identity(doc: Document) -> str:
    """A name for what is locked, the same wherever its media are.

    A flat movie's is its content. A timeline's covers what its cuts are and
    what they show, in seconds of each media: two versions of one name and
    length are two locks. Cuts that an editor has made inside a clip do not
    matter.
    """
    if doc.lock.flat and doc.lock.media:
        return doc.lock.media[0].content
    lock = doc.lock
    said: list[object] = [lock.name, str(lock.rate), lock.frames, lock.start]
    last: Shot | None = None
    for shot in doc.shots:
        if last is None or not _goes_on(last, shot):
            media = doc.media_of(shot)
            at = float(round(media.origin + shot.source.start / media.rate.fraction, 3))
            mix = (shot.cut.kind, shot.cut.start, shot.cut.end) if shot.cut else ()
            said.append((shot.start, media.id, media.name, media.reel, at, mix))
        last = shot
    return hashlib.sha256(repr(said).encode(errors="surrogatepass")).hexdigest()[:32]


def _goes_on(before: Shot, after: Shot) -> bool:
    """Whether a shot only goes on with the clip of the one before it."""
    mixed = after.cut is not None and after.cut.end > after.cut.start
    return not mixed and before.source.later(before.frames) == after.source
