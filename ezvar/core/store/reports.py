"""Mistakes of the program itself: what is said of them, and the report that whoever mends them needs."""

from __future__ import annotations

import platform
import traceback
from datetime import datetime
from pathlib import Path

from ezvar import __version__
from ezvar.core.errors import EzvarError

from .cache import default_cache
from .files import write_atomically

_KEPT = 20


def report_of(error: BaseException, folder: Path | None = None) -> Path | None:
    """Write a report of an error that nobody foresaw, into the cache where no ``folder`` is given; ``None`` where the
    disk refuses. The newest are kept. It names the program's own files and lines, and what the error says."""
    target = folder or default_cache().folder / "reports"
    when = datetime.now()
    on = f"Ezvar {__version__}, Python {platform.python_version()}, {platform.platform()}"
    text = "\n".join([on, f"{when:%Y-%m-%d %H:%M:%S}", "", *traceback.format_exception(error)])
    path = target / f"{when:%Y%m%d-%H%M%S-%f}.txt"
    try:
        target.mkdir(parents=True, exist_ok=True)
        write_atomically(path, lambda file: file.write(text.encode(errors="backslashreplace")))
        for old in sorted(target.glob("*.txt"))[:-_KEPT]:
            old.unlink(missing_ok=True)
    except (EzvarError, OSError):
        return None
    return path


def our_mistake(error: BaseException, report: Path | None) -> str:
    """What is said of an error that nobody foresaw, in one line."""
    what = " ".join(f"{type(error).__name__}: {error}".split())[:200]
    where = f" A report is in {report}." if report else ""
    return f"Ezvar made a mistake ({what}). Your work is kept.{where}"
