"""Where windows lie: geometry, paths, the solver, doubt."""

from .asking import known_again, sight_of, subject_shown, subjects_in
from .camera_positions import setups
from .doubt_list import Doubted, doubted
from .doubts import NEEDS_A_LOOK, doubt, enlargement, sentences
from .enlarging import Enlarged, enlarged, enlargements
from .geometry import Size, Window, clamped, fit_zoom, pixel_zoom, placed_window, window
from .giving import Given, carried, give, reset
from .moves import placed, put_by_hand, resting, shifted, standing, with_key, without_keys, zoomed
from .offers import Remedy, apply_remedy, remedies
from .optimal import load_solver
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
from .sharing import ARRANGEMENTS, in_one_pane, in_two_panes, rects_of, share, shows
from .solver import judged, solve, solve_shot, solved_with

__all__ = [
    "ARRANGEMENTS",
    "MIDDLE",
    "NEEDS_A_LOOK",
    "CropWindow",
    "Doubted",
    "Enlarged",
    "Given",
    "Remedy",
    "Size",
    "Window",
    "apply_remedy",
    "carried",
    "clamped",
    "crop_windows",
    "doubt",
    "doubted",
    "enlarged",
    "enlargement",
    "enlargements",
    "fit_zoom",
    "framed",
    "give",
    "in_one_pane",
    "in_two_panes",
    "judged",
    "key_at",
    "known_again",
    "load_solver",
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
    "rects_of",
    "remedies",
    "reset",
    "resting",
    "sentences",
    "setups",
    "share",
    "shifted",
    "shows",
    "sight_of",
    "solve",
    "solve_shot",
    "solved_with",
    "standing",
    "subject_shown",
    "subjects_in",
    "window",
    "with_key",
    "without_keys",
    "words",
    "zoomed",
]
