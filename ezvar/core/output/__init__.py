"""Making the finished movies, and checking what was made."""

from .check import check_made
from .making import make_rows
from .naming import FIELDS, named, renamed, row_names, targets, told_as
from .orders import Made, OnPart, Order, nobody
from .rows import parse_range, row_of, rows_of
from .segments import file_stamp, parted, segment_name
from .tasks import row_tasks

__all__ = [
    "FIELDS",
    "Made",
    "OnPart",
    "Order",
    "check_made",
    "file_stamp",
    "make_rows",
    "named",
    "nobody",
    "parse_range",
    "parted",
    "renamed",
    "row_names",
    "row_of",
    "row_tasks",
    "rows_of",
    "segment_name",
    "targets",
    "told_as",
]
