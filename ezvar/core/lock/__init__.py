"""Taking a lock in: movies and timelines, their media, and the lock's pictures and sound."""

from .clips import LooseClip, lock_from_clips
from .colours import coloured, coloured_proxy, hdr_media, media_tags, tables_for
from .estimate import Estimated, estimate_placements
from .layers import NotDrawn, not_drawn
from .matching import cut_as_before, match_by_picture, match_by_source
from .mixes import Mix, mix_at, mix_of, parts_at
from .movie import lock_from_movie, media_from_facts
from .pictures import LockReader, is_deep, media_frames
from .placement import shown_part, used_part, used_size
from .proxies import proxy_of
from .reference import Conformed, Difference, conform
from .relink import Guess, Search, find_media, link, missing
from .sound import Silence, SoundTrack, lock_sound, peaks, silences, sound_tracks
from .strips import Run, lock_content, runs
from .take import RateNeeded, TakenLock, is_timeline, take_lock
from .tasks import loudness_task, sweep_task

__all__ = [
    "Conformed",
    "Difference",
    "Estimated",
    "Guess",
    "LockReader",
    "LooseClip",
    "Mix",
    "NotDrawn",
    "RateNeeded",
    "Run",
    "Search",
    "Silence",
    "SoundTrack",
    "TakenLock",
    "coloured",
    "coloured_proxy",
    "conform",
    "cut_as_before",
    "estimate_placements",
    "find_media",
    "hdr_media",
    "is_deep",
    "is_timeline",
    "link",
    "lock_content",
    "lock_from_clips",
    "lock_from_movie",
    "lock_sound",
    "loudness_task",
    "match_by_picture",
    "match_by_source",
    "media_frames",
    "media_from_facts",
    "media_tags",
    "missing",
    "mix_at",
    "mix_of",
    "not_drawn",
    "parts_at",
    "peaks",
    "proxy_of",
    "runs",
    "shown_part",
    "silences",
    "sound_tracks",
    "sweep_task",
    "tables_for",
    "take_lock",
    "used_part",
    "used_size",
]
