"""What a screen asks for: pictures served as they are wanted, small and quick ones, the ground of the sweep chart."""

from .lines import MASTER_LINES, MasterLine, master_line
from .proxy import Proxy, Span, proxy_picture
from .server import FrameServer, FrameSource
from .sweep_ground import slit_scan

__all__ = [
    "MASTER_LINES",
    "FrameServer",
    "FrameSource",
    "MasterLine",
    "Proxy",
    "Span",
    "master_line",
    "proxy_picture",
    "slit_scan",
]
