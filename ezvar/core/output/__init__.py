"""Making the finished movies, and checking what was made."""

from .check import check_made
from .delivery import Delivery, deliveries, output_name, output_path, renamed
from .make import Made, make_delivery, parse_range
from .tasks import movie_task

__all__ = [
    "Delivery",
    "Made",
    "check_made",
    "deliveries",
    "make_delivery",
    "movie_task",
    "output_name",
    "output_path",
    "parse_range",
    "renamed",
]
