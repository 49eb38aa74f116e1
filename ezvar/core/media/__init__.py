"""Movies: facts, frame-exact pictures and their sound."""

from .cel import Cel, black_of, cel_of, laid_over, read_cel
from .colours.cube import CUBE_SUFFIX, ColourTable, known_cube, read_cube
from .colours.light import MasteringLight
from .colours.recoding import coding_levels, luma_weights
from .colours.tags import ColourTags, scaler_matrix, scaler_range
from .colours.tone import PEAK, hdr_of_sdr, raising_table, tone_table
from .container import fingerprint, open_movie
from .facts import MOVIE_SUFFIXES, AudioFacts, Begun, MovieFacts, media_label, probe, unseen
from .fields import is_interlaced, known_interlaced
from .loudness import Loudness, loudness_of
from .picture import Picture, fit_within
from .planes import EIGHT_BIT_420, TEN_BIT_420, Planes, SampleForm
from .reader import MovieReader
from .sequence import image_of_sequence, length_of_sequence, numbers_of_sequence
from .sound import SOUND_RATE, SOUND_SUFFIXES, SoundFacts, probe_sound, sound_blocks, sound_frame, sound_layout
from .still import STILL_SUFFIXES, Still, black, read_still, still_here
from .tabled import tabled

__all__ = [
    "CUBE_SUFFIX",
    "EIGHT_BIT_420",
    "MOVIE_SUFFIXES",
    "PEAK",
    "SOUND_RATE",
    "SOUND_SUFFIXES",
    "STILL_SUFFIXES",
    "TEN_BIT_420",
    "AudioFacts",
    "Begun",
    "Cel",
    "ColourTable",
    "ColourTags",
    "Loudness",
    "MasteringLight",
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
    "hdr_of_sdr",
    "image_of_sequence",
    "is_interlaced",
    "known_cube",
    "known_interlaced",
    "laid_over",
    "length_of_sequence",
    "loudness_of",
    "luma_weights",
    "media_label",
    "numbers_of_sequence",
    "open_movie",
    "probe",
    "probe_sound",
    "raising_table",
    "read_cel",
    "read_cube",
    "read_still",
    "scaler_matrix",
    "scaler_range",
    "sound_blocks",
    "sound_frame",
    "sound_layout",
    "still_here",
    "tabled",
    "tone_table",
    "unseen",
]
