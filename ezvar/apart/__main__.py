"""Does the readings that are asked of it, until its asker is gone.

    python -m ezvar.apart [KIND ...]

Not for calling by hand: `ezvar.core.apart` begins it, and says what it is asked and answers. Kinds that are
named are got ready first.
"""

from __future__ import annotations

import os
import sys
from collections.abc import Callable

from ezvar.core.apart import Done, Task, serve

os.environ["OPENCV_IO_MAX_IMAGE_PIXELS"] = str(2**28)  # before its library is there


def doing(kind: str) -> Callable[[Task], Done]:
    """What does tasks of a kind; loaded when it is first asked for."""
    match kind:
        case "still":
            from ezvar.core.media import still_here

            return still_here
        case "timeline":
            from ezvar.core.timelines import timeline_here

            return timeline_here
        case "metadata":
            from ezvar.core.timelines import metadata_here

            return metadata_here
        case "members" | "member":
            from ezvar.core.timelines import bundle_here

            return bundle_here
        case "captions":
            from ezvar.core.text import captions_here

            return captions_here
        case "font" | "lacking" | "width" | "reach" | "line":
            from ezvar.core.text import font_here

            return font_here
    raise ValueError(f"nothing is known of {kind}")


if __name__ == "__main__":
    for each in sys.argv[1:]:
        doing(each)
    serve(lambda task: doing(task.kind)(task))
