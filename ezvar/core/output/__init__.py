"""Making the finished movies, and checking what was made."""

from .before import Concern, before_making
from .checking import check_row
from .job import forget_parts
from .listing import changed_since, colours_of, is_as_ordered, listed_rows, parts_of, row_of_listed
from .looks import Live, PartLook, RowLook, facts_of, row_look, size_said
from .making import made_rows, make_rows
from .naming import FIELDS, named, renamed, row_names, targets, told_as
from .orders import Doing, Made, OnPart, Order, nobody
from .rows import parse_range, row_of, rows_named
from .segments import file_stamp, parted, segment_name
from .tasks import row_tasks

__all__ = [
    "FIELDS",
    "Concern",
    "Doing",
    "Live",
    "Made",
    "OnPart",
    "Order",
    "PartLook",
    "RowLook",
    "before_making",
    "changed_since",
    "check_row",
    "colours_of",
    "facts_of",
    "file_stamp",
    "forget_parts",
    "is_as_ordered",
    "listed_rows",
    "made_rows",
    "make_rows",
    "named",
    "nobody",
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
    "size_said",
    "targets",
    "told_as",
]
