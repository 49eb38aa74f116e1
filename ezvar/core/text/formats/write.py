"""Captions as what a file of one of the formats holds."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Literal

from ezvar.core.model import Caption

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
