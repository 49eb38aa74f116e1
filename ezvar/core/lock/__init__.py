"""Taking a lock in: movies and timelines, their media, and the lock's pictures and sound."""

from .clips import LooseClip, lock_from_clips
from .estimate import Estimated, estimate_placements
from .files import SUFFIXES, open_otio, plain
from .movie import lock_from_movie, media_from_facts
from .pictures import Layer, LockReader, layers_at, lock_content, media_frames
from .placement import shown_part, used_part, used_size
from .reference import Conformed, Difference, conform
from .relink import Guess, Search, find_media, link, missing
from .relocking import Carried, Match, carry, match_by_picture, match_by_source
from .sound import Silence, lock_sound, peaks, silences
from .take import RateNeeded, TakenLock, is_timeline, take_lock

__all__ = [
    "SUFFIXES",
    "Carried",
    "Conformed",
    "Difference",
    "Estimated",
    "Guess",
    "Layer",
    "LockReader",
    "LooseClip",
    "Match",
    "RateNeeded",
    "Search",
    "Silence",
    "TakenLock",
    "carry",
    "conform",
    "estimate_placements",
    "find_media",
    "is_timeline",
    "layers_at",
    "link",
    "lock_content",
    "lock_from_clips",
    "lock_from_movie",
    "lock_sound",
    "match_by_picture",
    "match_by_source",
    "media_frames",
    "media_from_facts",
    "missing",
    "open_otio",
    "peaks",
    "plain",
    "shown_part",
    "silences",
    "take_lock",
    "used_part",
    "used_size",
]
