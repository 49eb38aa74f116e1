"""A flat movie as a lock: its facts become the lock's, and it is its own only media."""

from __future__ import annotations

import os

from ezvar.core.media import MovieFacts, fingerprint
from ezvar.core.model import Lock, Media
from ezvar.core.names import readable


def media_from_facts(facts: MovieFacts) -> Media:
    """The document's note of a movie. Reads samples of the file for its fingerprint."""
    return Media(
        id="m1",
        path=os.path.realpath(facts.path),
        width=facts.width,
        height=facts.height,
        rate=facts.rate,
        frames=facts.frames,
        start=facts.start,
        has_sound=facts.audio is not None,
        turned=facts.rotation,
        content=fingerprint(facts.path),
    )


def lock_from_movie(facts: MovieFacts) -> Lock:
    """The lock that a flat movie is: its rate, length, size and start timecode."""
    return Lock(
        name=readable(facts.path.stem),
        rate=facts.rate,
        frames=facts.frames,
        width=facts.width,
        height=facts.height,
        start=facts.start,
        drop=facts.drop,
        media=(media_from_facts(facts),),
    )
