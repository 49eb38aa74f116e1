"""Making the finished movies, and checking what was made."""

from .checking import check_row, made_in, order_again, side_by_side
from .checks import check_task
from .heard import choices_heard
from .job import forget_parts
from .listed.before import Concern, before_making
from .listed.expecting import Expected, expected
from .listed.listing import changed_since, colours_of, is_as_ordered, listed_rows, parts_of, row_of_listed
from .listed.looks import Live, PartLook, RowLook, coming_said, facts_of, row_look
from .making import made_rows, make_rows
from .naming import FIELDS, named, renamed, row_names, targets, told_as
from .orders import Doing, Made, OnPart, Order, nobody
from .receiving import RECEIVERS_KEPT, known_receivers, not_taken
from .rows import frame_named, parse_range, row_of, rows_named
from .segments import file_stamp, parted, segment_name
from .sending import RECEIVER, send
from .stills import STILLS, write_contact_sheets, write_still
from .tasks import row_tasks

__all__ = [
    "FIELDS",
    "RECEIVER",
    "RECEIVERS_KEPT",
    "STILLS",
    "Concern",
    "Doing",
    "Expected",
    "Live",
    "Made",
    "OnPart",
    "Order",
    "PartLook",
    "RowLook",
    "before_making",
    "changed_since",
    "check_row",
    "check_task",
    "choices_heard",
    "colours_of",
    "coming_said",
    "expected",
    "facts_of",
    "file_stamp",
    "forget_parts",
    "frame_named",
    "is_as_ordered",
    "known_receivers",
    "listed_rows",
    "made_in",
    "made_rows",
    "make_rows",
    "named",
    "nobody",
    "not_taken",
    "order_again",
    "parse_range",
    "parted",
    "parts_of",
    "renamed",
    "row_look",
    "row_names",
    "row_of",
    "row_of_listed",
    "row_tasks",
    "rows_named",
    "segment_name",
    "send",
    "side_by_side",
    "targets",
    "told_as",
    "write_contact_sheets",
    "write_still",
]
