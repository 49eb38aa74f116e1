"""Where windows lie: geometry, paths, the solver, doubt."""

from .doubt import NEEDS_A_LOOK, doubt, enlargement, sentences
from .geometry import Size, Window, clamped, fit_zoom, pixel_zoom, window
from .moves import placed, shifted
from .path import crop_windows, key_at, pane_aspect, pane_window
from .solver import solve

__all__ = [
    "NEEDS_A_LOOK",
    "Size",
    "Window",
    "clamped",
    "crop_windows",
    "doubt",
    "enlargement",
    "fit_zoom",
    "key_at",
    "pane_aspect",
    "pane_window",
    "pixel_zoom",
    "placed",
    "sentences",
    "shifted",
    "solve",
    "window",
]
