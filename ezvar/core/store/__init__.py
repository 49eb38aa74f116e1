"""What Ezvar keeps: project files, and the cache of what was computed."""

from .arrangements import arrangements_file, load_arrangements, save_arrangements
from .cache import Cache, default_cache
from .files import write_atomically
from .journal import Journal, Leftover, leftovers
from .preferences import TEXT_SIZES, Preferences, Theme, load_preferences, preferences_file, save_preferences
from .project import SCHEMA, dump_decisions, load_project, parse_framing, save_project
from .sets import MasterSet, Sets, load_sets, save_sets, sets_file

__all__ = [
    "SCHEMA",
    "TEXT_SIZES",
    "Cache",
    "Journal",
    "Leftover",
    "MasterSet",
    "Preferences",
    "Sets",
    "Theme",
    "arrangements_file",
    "default_cache",
    "dump_decisions",
    "leftovers",
    "load_arrangements",
    "load_preferences",
    "load_project",
    "load_sets",
    "parse_framing",
    "preferences_file",
    "save_arrangements",
    "save_preferences",
    "save_project",
    "save_sets",
    "sets_file",
    "write_atomically",
]
