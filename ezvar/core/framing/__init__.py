"""Where windows lie: geometry, paths, the solver, doubt."""

from .doubts import NEEDS_A_LOOK, doubt, enlargement, reasons_for, sentences
from .geometry import Size, Window, clamped, fit_zoom, pixel_zoom, window
from .moves import placed, put_by_hand, resting, shifted
from .path import CropWindow, crop_windows, framed, key_at, pane_aspect, pane_window, picture_size, plain
from .solver import solve

__all__ = [
    "NEEDS_A_LOOK",
    "CropWindow",
    "Size",
    "Window",
    "clamped",
    "crop_windows",
    "doubt",
    "enlargement",
    "fit_zoom",
    "framed",
    "key_at",
    "pane_aspect",
    "pane_window",
    "picture_size",
    "pixel_zoom",
    "placed",
    "plain",
    "put_by_hand",
    "reasons_for",
    "resting",
    "sentences",
    "shifted",
    "solve",
    "window",
]
