"""Caption files taken into a document as tracks, and given out for its masters."""

from __future__ import annotations

import os
import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path

from ezvar.core import edits
from ezvar.core.errors import InputError, from_os
from ezvar.core.model import Caption, CaptionTrack, Document, Lock, Master, NamedRange, new_id, time_of
from ezvar.core.names import file_names, longest_name
from ezvar.core.store import write_atomically
from ezvar.core.timing import Rate, frame_of

from .formats import SUFFIXES, CaptionFormat, Cues, captions_text, in_lock, read_captions

_OFFSET = re.compile(r"([+-]?)\s*(\d+(?:\.\d+)?)\s*(ms|s)?")


@dataclass(frozen=True)
class TakenCaptions:
    """What taking a caption file in came to: the track, what was left out, and the offset that was added (ms)."""

    track: CaptionTrack
    cues: Cues
    offset: int

    def said(self, lock: Lock) -> str:
        """In one sentence."""
        count = len(self.track.captions)
        at = f", {self.offset / 1000:+g} s" if self.offset else ""
        return f"{count} caption{'s' if count != 1 else ''} from {self.cues.format} in {self.cues.encoding}{at}"


def take_captions(
    doc: Document, path: str | os.PathLike[str], offset: int | None = None, encoding: str = "",
    by: Fraction = Fraction(1), into: str = "",
) -> tuple[Document, TakenCaptions]:  # fmt: skip
    """The document with a caption file's captions as a track of their own, over those that are there.

    ``offset`` in milliseconds, ``by`` and ``encoding`` as `in_lock` and
    `read_captions` say. ``into`` is the id of a track whose captions are
    replaced; how it looks stays. Raises `InputError` for what is no caption
    file, or has none inside the lock.
    """
    cues, added = in_lock(read_captions(path, encoding), doc.lock, offset, by)
    if not cues.captions:
        raise InputError("none of its captions lies inside the lock", file=path, remedy="Give an offset")
    captions = tuple(cues.captions)
    if into:
        track = replace(doc.track(into), captions=captions, source=os.fspath(path), encoding=cues.encoding)
        return edits.change_track(doc, track), TakenCaptions(track, cues, added)
    name = _free_name(doc, Path(path).stem)
    track = CaptionTrack(new_id(), name, captions, cues.language, os.fspath(path), cues.encoding)
    return edits.add_track(doc, track), TakenCaptions(track, cues, added)


def _free_name(doc: Document, stem: str) -> str:
    names = {t.name for t in doc.tracks}
    wanted = (stem if k == 1 else f"{stem} {k}" for k in range(1, len(names) + 2))
    return next(name for name in wanted if name not in names)


def parse_offset(text: str, lock: Lock) -> int:
    """Milliseconds from what somebody writes: "1.5", "-40 ms", or a timecode that the file's times begin at.

    Raises `InputError` for what is none of these.

    >>> parse_offset("-1.5s", Lock("x", Rate(25), 100, 1920, 1080))
    -1500
    """
    if match := _OFFSET.fullmatch(text.strip()):
        value = Fraction(match[2]) * (1 if match[3] == "ms" else 1000)
        return round(-value if match[1] == "-" else value)
    try:
        return -round(1000 * Fraction(frame_of(text, lock.rate), lock.rate.nominal))
    except ValueError as error:
        raise InputError(f"“{text}” is no offset", remedy="Write seconds like -1.5, or a timecode") from error


def rate_change(made_at: Rate, lock: Lock) -> Fraction:
    """How captions' times are stretched that were made for pictures at another rate, played frame by frame at this."""
    return made_at.fraction / lock.rate.fraction


def captions_of(
    doc: Document, track: CaptionTrack, master: Master, part: NamedRange | None = None
) -> Iterator[Caption]:
    """A track's captions as a master shows them, at the times of its movie: of a range, from that range's beginning."""
    rate = doc.lock.rate
    begins = time_of(part.start, rate) if part else 0
    ends = time_of(part.end if part else doc.lock.frames, rate)
    for caption in track.captions:
        differing = doc.differs(caption.id, master.id)
        if differing.hidden or caption.end <= begins or caption.start >= ends:
            continue
        start, end = max(0, caption.start - begins), min(caption.end, ends) - begins
        yield replace(
            caption, start=start, end=end, spans=differing.spans or caption.spans,
            spot=differing.spot or caption.spot,
        )  # fmt: skip


@dataclass(frozen=True)
class CaptionFile:
    """A file of captions that can be written: its name, and what it holds."""

    name: str
    track: CaptionTrack
    master: Master
    part: NamedRange | None

    def text(self, doc: Document, format: CaptionFormat) -> bytes:
        """What it holds in a format."""
        captions = captions_of(doc, self.track, self.master, self.part)
        return captions_text(captions, format, self.track.language, self.track.name)


def caption_files(
    doc: Document, format: CaptionFormat, folder: str | os.PathLike[str], masters: Iterable[Master] | None = None
) -> list[CaptionFile]:
    """A file for each shown track, master and range, with its name in a folder."""
    tracks = [t for t in doc.tracks if t.shown]
    wanted = [
        (track, master, part)
        for master in (doc.masters if masters is None else masters)
        for part in (master.ranges or (None,))
        for track in tracks
    ]
    texts = (_named(doc, *each, len(tracks) > 1) for each in wanted)
    names = file_names(texts, SUFFIXES[format], longest_name(folder))
    return [CaptionFile(name.name, *each) for name, each in zip(names, wanted, strict=True)]


def give_captions(
    doc: Document, format: CaptionFormat, folder: str | os.PathLike[str], masters: Iterable[Master] | None = None
) -> list[Path]:
    """Write a file for each shown track, master and range into a folder, which is made; the files.

    Raises `InputError` where there is nothing to write, or it cannot be written.
    """
    wanted = caption_files(doc, format, folder, masters)
    if not wanted:
        raise InputError("there are no captions, or no master for them", remedy="Take captions in first")
    try:
        Path(folder).mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise from_os(error, "made", folder, InputError) from error
    files = []
    for each in wanted:
        path, data = Path(folder) / each.name, each.text(doc, format)
        write_atomically(path, lambda file, data=data: file.write(data), InputError)  # type: ignore[misc]
        files.append(path)
    return files


def _named(doc: Document, track: CaptionTrack, master: Master, part: NamedRange | None, several: bool) -> str:
    words = [doc.lock.name, master.name, part.name if part else "", track.name if several else ""]
    return " ".join(word for word in words if word)
