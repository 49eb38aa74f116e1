"""Mistakes of the program itself: what is said of them, and the reports that whoever mends them needs."""

from __future__ import annotations

import faulthandler
import os
import platform
import re
import traceback
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import IO

from ezvar import __version__
from ezvar.core.errors import EzvarError
from ezvar.core.way_in import open_regular

from .cache import default_cache
from .files import write_atomically

_KEPT, _SHOWN = 20, 200_000  # reports; letters of one
_OURS = re.compile(
    r'  File "(?:.*/)?((?:ezvar|ezvar_reviewer|site-packages|lib/python[\d.]+)/[^"]*)"(, line \d+,? in .*)'
)
_KIND = re.compile(r"([\w.]+(?:Error|Exception|Interrupt))\b")
_FELL = "fell-%d.txt"


@dataclass(frozen=True)
class MistakeReport:
    """A report that is kept: when, in local time, and what kind of mistake it was."""

    file: Path
    when: str
    what: str


def _folder(folder: Path | None) -> Path:
    return folder or default_cache().folder / "reports"


def report_of(error: BaseException, folder: Path | None = None) -> Path | None:
    """Write a report of an error that nobody foresaw, into the cache where no ``folder`` is given; ``None`` where the
    disk refuses. The newest are kept. It names the program's own files and lines, and what the error says."""
    return _keep("\n".join(traceback.format_exception(error)), folder)


def _keep(story: str, folder: Path | None) -> Path | None:
    target = _folder(folder)
    when = datetime.now()
    on = f"Ezvar {__version__}, Python {platform.python_version()}, {platform.platform()}"
    text = "\n".join([on, f"{when:%Y-%m-%d %H:%M:%S}", "", story])
    path = target / f"{when:%Y%m%d-%H%M%S-%f}.txt"
    try:
        target.mkdir(parents=True, exist_ok=True)
        write_atomically(path, lambda file: file.write(text.encode(errors="backslashreplace")))
        for old in sorted(target.glob("[0-9]*.txt"))[:-_KEPT]:
            old.unlink(missing_ok=True)
    except (EzvarError, OSError):
        return None
    return path


def kept_reports(folder: Path | None = None) -> list[MistakeReport]:
    """The reports that are kept, the newest first."""
    found = []
    for file in sorted(_folder(folder).glob("[0-9]*.txt"), reverse=True):
        lines = report_text(file).strip().splitlines()
        if len(lines) > 1:
            kind = next((kind[1] for line in reversed(lines) if (kind := _KIND.match(line))), "")
            found.append(MistakeReport(file, lines[1], kind or "a fault that ended the program"))
    return found


def report_text(file: Path, named: bool = True) -> str:
    """A report; where not ``named``, without what errors say and without all names but those of the program's own
    files, so that it tells nobody about whose media it was. Empty where it cannot be read."""
    try:
        with open_regular(file, EzvarError, "a list") as report:
            text = report.read(_SHOWN).decode(errors="replace")
    except EzvarError:
        return ""
    if named:
        return text
    kept = []
    for number, line in enumerate(text.splitlines()):
        if number < 3 or line.startswith(("Traceback", "Fatal Python error", "Thread", "Current thread")):
            kept.append(line)
        elif own := _OURS.match(line):
            kept.append(f'  File "{own[1]}"{own[2]}')
        elif error := _KIND.match(line):
            kept.append(error[1])
    return "\n".join(kept) + "\n"


def watch_for_faults(folder: Path | None = None) -> IO[str] | None:
    """Have a fault that ends the whole program written down where it happens, for the next start to find; ``None``
    where the disk refuses. To be closed with `all_went_well`."""
    target = _folder(folder)
    try:
        target.mkdir(parents=True, exist_ok=True)
        file = open(target / (_FELL % os.getpid()), "w")  # noqa: SIM115 - it stays open until the end
    except OSError:
        return None
    faulthandler.enable(file)
    return file


def all_went_well(watched: IO[str] | None) -> None:
    """The program ends in good order."""
    if watched is not None:
        faulthandler.disable()
        watched.close()
        Path(watched.name).unlink(missing_ok=True)


def fell_before(folder: Path | None = None) -> Path | None:
    """A report of the last fault that ended a program, which it is put into; ``None`` where there was none."""
    found = None
    for file in _folder(folder).glob(_FELL.replace("%d", "*")):
        process = file.stem.rpartition("-")[2]
        if process.isdigit() and os.path.exists(f"/proc/{process}"):
            continue
        if story := report_text(file).strip():
            found = _keep(story, folder)
        file.unlink(missing_ok=True)
    return found


def our_mistake(error: BaseException, report: Path | None) -> str:
    """What is said of an error that nobody foresaw, in one line."""
    what = " ".join(f"{type(error).__name__}: {error}".split())[:200]
    where = f" A report is in {report}." if report else ""
    return f"Ezvar made a mistake ({what}). Your work is kept.{where}"
