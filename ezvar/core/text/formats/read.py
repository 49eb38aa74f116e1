"""Reading a caption file of any of the formats."""

from __future__ import annotations

import os
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

from pydantic import TypeAdapter

from ezvar.core.apart import Done, Task, run_apart, task
from ezvar.core.errors import InputError
from ezvar.core.model import Lock
from ezvar.core.way_in import read_bytes

from .cues import Cues
from .encodings import decode
from .srt import read_srt
from .ttml import read_ttml
from .webvtt import read_webvtt

FORMATS = {"SRT": "*.srt", "WebVTT": "*.vtt", "TTML": "*.ttml *.xml *.dfxp *.itt"}
_CUES = TypeAdapter(Cues)
MOST = 20_000
"""Captions that a track has at most."""


def tell_format(text: str, name: str = "") -> str:
    """Which format a text is in: by how it begins, else by its name."""
    head = text.lstrip()[:2000]
    if head.startswith("WEBVTT"):
        return "WebVTT"
    if head.startswith("<"):
        return "TTML"
    return "WebVTT" if name.lower().endswith(".vtt") else "SRT"


def read_captions(path: str | os.PathLike[str], encoding: str = "") -> Cues:
    """The captions of a file, with what was left out of it and why; times as the file states them.

    Without an ``encoding`` it is told from the bytes; TTML states its own.
    Raises `InputError` for what is no caption file, and for one without a
    single caption.
    """
    data = read_bytes(path, InputError, "captions")
    name = Path(path).name
    head = data[:4000].replace(b"\x00", b"").removeprefix(b"\xef\xbb\xbf").lstrip(b"\xff\xfe\xef\xbb\xbf \t\r\n")
    if head.startswith((b"<?xml", b"<tt", b"<!")):
        cues = _read_apart(path)
    else:
        text, told = decode(data, encoding, os.fspath(path))
        cues = read_webvtt(text) if tell_format(text, name) == "WebVTT" else read_srt(text)
        cues.encoding = told
    if not cues.captions:
        first = f"; {str(cues.left_out[0]).rstrip('.').lower()}" if cues.left_out else ""
        raise InputError(f"it holds no captions{first}", file=path, remedy="Choose an SRT, WebVTT or TTML file")
    if len(cues.captions) > MOST:
        cues.note(0, f"only the first {MOST:,} of {len(cues.captions):,} captions were taken")
        cues.captions = cues.captions[:MOST]
    return cues


def _read_apart(path: str | os.PathLike[str]) -> Cues:
    """The captions of a TTML document, whose parser is not ours. Raises `InputError`."""
    return _CUES.validate_json(bytes(run_apart(task("captions", [os.fspath(path)]), InputError).data))


def captions_here(task: Task) -> Done:
    """Do the task of reading a TTML document."""
    path = task.inputs[0]
    cues = read_ttml(read_bytes(path, InputError, "captions"), path)
    cues.encoding = "utf-8"
    return None, (_CUES.dump_json(cues),)


def in_lock(cues: Cues, lock: Lock, offset: int | None = None, by: Fraction = Fraction(1)) -> tuple[Cues, int]:
    """Cues at the lock's times, and the offset in milliseconds that was added.

    ``by`` stretches the file's times, as from one rate to another, before
    ``offset`` is added. Without an offset, a file that counts from the lock's
    start timecode is told by lying within it, any other begins with the lock.
    What lies outside of the lock is left out, and noted by its times.
    """
    length = round(1000 * lock.rate.seconds(lock.frames))
    begins = round(1000 * Fraction(lock.start, lock.rate.nominal))
    scaled = [(round(c.start * by), max(round(c.start * by) + 1, round(c.end * by)), c) for c in cues.captions]
    if offset is None:
        counts = begins > length and all(begins <= start < begins + length for start, _, _ in scaled)
        offset = -begins if counts else 0
    made = Cues([], list(cues.left_out), cues.format, cues.encoding, cues.language)
    for start, end, caption in scaled:
        first, last = start + offset, end + offset
        if last <= 0 or first >= length:
            made.note(0, f"“{caption.words[:40]}” lies outside of the lock")
        else:
            made.captions.append(replace(caption, start=max(0, first), end=min(last, length)))
    return made.in_order(), offset
