"""Writing captions as a file of one of the formats."""

from __future__ import annotations

import os
from collections.abc import Iterable
from pathlib import Path
from typing import Literal

from ezvar.core.errors import InputError
from ezvar.core.model import Caption
from ezvar.core.store import write_atomically

from .srt import srt_text
from .ttml import ttml_text
from .webvtt import webvtt_text

CaptionFormat = Literal["SRT", "WebVTT", "TTML"]
SUFFIXES: dict[CaptionFormat, str] = {"SRT": ".srt", "WebVTT": ".vtt", "TTML": ".ttml"}


def captions_text(captions: Iterable[Caption], format: CaptionFormat, language: str = "", title: str = "") -> bytes:
    """Captions as what a file of a format holds, in UTF-8."""
    if format == "TTML":
        return ttml_text(captions, language, title)
    return (srt_text(captions) if format == "SRT" else webvtt_text(captions, language)).encode(errors="replace")


def write_captions(
    captions: Iterable[Caption], path: str | os.PathLike[str], format: CaptionFormat, language: str = "",
    title: str = "",
) -> None:  # fmt: skip
    """Write captions to a file, in place of what is there. Raises `InputError` where it cannot be written."""
    data = captions_text(captions, format, language, title)
    write_atomically(Path(path), lambda file: file.write(data), InputError)
