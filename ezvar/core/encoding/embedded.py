"""Captions as a stream of their own in a movie, that a player can show and hide."""

from __future__ import annotations

import io
import re
from collections.abc import Iterator
from contextlib import ExitStack
from dataclasses import dataclass
from fractions import Fraction

import av
from av.container import OutputContainer
from av.packet import Packet
from av.stream import Stream
from av.subtitles.stream import SubtitleStream

from ezvar.core.model import Container

_TAG = re.compile(rb"<[^>]*>")
_MILLISECOND = Fraction(1, 1000)
# What the library's encoder of this kind of stream begins with, of which nothing is drawn.
_NO_STYLE = (
    b"[Script Info]\nScriptType: v4.00+\n\n[V4+ Styles]\nFormat: Name\nStyle: Default\n\n[Events]\nFormat: Text\n"
)
_SHORT = (  # ISO 639-1, each followed by what ISO 639-2/T has for it, which is what files say
    "af afr ar ara be bel bg bul bn ben ca cat cs ces cy cym da dan de deu el ell en eng es spa et est eu eus fa fas "
    "fi fin fr fra ga gle gl glg he heb hi hin hr hrv hu hun hy hye id ind is isl it ita ja jpn ka kat kk kaz ko kor "
    "lt lit lv lav mk mkd ml mal mn mon mr mar ms msa nb nob nl nld nn nno no nor pa pan pl pol pt por ro ron ru rus "
    "sk slk sl slv sq sqi sr srp sv swe sw swa ta tam te tel th tha tr tur uk ukr ur urd vi vie zh zho"
)
_LANGUAGES = dict(re.findall(r"(\w\w) (\w\w\w)", _SHORT))


def language_in_file(language: str) -> str:
    """A language (BCP 47) as a file says it, in three letters; "und" where that is not known.

    >>> language_in_file("de-AT"), language_in_file("")
    ('deu', 'und')
    """
    first = language.partition("-")[0].lower()
    return first if len(first) == 3 else _LANGUAGES.get(first, "und")


@dataclass(frozen=True)
class EmbeddedCaptions:
    """Captions to be put into a movie, as ``text`` of the format that `embedded_as` names, with their language (BCP 47)
    and what the track is called."""

    text: bytes
    language: str = ""
    name: str = ""


def embedded_as(container: Container) -> str:
    """The library's name of the caption format that a container is given; empty where it holds none."""
    return {"mkv": "srt", "mp4": "srt", "mov": "srt", "webm": "webvtt"}.get(container, "")


class CaptionStream:
    """Captions that go into a file with its pictures."""

    def __init__(
        self, out: OutputContainer, container: Container, captions: EmbeddedCaptions, stack: ExitStack
    ) -> None:  # fmt: skip
        form = embedded_as(container)
        source = stack.enter_context(av.open(io.BytesIO(captions.text), "r", format=form))
        self._out, self._timed = out, container in ("mp4", "mov")
        if self._timed:  # the trade's timed text (3GPP TS 26.245), without its styles
            self._stream = out.add_stream("mov_text")
            assert isinstance(self._stream, SubtitleStream)
            self._stream.codec_context.subtitle_header = _NO_STYLE
        else:
            self._stream = out.add_stream_from_template(source.streams.subtitles[0], opaque=True)
        if captions.name:
            self._stream.metadata["title"] = captions.name
        self._stream.metadata["language"] = language_in_file(captions.language)
        self._packets: Iterator[Packet[SubtitleStream]] = (
            p for p in source.demux(source.streams.subtitles[0]) if p.size
        )
        self._next = next(self._packets, None)

    def up_to(self, seconds: Fraction | None) -> None:
        """Put in what begins before a time, or all that is left."""
        while (packet := self._next) is not None:
            begins = (packet.pts or 0) * packet.time_base
            if seconds is not None and begins > seconds:
                return
            lasts = (packet.duration or 0) * packet.time_base
            if self._timed:
                words = _TAG.sub(b"", bytes(packet))
                timed: Packet[Stream] = Packet(len(words).to_bytes(2, "big") + words)
                timed.pts = timed.dts = round(begins / _MILLISECOND)
                timed.duration, timed.time_base = round(lasts / _MILLISECOND), _MILLISECOND
                timed.stream = self._stream
                self._out.mux(timed)
            else:
                packet.stream = self._stream
                self._out.mux(packet)
            self._next = next(self._packets, None)
