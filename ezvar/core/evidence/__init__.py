"""What the analysis saw: faces, text and what moves by itself, kept for later and joined to subjects."""

from .analysis import Analysis, analyse, cached_analysis
from .faces import FaceFinder
from .gather import Evidence, Gatherer, nothing_seen
from .regions import Region, RegionKind
from .subject import Subject
from .subjects import subjects_of
from .text import TextFinder
from .tracking import Track, track

__all__ = [
    "Analysis",
    "Evidence",
    "FaceFinder",
    "Gatherer",
    "Region",
    "RegionKind",
    "Subject",
    "TextFinder",
    "Track",
    "analyse",
    "cached_analysis",
    "nothing_seen",
    "subjects_of",
    "track",
]
