"""What the analysis saw: faces and what moves by itself, kept so that a movie is read once."""

from .analysis import Analysis, analyse, cached_analysis, shot_faces, shot_motion
from .faces import Face, FaceFinder
from .slit import slit_scan

__all__ = ["Analysis", "Face", "FaceFinder", "analyse", "cached_analysis", "shot_faces", "shot_motion", "slit_scan"]
