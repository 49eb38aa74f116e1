"""What Ezvar keeps: project files, and the cache of what was computed."""

from .arrangements import arrangements_file, load_arrangements, save_arrangements
from .cache import Cache, default_cache
from .files import write_atomically
from .journal import Journal, Leftover, leftovers
from .project import SCHEMA, dump_decisions, load_project, parse_framing, save_project
from .sets import MasterSet, Sets, load_sets, save_sets, sets_file

__all__ = [
    "SCHEMA",
    "Cache",
    "Journal",
    "Leftover",
    "MasterSet",
    "Sets",
    "arrangements_file",
    "default_cache",
    "dump_decisions",
    "leftovers",
    "load_arrangements",
    "load_project",
    "load_sets",
    "parse_framing",
    "save_arrangements",
    "save_project",
    "save_sets",
    "sets_file",
    "write_atomically",
]
