"""A master's picture at a frame, its sound, and where its pictures come from."""

from .layers import LayersTaken, layers_taken, places_depend_on
from .masters import ALL, Shown, frame
from .pictures import Given, LockPictures, Pictures
from .sound_of_master import master_sound

__all__ = [
    "ALL",
    "Given",
    "LayersTaken",
    "LockPictures",
    "Pictures",
    "Shown",
    "frame",
    "layers_taken",
    "master_sound",
    "places_depend_on",
]
