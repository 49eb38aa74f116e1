"""Taking a lock in. A flat movie for now."""

from .movie import lock_from_movie, media_from_facts

__all__ = ["lock_from_movie", "media_from_facts"]
