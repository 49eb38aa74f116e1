"""Captions: tracks of them taken in, typed, changed, split, joined, moved in time; how they look in a master."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from dataclasses import replace
from fractions import Fraction

from ezvar.core.model import (
    Caption,
    CaptionStyle,
    CaptionTrack,
    Differing,
    Document,
    Span,
    TrackStyle,
    joined_spans,
    new_id,
)

_SHORTEST = 40  # milliseconds that a part of a split caption lasts at least


def add_track(doc: Document, track: CaptionTrack) -> Document:
    """Add a track over the others."""
    return replace(doc, tracks=(*doc.tracks, track))


def change_track(doc: Document, changed: CaptionTrack) -> Document:
    """Put a track in place of the one with its id; what says how captions differ that are gone goes with them."""
    old = doc.track(changed.id)
    tracks = tuple(changed if t.id == changed.id else t for t in doc.tracks)
    if old.captions is changed.captions:
        return replace(doc, tracks=tracks)
    gone = {c.id for c in old.captions} - {c.id for c in changed.captions}
    return replace(doc, tracks=tracks, differing=tuple(d for d in doc.differing if d.caption not in gone))


def remove_track(doc: Document, track: str) -> Document:
    """Remove a track with its captions, its styles, and how they differ."""
    doc = change_track(doc, replace(doc.track(track), captions=()))
    return replace(
        doc,
        tracks=tuple(t for t in doc.tracks if t.id != track),
        styles=tuple(s for s in doc.styles if s.track != track),
    )


def put_captions(doc: Document, track: str, captions: Iterable[Caption]) -> Document:
    """Put captions in place of those with their ids, or add them; all in order of time."""
    old = doc.track(track)
    new = {c.id: c for c in captions}
    known = new.keys() & {d.caption for d in doc.differing if d.right}
    if known:  # what was let stand was let stand of the caption as it was
        doc = differ(doc, [replace(d, right=()) for d in doc.differing if d.caption in known])
    kept = [new.pop(c.id, c) for c in old.captions]
    return change_track(doc, replace(old, captions=in_order((*kept, *new.values()))))


def in_order(captions: Iterable[Caption]) -> tuple[Caption, ...]:
    return tuple(sorted(captions, key=lambda c: c.start))


def remove_captions(doc: Document, track: str, captions: Iterable[str]) -> Document:
    """Remove captions of a track."""
    gone = set(captions)
    old = doc.track(track)
    return change_track(doc, replace(old, captions=tuple(c for c in old.captions if c.id not in gone)))


def set_text(doc: Document, track: str, caption: str, spans: tuple[Span, ...]) -> Document:
    """Give a caption other text in all masters; in one where its own text stood that goes. An empty one is removed."""
    if not "".join(s.text for s in spans).strip():
        return remove_captions(doc, track, [caption])
    doc = put_captions(doc, track, [replace(doc.track(track).caption(caption), spans=joined_spans(spans), unsure=())])
    own = tuple(replace(d, spans=()) if d.caption == caption else d for d in doc.differing)
    return replace(doc, differing=tuple(d for d in own if not d.nothing))


def retime(doc: Document, track: str, caption: str, start: int, end: int) -> Document:
    """Let a caption stand from ``start`` to ``end``, in milliseconds of the lock: a moment at least, inside of it."""
    last = round(1000 * doc.lock.rate.seconds(doc.lock.frames))
    start = max(0, min(start, last - _SHORTEST))
    return put_captions(
        doc,
        track,
        [replace(doc.track(track).caption(caption), start=start, end=min(last, max(end, start + _SHORTEST)))],
    )


def split_caption(doc: Document, track: str, caption: str, letter: int, time: int | None = None) -> Document:
    """Part a caption before a letter of its text into two that follow one another.

    Without a ``time``, in milliseconds, it is parted as its letters are.
    Raises `ValueError` where a part would be empty.
    """
    old = doc.track(track).caption(caption)
    first, second = _cut(old.spans, letter)
    if not (first and second):
        raise ValueError("both parts of a caption have letters")
    if time is None:
        before = len("".join(s.text for s in first).strip())
        time = old.start + old.length * before // max(1, len(old.text.strip()))
    time = min(max(time, old.start + min(_SHORTEST, old.length // 2)), old.end - min(_SHORTEST, old.length // 2))
    if not old.start < time < old.end:
        raise ValueError("a caption of a millisecond cannot be split")
    before_it = replace(old, end=time, spans=first, unsure=())
    after_it = replace(old, id=new_id(), start=time, spans=second, unsure=())
    return put_captions(doc, track, [before_it, after_it])


def _cut(spans: tuple[Span, ...], letter: int) -> tuple[tuple[Span, ...], tuple[Span, ...]]:
    """The spans before and from a letter on, without the blanks where they part."""
    parts: tuple[list[Span], list[Span]] = ([], [])
    at = 0
    for span in spans:
        cut = min(max(letter - at, 0), len(span.text))
        parts[0].append(replace(span, text=span.text[:cut]))
        parts[1].append(replace(span, text=span.text[cut:]))
        at += len(span.text)
    before, after = (joined_spans(part) for part in parts)
    if before:
        before = joined_spans((*before[:-1], replace(before[-1], text=before[-1].text.rstrip())))
    if after:
        after = joined_spans((replace(after[0], text=after[0].text.lstrip()), *after[1:]))
    return before, after


def join_captions(doc: Document, track: str, captions: Iterable[str]) -> Document:
    """Join captions of a track into the first of them, from its beginning to the last one's end."""
    wanted = set(captions)
    parts = [c for c in doc.track(track).captions if c.id in wanted]
    if len(parts) < 2:
        return doc
    spans: list[Span] = []
    for part in parts:
        spans += [*([Span(" ")] if spans else []), *part.spans]
    whole = replace(parts[0], end=max(p.end for p in parts), spans=joined_spans(spans), unsure=())
    return put_captions(remove_captions(doc, track, [p.id for p in parts[1:]]), track, [whole])


def shift_captions(
    doc: Document, track: str, by: int = 0, scale: Fraction = Fraction(1), only: Iterable[str] | None = None
) -> Document:
    """Move captions ``by`` milliseconds after their times were stretched; those that leave the lock are removed."""
    old = doc.track(track)
    wanted = None if only is None else set(only)
    last = round(1000 * doc.lock.rate.seconds(doc.lock.frames))
    made = []
    for caption in old.captions:
        if wanted is None or caption.id in wanted:
            start, end = (round(t * scale) + by for t in (caption.start, caption.end))
            if end <= 0 or start >= last:
                continue
            caption = replace(caption, start=max(0, start), end=max(max(0, start) + 1, min(end, last)))
        made.append(caption)
    return change_track(doc, replace(old, captions=in_order(made)))


def replace_text(doc: Document, track: str, find: str, by: str, case: bool = False) -> tuple[Document, int]:
    """Put a text in place of another in all captions of a track, and say how often. A way of writing is kept."""
    if not find:
        return doc, 0
    pattern = re.compile(re.escape(find), 0 if case else re.IGNORECASE)
    count = 0
    changed = []
    for caption in doc.track(track).captions:
        spans, own = _replaced(caption.spans, pattern, by)
        if own and "".join(s.text for s in spans).strip():
            count += own
            changed.append(replace(caption, spans=spans, unsure=()))
    return put_captions(doc, track, changed) if changed else doc, count


def _replaced(spans: tuple[Span, ...], pattern: re.Pattern[str], by: str) -> tuple[tuple[Span, ...], int]:
    made = [pattern.subn(lambda _: by, span.text) for span in spans]
    return joined_spans(replace(s, text=t) for s, (t, _) in zip(spans, made, strict=True)), sum(n for _, n in made)


def set_style(doc: Document, track: str, masters: Iterable[str], style: CaptionStyle) -> Document:
    """Give a track a style in masters. Captions that differ go on differing."""
    wanted = tuple(masters)
    kept = tuple(s for s in doc.styles if s.track != track or s.master not in wanted)
    return replace(doc, styles=(*kept, *(TrackStyle(track, m, style) for m in wanted)))


def differ(doc: Document, differing: Iterable[Differing]) -> Document:
    """Say how captions differ from their track's style in masters; one that says nothing is let go."""
    new = {(d.caption, d.master): d for d in differing}
    kept = [new.pop((d.caption, d.master), d) for d in doc.differing]
    return replace(doc, differing=tuple(d for d in (*kept, *new.values()) if not d.nothing))


def differ_by(
    doc: Document, captions: Iterable[str], masters: Iterable[str], change: Callable[[Differing], Differing]
) -> Document:
    """Change how captions differ in masters, each by the same function."""
    chosen = tuple(masters)
    return differ(doc, [change(doc.differs(c, m)) for c in captions for m in chosen])
