"""Movies: facts, frame-exact pictures, cached and read ahead, and their sound."""

from .cache import FrameCache
from .colour import ColourTags
from .container import fingerprint
from .facts import MOVIE_SUFFIXES, AudioFacts, MovieFacts, media_label, probe
from .picture import Picture
from .planes import Planes
from .proxy import Proxy
from .reader import MovieReader
from .recoding import coding_levels, luma_weights
from .server import FrameServer, FrameSource
from .sound import SOUND_RATE, SOUND_SUFFIXES, SoundFacts, probe_sound, sound_blocks
from .still import STILL_SUFFIXES, Still, black, read_still

__all__ = [
    "MOVIE_SUFFIXES",
    "SOUND_RATE",
    "SOUND_SUFFIXES",
    "STILL_SUFFIXES",
    "AudioFacts",
    "ColourTags",
    "FrameCache",
    "FrameServer",
    "FrameSource",
    "MovieFacts",
    "MovieReader",
    "Picture",
    "Planes",
    "Proxy",
    "SoundFacts",
    "Still",
    "black",
    "coding_levels",
    "fingerprint",
    "luma_weights",
    "media_label",
    "probe",
    "probe_sound",
    "read_still",
    "sound_blocks",
]
