"""Every change of the document that needs nothing above the model, as a pure function ``Document -> Document``.

The app wraps each in an undo step; the command line and the tests call the
same. None of these solves a framing or keeps a window inside its picture:
rooms above compute values that an edit here puts in place.
"""

from .captions import (
    add_track,
    change_track,
    differ,
    differ_by,
    join_captions,
    put_captions,
    remove_captions,
    remove_track,
    replace_text,
    retime,
    set_style,
    set_text,
    shift_captions,
    split_caption,
)
from .cuts import (
    add_cut,
    dismiss,
    drop,
    find_anew,
    goes_on,
    keep,
    move_cut,
    remove_cut,
    set_shots,
    settle_cut,
    shots_from_cuts,
)
from .framings import draw_subject, hold, keep_present, let_go_aside, set_framings, set_keyframe, swap_held
from .links import MediaLink, link_media
from .lock import place_shots, size_by_media, turn_rule, turn_uses
from .masters import add_master, change_master, duplicate_master, move_master, remove_master
from .past import bring_back, note_returns, past_of, remember, set_shared
from .relocking import Carried, Match, carry
from .review import say_note, set_exchanged, set_played, set_verdict, take_decisions, take_notes, withdraw_note
from .textless import link_textless, use_textless
from .titles import anchor_layer, place_items, put_title, remove_title, retime_title, set_title_lane, stand_beside

__all__ = [
    "Carried",
    "Match",
    "MediaLink",
    "add_cut",
    "add_master",
    "add_track",
    "anchor_layer",
    "bring_back",
    "carry",
    "change_master",
    "change_track",
    "differ",
    "differ_by",
    "dismiss",
    "draw_subject",
    "drop",
    "duplicate_master",
    "find_anew",
    "goes_on",
    "hold",
    "join_captions",
    "keep",
    "keep_present",
    "let_go_aside",
    "link_media",
    "link_textless",
    "move_cut",
    "move_master",
    "note_returns",
    "past_of",
    "place_items",
    "place_shots",
    "put_captions",
    "put_title",
    "remember",
    "remove_captions",
    "remove_cut",
    "remove_master",
    "remove_title",
    "remove_track",
    "replace_text",
    "retime",
    "retime_title",
    "say_note",
    "set_exchanged",
    "set_framings",
    "set_keyframe",
    "set_played",
    "set_shared",
    "set_shots",
    "set_style",
    "set_text",
    "set_title_lane",
    "set_verdict",
    "settle_cut",
    "shift_captions",
    "shots_from_cuts",
    "size_by_media",
    "split_caption",
    "stand_beside",
    "swap_held",
    "take_decisions",
    "take_notes",
    "turn_rule",
    "turn_uses",
    "use_textless",
    "withdraw_note",
]
