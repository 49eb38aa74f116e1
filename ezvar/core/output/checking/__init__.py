"""Checking finished movies: their facts, their pictures drawn a second time, their sound, their captions."""

from .facts import Expected, check_facts
from .rows import check_row

__all__ = ["Expected", "check_facts", "check_row"]
