"""What Ezvar keeps: project files, and the cache of what was computed."""

from .cache import Cache, default_cache
from .files import write_atomically
from .project import SCHEMA, dump_decisions, load_project, parse_framing, save_project

__all__ = [
    "SCHEMA",
    "Cache",
    "default_cache",
    "dump_decisions",
    "load_project",
    "parse_framing",
    "save_project",
    "write_atomically",
]
