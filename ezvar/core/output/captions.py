"""The captions of a row: in its movie, or in files beside it."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from ezvar.core.encoding import SUFFIXES, EmbeddedCaptions, embedded_as
from ezvar.core.errors import OutputError
from ezvar.core.model import Caption, CaptionTrack, NamedRange
from ezvar.core.names import file_names, longest_name
from ezvar.core.store import write_atomically
from ezvar.core.text import CaptionFormat, captions_of, captions_text

from .orders import Order

_FORMATS: dict[str, CaptionFormat] = {"srt": "SRT", "vtt": "WebVTT", "webvtt": "WebVTT", "ttml": "TTML"}
_ENDS: dict[CaptionFormat, str] = {"SRT": ".srt", "WebVTT": ".vtt", "TTML": ".ttml"}


def embedded_in(order: Order) -> list[EmbeddedCaptions]:
    """The captions that go into a row's movie: those of each shown track."""
    preset = order.row.preset
    if preset.captions != "embedded":
        return []
    format = _FORMATS[embedded_as(preset.picture.container)]
    return [EmbeddedCaptions(data, track.language, track.name) for track, data in _written(order, format)]


def beside_of(order: Order) -> list[Path]:
    """The files beside a row's movie that hold the captions of each shown track, where they go there."""
    preset, target = order.row.preset, order.target
    if preset.captions != "beside":
        return []
    stem = target.name.removesuffix(SUFFIXES[preset.picture.container])
    tracks = [track for track, _ in captions_in(order)]
    texts = [f"{stem} {track.name}" if len(tracks) > 1 else stem for track in tracks]
    names = file_names(texts, _ENDS[_FORMATS[preset.caption_file]], longest_name(target.parent))
    return [target.with_name(name.name) for name in names]


def write_beside(order: Order) -> list[Path]:
    """Write the captions of each shown track beside a row's movie, under its name. Raises `OutputError` for what the
    disk refuses."""
    paths = beside_of(order)
    written = _written(order, _FORMATS[order.row.preset.caption_file]) if paths else ()
    for path, (_, data) in zip(paths, written, strict=True):
        write_atomically(path, lambda file, data=data: file.write(data), OutputError)  # type: ignore[misc]
    return paths


def captions_in(order: Order) -> Iterator[tuple[CaptionTrack, list[Caption]]]:
    """The shown tracks of captions that a row has some of, at its own times."""
    row = order.row
    part = NamedRange(row.label, row.start, row.end)
    for track in order.doc.tracks:
        if track.shown and (captions := list(captions_of(order.doc, track, order.master, part))):
            yield track, captions


def _written(order: Order, format: CaptionFormat) -> Iterator[tuple[CaptionTrack, bytes]]:
    for track, captions in captions_in(order):
        yield track, captions_text(captions, format, track.language, track.name)
