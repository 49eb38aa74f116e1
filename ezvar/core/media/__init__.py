"""Movies: facts, frame-exact pictures and their sound."""

from .cel import Cel, black_of, cel_of, laid_over, read_cel
from .colour import ColourTags, scaler_matrix, scaler_range
from .container import fingerprint
from .facts import MOVIE_SUFFIXES, AudioFacts, Begun, MovieFacts, media_label, probe, unseen
from .loudness import Loudness, loudness_of
from .picture import Picture, fit_within
from .planes import EIGHT_BIT_420, Planes, SampleForm
from .reader import MovieReader
from .recoding import coding_levels, luma_weights
from .sequence import image_of_sequence, length_of_sequence, numbers_of_sequence
from .sound import SOUND_RATE, SOUND_SUFFIXES, SoundFacts, probe_sound, sound_blocks
from .still import STILL_SUFFIXES, Still, black, read_still

__all__ = [
    "EIGHT_BIT_420",
    "MOVIE_SUFFIXES",
    "SOUND_RATE",
    "SOUND_SUFFIXES",
    "STILL_SUFFIXES",
    "AudioFacts",
    "Begun",
    "Cel",
    "ColourTags",
    "Loudness",
    "MovieFacts",
    "MovieReader",
    "Picture",
    "Planes",
    "SampleForm",
    "SoundFacts",
    "Still",
    "black",
    "black_of",
    "cel_of",
    "coding_levels",
    "fingerprint",
    "fit_within",
    "image_of_sequence",
    "laid_over",
    "length_of_sequence",
    "loudness_of",
    "luma_weights",
    "media_label",
    "numbers_of_sequence",
    "probe",
    "probe_sound",
    "read_cel",
    "read_still",
    "scaler_matrix",
    "scaler_range",
    "sound_blocks",
    "unseen",
]
