"""Movies: facts, frame-exact pictures, cached and read ahead, and their sound."""

from .cache import FrameCache
from .colour import ColourTags
from .container import fingerprint
from .picture import Picture, Planes
from .probe import AudioFacts, MovieFacts, probe
from .proxy import Proxy
from .reader import MovieReader
from .server import FrameServer
from .sound import SOUND_RATE, peaks, sound_blocks

__all__ = [
    "SOUND_RATE",
    "AudioFacts",
    "ColourTags",
    "FrameCache",
    "FrameServer",
    "MovieFacts",
    "MovieReader",
    "Picture",
    "Planes",
    "Proxy",
    "fingerprint",
    "peaks",
    "probe",
    "sound_blocks",
]
