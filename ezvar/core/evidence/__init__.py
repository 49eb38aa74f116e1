"""What the analysis saw: faces, text and what moves by itself, kept for later and joined to subjects."""

from .analysis import Analysis
from .damage import Damage, damages
from .finders.faces import FaceFinder
from .finders.text import TextFinder
from .finders.things import GROUPS
from .gather import Evidence, Finders, Gatherer, nothing_seen
from .joining.boxes import covered
from .joining.subjects import subjects_of
from .laid import laid
from .looking import STRETCH, Seen, lead, looked
from .regions import Region, RegionKind
from .stills import SIZE as STILL_SIZE
from .subject import PEOPLE, Subject
from .tasks import kept_analysis, look_tasks, look_through
from .tracking import Track, track

__all__ = [
    "GROUPS",
    "PEOPLE",
    "STILL_SIZE",
    "STRETCH",
    "Analysis",
    "Damage",
    "Evidence",
    "FaceFinder",
    "Finders",
    "Gatherer",
    "Region",
    "RegionKind",
    "Seen",
    "Subject",
    "TextFinder",
    "Track",
    "covered",
    "damages",
    "kept_analysis",
    "laid",
    "lead",
    "look_tasks",
    "look_through",
    "looked",
    "nothing_seen",
    "subjects_of",
    "track",
]
