"""One movie written: its pictures, its sound, and what it says of itself."""

from .movie import DELIVERY, REVIEW, THREADS, MovieWriter, Settings

__all__ = ["DELIVERY", "REVIEW", "THREADS", "MovieWriter", "Settings"]
