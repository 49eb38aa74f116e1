"""Where windows lie: geometry, paths, the solver, doubt."""

from .asking import sight_of, subjects_in
from .camera_positions import setups
from .doubt_list import Doubted, doubted
from .doubts import NEEDS_A_LOOK, doubt, enlargement, sentences
from .geometry import Size, Window, clamped, fit_zoom, pixel_zoom, placed_window, window
from .moves import placed, put_by_hand, resting, shifted, standing, with_key, without_keys, zoomed
from .pace import MIDDLE, pace_of, words
from .path import (
    CropWindow,
    crop_windows,
    framed,
    key_at,
    pane_aspect,
    pane_picture_size,
    pane_shot,
    pane_window,
    picture_size,
    plain,
)
from .solver import solve, solve_shot

__all__ = [
    "MIDDLE",
    "NEEDS_A_LOOK",
    "CropWindow",
    "Doubted",
    "Size",
    "Window",
    "clamped",
    "crop_windows",
    "doubt",
    "doubted",
    "enlargement",
    "fit_zoom",
    "framed",
    "key_at",
    "pace_of",
    "pane_aspect",
    "pane_picture_size",
    "pane_shot",
    "pane_window",
    "picture_size",
    "pixel_zoom",
    "placed",
    "placed_window",
    "plain",
    "put_by_hand",
    "resting",
    "sentences",
    "setups",
    "shifted",
    "sight_of",
    "solve",
    "solve_shot",
    "standing",
    "subjects_in",
    "window",
    "with_key",
    "without_keys",
    "words",
    "zoomed",
]
