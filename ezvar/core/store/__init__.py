"""What Ezvar keeps: project files, and the cache of what was computed."""

from .cache import Cache, default_cache, pack_arrays, unpack_arrays
from .files import in_place_of, part_beside, remove_leftovers, write_atomically
from .holding import Hold, holder_of
from .journal import Journal, Leftover, leftovers
from .listing import parsed, read_listing, write_listing
from .migrations import SCHEMA
from .named_list import Named, NamedList
from .pieces import Piece, covering, gaps, joined_up, piece_name, pieces_in
from .plain_json import dump_plain, parse_plain
from .preferences import TEXT_SIZES, Preferences, Theme, load_preferences, preferences_file, save_preferences
from .project import (
    dump_decisions,
    dump_note,
    dump_title,
    framing_schema,
    load_project,
    note_schema,
    parse_framing,
    parse_note,
    read_project,
)
from .reports import (
    MistakeReport,
    all_went_well,
    fell_before,
    kept_reports,
    our_mistake,
    report_of,
    report_text,
    watch_for_faults,
)
from .revisions import forget_later, keep_later, later_of, packed, unpacked
from .saving import ProjectChanged, occupied, save_project, update_project
from .sets import MasterSet, Sets, load_sets, save_sets, sets_file
from .user_files import user_file

__all__ = [
    "SCHEMA",
    "TEXT_SIZES",
    "Cache",
    "Hold",
    "Journal",
    "Leftover",
    "MasterSet",
    "MistakeReport",
    "Named",
    "NamedList",
    "Piece",
    "Preferences",
    "ProjectChanged",
    "Sets",
    "Theme",
    "all_went_well",
    "covering",
    "default_cache",
    "dump_decisions",
    "dump_note",
    "dump_plain",
    "dump_title",
    "fell_before",
    "forget_later",
    "framing_schema",
    "gaps",
    "holder_of",
    "in_place_of",
    "joined_up",
    "keep_later",
    "kept_reports",
    "later_of",
    "leftovers",
    "load_preferences",
    "load_project",
    "load_sets",
    "note_schema",
    "occupied",
    "our_mistake",
    "pack_arrays",
    "packed",
    "parse_framing",
    "parse_note",
    "parse_plain",
    "parsed",
    "part_beside",
    "piece_name",
    "pieces_in",
    "preferences_file",
    "read_listing",
    "read_project",
    "remove_leftovers",
    "report_of",
    "report_text",
    "save_preferences",
    "save_project",
    "save_sets",
    "sets_file",
    "unpack_arrays",
    "unpacked",
    "update_project",
    "user_file",
    "watch_for_faults",
    "write_atomically",
    "write_listing",
]
