"""Making the finished movies, and checking what was made."""

from .check import check_made
from .make import Delivery, Made, deliveries, make_delivery, output_name, parse_range

__all__ = ["Delivery", "Made", "check_made", "deliveries", "make_delivery", "output_name", "parse_range"]
