"""What a screen asks for: pictures served as they are wanted, small and quick ones, the ground of the sweep chart."""

from .proxy import Proxy, Span, proxy_picture
from .server import FrameServer, FrameSource
from .sweep_ground import slit_scan

__all__ = ["FrameServer", "FrameSource", "Proxy", "Span", "proxy_picture", "slit_scan"]
