"""Checking finished movies: their facts, their pictures drawn a second time, their sound, their captions."""

from .again import made_in, order_again, side_by_side
from .facts import Expected, check_facts
from .rows import check_row

__all__ = ["Expected", "check_facts", "check_row", "made_in", "order_again", "side_by_side"]
