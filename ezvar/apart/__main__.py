"""Does the readings that are asked of it, until its asker is gone.

    python -m ezvar.apart

Not for calling by hand: `ezvar.core.work` begins it, and says what it is asked and answers.
"""

from __future__ import annotations

import os

from ezvar.core.work import Done, Task, serve

os.environ["OPENCV_IO_MAX_IMAGE_PIXELS"] = str(2**28)  # before its library is there


def do(task: Task) -> Done:
    """Do a task. What does it is loaded when it is first asked for."""
    match task.kind:
        case "still":
            from ezvar.core.media import still_here

            return still_here(task)
        case "timeline":
            from ezvar.core.lock import timeline_here

            return timeline_here(task)
        case "metadata":
            from ezvar.core.lock import metadata_here

            return metadata_here(task)
        case "font" | "lacking" | "width" | "reach" | "line":
            from ezvar.core.text import font_here

            return font_here(task)
    raise ValueError(f"nothing is known of {task.kind}")


if __name__ == "__main__":
    serve(do)
