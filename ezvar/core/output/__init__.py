"""Making the finished movies, and checking what was made."""

from .check import check_made
from .delivery import Delivery, deliveries, output_name, output_path, renamed
from .make import Made, make_delivery, parse_range

__all__ = [
    "Delivery",
    "Made",
    "check_made",
    "deliveries",
    "make_delivery",
    "output_name",
    "output_path",
    "parse_range",
    "renamed",
]
