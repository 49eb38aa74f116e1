"""Parting a movie into segments, and naming each by all that is seen in it."""

from __future__ import annotations

import hashlib
import os
from collections.abc import Iterable
from dataclasses import replace
from itertools import pairwise
from math import ceil
from pathlib import Path

from ezvar.core.compose import ALL, Shown
from ezvar.core.encoding import PictureForm
from ezvar.core.framing import framed, pane_shot
from ezvar.core.lock import mix_of
from ezvar.core.media import ColourTags
from ezvar.core.model import Document, Layer, MadePart, Master, Pane, Row, Shot, Title, layer_key
from ezvar.core.text import asked_of
from ezvar.core.timing import FrameRange, Rate

LEAST, MOST = 8, 60
"""Seconds that a segment lasts at least, where cuts allow, and at most."""
_PATIENCE = 30  # seconds, after which a segment may end in the middle of a mix
MADE_BY = 3
"""Raised when the same document comes to other pictures."""


def parted(doc: Document, span: FrameRange) -> tuple[FrameRange, ...]:
    """The segments of lock frames: they begin at cuts, at hard ones where such come soon enough, and a long shot is
    parted evenly. Which they are depends on the cuts alone."""
    least, most, patience = (_frames(doc.lock.rate, seconds) for seconds in (LEAST, MOST, _PATIENCE))
    bounds = [span.start]
    for shot in doc.shots:
        since = shot.start - bounds[-1]
        if span.start < shot.start < span.end and since >= least and (mix_of(shot) is None or since >= patience):
            bounds.append(shot.start)
    if len(bounds) > 1 and span.end - bounds[-1] < least:
        bounds.pop()
    found = []
    for start, end in zip(bounds, [*bounds[1:], span.end], strict=True):
        count = ceil((end - start) / most)
        edges = [start + (end - start) * k // count for k in range(count + 1)]
        found += [FrameRange(a, b) for a, b in pairwise(edges)]
    return tuple(found)


def _frames(rate: Rate, seconds: int) -> int:
    return max(1, round(seconds * rate.fraction))


def shown_of(row: Row) -> Shown:
    """What of the document is drawn into the pictures of a row."""
    return ALL if row.preset.captions == "burnt in" else Shown(captions=False)


def form_of(doc: Document, row: Row, tags: ColourTags) -> PictureForm:
    """What the pictures of a row are, of a lock whose colours are ``tags``."""
    master = doc.master(row.master)
    return PictureForm(row.preset.picture, master.width, master.height, doc.lock.rate, tags)


def named_parts(doc: Document, row: Row, tags: ColourTags) -> tuple[MadePart, ...]:
    """The segments of a row, each by the name of what is seen in it: of a lock whose colours are ``tags``."""
    form, shown, master = form_of(doc, row, tags), shown_of(row), doc.master(row.master)
    spans = parted(doc, row.range)
    return tuple(MadePart(s.start, s.end, segment_name(doc, master, s, form, shown)) for s in spans)


def segment_name(doc: Document, master: Master, span: FrameRange, form: PictureForm, shown: Shown) -> str:
    """A name for a segment: where all that is seen in it, and how it is coded, is the same, so is the name.

    What stands elsewhere in the lock counts only where something that is seen
    depends on it.
    """
    seen = _Seen(doc, master, shown)
    seen.look(span.start, span.end)
    said = (
        MADE_BY, span, form, shown, replace(master, id="", name="", ranges=(), zones=None, pace=0.5, poster=None),
        (doc.lock.width, doc.lock.height, doc.lock.rate, doc.lock.rule, doc.lock.flat), doc.shots[0].source,
        *seen.said(),
    )  # fmt: skip
    return hashlib.sha256(repr(said).encode(errors="surrogatepass")).hexdigest()[:32]


def media_seen(doc: Document, master: Master, span: FrameRange, shown: Shown) -> set[str]:
    """The ids of the lock's media that are read for a stretch of a master, with those of the lock's first picture,
    whose colours are the master's."""
    seen = _Seen(doc, master, shown)
    seen.look(span.start, span.end)
    return seen.media() | {doc.shots[0].source.media}


class _Seen:
    """All that is seen in a stretch of a master, and what that depends on."""

    def __init__(self, doc: Document, master: Master, shown: Shown) -> None:
        self._doc, self._master, self._shown = doc, master, shown
        self._shots: dict[str, Shot] = {}
        self._titles: dict[str, Title] = {}
        self._layers: dict[str, Layer] = {}
        self._captions: list[object] = []
        self._looked: list[tuple[int, int]] = []

    def look(self, start: int, end: int) -> None:
        """Take in the lock frames from ``start`` to ``end``."""
        self._pictures(start, end)
        if self._shown.captions:
            self._written(start, end)
        if not self._shown.layers:
            return
        for title in self._doc.shown_titles:
            if title.start < end and title.end > start:
                self._title(title)
        for layer in self._doc.lock.layers:
            if layer.start < end and layer.end > start:
                self._layer(layer)

    def _pictures(self, start: int, end: int) -> None:
        """The shots of a stretch, those that they are mixed with, and those in their panes."""
        for place in range(self._doc.place_of(self._doc.shot_at(start).id), len(self._doc.shots)):
            shot = self._doc.shots[place]
            if shot.start >= end + _mixed_before(shot):
                break
            if place and mix_of(shot) is not None:
                before = self._doc.shots[place - 1]
                self._shots[before.id] = before
            self._shots[shot.id] = shot
            framing = framed(self._doc, shot, self._master)
            others = (pane_shot(self._doc, shot, pane) for pane in framing.panes)
            self._shots.update({other.id: other for other in others})

    def _written(self, start: int, end: int) -> None:
        rate = self._doc.lock.rate
        for track in self._doc.tracks:
            for caption in track.captions if track.shown else ():
                frames = caption.frames(rate)
                if frames.start < end and frames.end > start and not self._hidden(caption.id):
                    asked = asked_of(self._doc, track, caption, self._master)
                    self._captions.append((frames, asked, _stamp(asked.style.font)))

    def _hidden(self, caption: str) -> bool:
        return self._doc.differs(caption, self._master.id).hidden

    def _title(self, title: Title) -> None:
        if title.id not in self._titles:
            self._titles[title.id] = title
            self._pictures(title.start, title.end)  # a band is free in all of its time, or is not
            if title.beside is not None:
                self._item(title.beside.item)

    def _layer(self, layer: Layer) -> None:
        """A layer, and those that may be one group with it, by which it is placed."""
        key = layer_key(layer)
        if key in self._layers:
            return
        self._layers[key] = layer
        self._pictures(layer.start, layer.end)
        anchoring = self._doc.anchoring(key)
        if anchoring.beside is not None:
            self._item(anchoring.beside.item)
        for other in self._doc.lock.layers:
            if other.start < layer.end and other.end > layer.start:
                self._layer(other)

    def _item(self, item: str) -> None:
        for title in self._doc.titles:
            if title.id == item:
                self._title(title)
        for layer in self._doc.lock.layers:
            if layer_key(layer) == item:
                self._layer(layer)

    def media(self) -> set[str]:
        """The ids of the media that are shown."""
        layers = {layer.source.media for layer in self._layers.values()}
        return {shot.source.media for shot in self._shots.values()} | layers - {""}

    def said(self) -> Iterable[object]:
        """All of it, in the order of the lock, without what is not seen."""
        doc, master = self._doc, self._master
        media = {m.id: m for m in doc.lock.media}
        for shot in doc.shots:
            if shot.id in self._shots:
                panes = [self._pane(shot, pane) for pane in framed(doc, shot, master).panes]
                arrangement = framed(doc, shot, master).arrangement
                cut = shot.cut and (shot.cut.kind, shot.cut.start, shot.cut.end, shot.cut.wipe)
                own = media[shot.source.media]
                textless = doc.textless.content if doc.is_textless(shot.id) and doc.textless else ""
                yield (shot.start, shot.end, shot.source, shot.placement, shot.uses, cut, panes, arrangement, textless)
                yield replace(own, path="", name="", reel="")
                yield _stamp(doc.colouring.table_of(own.id)), doc.colouring.tone_mapped
        yield _stamp(master.backdrop.media)
        for title in doc.titles:
            if title.id in self._titles:
                yield replace(title, name=""), doc.stands(title.id, master.id)
                yield _stamp(title.design.font), _stamp(title.design.icon)
        for layer in doc.lock.layers:
            if (key := layer_key(layer)) in self._layers:
                own = media.get(layer.source.media)  # type: ignore[assignment]
                yield replace(layer, carried=""), doc.stands(key, master.id), doc.anchoring(key), own and own.content
        yield self._captions

    def _pane(self, shot: Shot, pane: Pane) -> object:
        other = pane_shot(self._doc, shot, pane)
        backdrop = pane.backdrop.media if pane.backdrop else ""
        return pane, other.start - shot.start, _stamp(backdrop)


def _mixed_before(shot: Shot) -> int:
    """For how many frames before its start a shot is seen already."""
    cut = mix_of(shot)
    return shot.start - cut.start if cut is not None else 0


def _stamp(path: str) -> object:
    """What tells a file from a changed one, without reading it."""
    if not path:
        return None
    try:
        facts = Path(path).stat()
    except OSError:
        return path, "not there"
    return path, facts.st_size, facts.st_mtime_ns


def file_stamp(path: str | os.PathLike[str]) -> str:
    """What tells a finished file from a changed one, without reading it; empty where it is not there."""
    try:
        facts = Path(path).stat()
    except OSError:
        return ""
    return f"{facts.st_size} {facts.st_mtime_ns}"
