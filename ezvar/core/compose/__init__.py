"""One drawing of a master's frame, for previews, review and output alike."""

from .draw import draw_frame, draw_layers, draw_master
from .sound_of_master import master_sound
from .sources import Sources

__all__ = ["Sources", "draw_frame", "draw_layers", "draw_master", "master_sound"]
