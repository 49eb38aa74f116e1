"""Making the finished movies, and checking what was made."""

from .check import check_made
from .make import Made, make_master, output_name, parse_range

__all__ = ["Made", "check_made", "make_master", "output_name", "parse_range"]
