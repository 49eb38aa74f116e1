"""One movie written: its pictures, its sound, and what it says of itself."""

from .codecs import CODERS, SOUND_CODERS, SUFFIXES, Coder, wrong_with
from .embedded import EmbeddedCaptions, embedded_as
from .images import ImageWriter, join_images, stem_of
from .kept import PRESETS_KEPT, default_preset, known_presets, preset_named
from .movie import MovieWriter
from .presets import DELIVERY, PRESETS, REVIEW
from .segments import Segment, SegmentWriter, SoundFile, join, segment_suffix, sound_suffix, write_sound
from .streams import THREADS, Pass, PictureForm, tags_in

__all__ = [
    "CODERS",
    "DELIVERY",
    "PRESETS",
    "PRESETS_KEPT",
    "REVIEW",
    "SOUND_CODERS",
    "SUFFIXES",
    "THREADS",
    "Coder",
    "EmbeddedCaptions",
    "ImageWriter",
    "MovieWriter",
    "Pass",
    "PictureForm",
    "Segment",
    "SegmentWriter",
    "SoundFile",
    "default_preset",
    "embedded_as",
    "join",
    "join_images",
    "known_presets",
    "preset_named",
    "segment_suffix",
    "sound_suffix",
    "stem_of",
    "tags_in",
    "write_sound",
    "wrong_with",
]
