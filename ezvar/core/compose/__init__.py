"""One drawing of a master's frame, for previews, review and output alike."""

from .draw import draw_frame, draw_layers, draw_master

__all__ = ["draw_frame", "draw_layers", "draw_master"]
