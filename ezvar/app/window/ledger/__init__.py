"""The ledger: its rows, how they are drawn, and the list itself."""

from .ledger import Ledger

__all__ = ["Ledger"]
