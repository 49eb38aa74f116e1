"""Where windows lie: geometry, paths, the solver, doubt."""

from .asking import known_again, sight_of, subject_shown, subjects_in
from .beads import bent, copied_keys, eased_keys, moved_keys, snapped, way_come
from .camera_positions import setups
from .choosing import ask, follow, follow_from, follow_too, followed, keep_both, pair_of
from .doubt_list import Doubted, doubted
from .doubts import NEEDS_A_LOOK, enlargement, sentences
from .enlarging import Enlarged, enlarged, enlargements
from .geometry import Size, Window, clamped, fit_zoom, pixel_zoom, placed_window, window
from .giving import Given, Part, Way, carried, give, paste, reset
from .handles import Handle, handle_at, size_factor, turn_handle, turned_by, with_values
from .moves import placed, put_by_hand, resting, shifted, standing, turned, with_key, without_keys, zoomed
from .offers import Remedy, apply_remedy, remedies
from .optimal import load_solver
from .pace import MIDDLE, pace_of, words
from .path import (
    CropWindow,
    bend_through,
    crop_windows,
    eased,
    framed,
    key_at,
    pane_aspect,
    pane_picture_size,
    pane_shot,
    pane_window,
    picture_size,
    plain,
)
from .sampled import band
from .sharing import ARRANGEMENTS, in_one_pane, in_two_panes, rects_of, share, shows
from .solver import judged, not_kept, solve, solve_shot, solved_with

__all__ = [
    "ARRANGEMENTS",
    "MIDDLE",
    "NEEDS_A_LOOK",
    "CropWindow",
    "Doubted",
    "Enlarged",
    "Given",
    "Handle",
    "Part",
    "Remedy",
    "Size",
    "Way",
    "Window",
    "apply_remedy",
    "ask",
    "band",
    "bend_through",
    "bent",
    "carried",
    "clamped",
    "copied_keys",
    "crop_windows",
    "doubted",
    "eased",
    "eased_keys",
    "enlarged",
    "enlargement",
    "enlargements",
    "fit_zoom",
    "follow",
    "follow_from",
    "follow_too",
    "followed",
    "framed",
    "give",
    "handle_at",
    "in_one_pane",
    "in_two_panes",
    "judged",
    "keep_both",
    "key_at",
    "known_again",
    "load_solver",
    "moved_keys",
    "not_kept",
    "pace_of",
    "pair_of",
    "pane_aspect",
    "pane_picture_size",
    "pane_shot",
    "pane_window",
    "paste",
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
    "size_factor",
    "snapped",
    "solve",
    "solve_shot",
    "solved_with",
    "standing",
    "subject_shown",
    "subjects_in",
    "turn_handle",
    "turned",
    "turned_by",
    "way_come",
    "window",
    "with_key",
    "with_values",
    "without_keys",
    "words",
    "zoomed",
]
