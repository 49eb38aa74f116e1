"""Text and graphics: where they stand in a master."""

from .placing import SAFE, Fit, fit

__all__ = ["SAFE", "Fit", "fit"]
