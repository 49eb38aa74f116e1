"""Ezvar reframes a locked horizontal edit for other shapes."""

__version__ = "0.1.0"
