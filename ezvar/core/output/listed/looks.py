"""How a row of the output list is told: what is known of it in a few words, and its parts."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path
from typing import Literal

from ezvar.core.model import Document, Finished, MadePart, Makings, Ordered, Row
from ezvar.core.timing import FrameRange, can_drop, timecode

from ..orders import Doing
from ..segments import file_stamp, parted
from .expecting import Expected
from .listing import changed_since, is_as_ordered

State = Literal[
    "not made", "being made", "waits", "stopped", "failed", "gone", "failed the check", "moved on", "checked"
]
PartState = Literal["to be made", "under way", "made", "differs"]


@dataclass(frozen=True)
class PartLook:
    """Lock frames of a row, and what is known of them."""

    start: int
    end: int
    state: PartState


@dataclass(frozen=True)
class RowLook:
    """What is told of a row: ``status`` in a word or two, ``said`` beside it, and ``story``, a sentence or more."""

    state: State
    status: str
    said: str
    story: str
    parts: tuple[PartLook, ...]


@dataclass
class Live:
    """A row that is being made: its parts, by their lock frames, as far as they are told."""

    doing: dict[tuple[int, int], Doing] = field(default_factory=dict)


def row_look(
    doc: Document, row: Row, makings: Makings, live: Live | None = None, now: Sequence[MadePart] | None = None,
    coming: Expected | None = None,
) -> RowLook:  # fmt: skip
    """What is told of a row of a document: ``live`` where it is being made, with the parts that it would consist of
    ``now``, and what it is expected to come to, where these are known."""
    said = f"{size_said(coming.size)}, {time_said(coming.seconds)}" if coming is not None and coming.size else ""
    finished, ordered = makings.finished_of(row.id), makings.ordered_of(row.id)
    if live is not None:
        return _being_made(doc, row, live, finished)
    if ordered is not None:
        return _ordered(doc, row, ordered, finished, said)
    if finished is None:
        return RowLook("not made", "not made", said, _what(doc, row), _parts(doc, row, {}))
    if finished.made.stamp != file_stamp(finished.made.file):
        said = f"{Path(finished.made.file).name} is not there any more, or was changed by somebody."
        return RowLook("gone", "not there any more", "", said, _parts(doc, row, {}))
    again = changed_since(finished, row, now) if now is not None else ()
    if again or not is_as_ordered(finished, row):
        return _moved_on(doc, row, finished, again or (), now)
    if finished.report.flaws:
        return _flawed(doc, row, finished)
    size = _size(finished)
    made = _parts(doc, row, {}, usual="made")
    story = f"{_what(doc, row)} It was checked after it was made: all is as it should be.{_sent_story(finished)}"
    sent = f" · {finished.sent.state}" if finished.sent is not None else ""
    return RowLook("checked", "checked", f"{_ago(finished.moment)} · {size}{sent}", story, made)


def _sent_story(finished: Finished) -> str:
    """What came of sending it, in a sentence."""
    sent = finished.sent
    if sent is None:
        return ""
    if sent.state == "accepted":
        return f" It was sent: {sent.receiver} took it, {_ago(sent.moment)}."
    if sent.state == "refused":
        return f" It was sent, and refused by {sent.receiver}: {sent.said}."
    return f" Sending it to {sent.receiver} broke off at {sent.there:.0%}: {sent.said}. It goes on from there."


def _being_made(doc: Document, row: Row, live: Live, finished: Finished | None) -> RowLook:
    parts = _parts(doc, row, live.doing)
    made, count = sum(p.state == "made" for p in parts), len(parts)
    again = finished is not None
    status = "made again" if again else "being made"
    story = f"{_what(doc, row)} {'It is made again' if again else 'It is being made'}; what is whole is kept."
    return RowLook("being made", status, f"{made} of {count} parts" if count > 1 else "", story, parts)


def _ordered(doc: Document, row: Row, ordered: Ordered, finished: Finished | None, said: str) -> RowLook:
    parts = _parts(doc, row, {})
    if ordered.state == "waits":
        return RowLook("waits", "waits", said, f"{_what(doc, row)} It waits for its turn.", parts)
    if ordered.state == "failed":
        return RowLook("failed", "could not be made", "", ordered.said, parts)
    older = "" if finished is None else " The movie that was made before is as it was."
    story = f"{_what(doc, row)} It is not finished, and goes on from its last whole part.{older}"
    return RowLook("stopped", "not finished", "goes on where it was", story, parts)


def _moved_on(
    doc: Document, row: Row, finished: Finished, again: Sequence[FrameRange], now: Sequence[MadePart] | None
) -> RowLook:
    count = len(now or finished.made.parts)
    states: dict[tuple[int, int], PartState] = {(p.start, p.end): "made" for p in now or ()}
    states |= {(span.start, span.end): "to be made" for span in again}
    shots = [k for k, s in enumerate(doc.shots, 1) if any(s.start < a.end and a.start < s.end for a in again)]
    if not is_as_ordered(finished, row):
        story = "Its range or preset is another one since it was made."
    elif len(shots) == 1:
        story = f"Shot {shots[0]}, or what stands over it, changed since it was made."
    else:
        story = f"Something in shots {shots[0]} to {shots[-1]} changed since it was made." if shots else ""
    rest = f" {len(again)} of {count} parts would be made again, the rest stays." if again else ""
    said = f"{len(again)} of {count} parts" if again else ""
    return RowLook(
        "moved on", "project has moved on", said, f"{_what(doc, row)} {story}{rest}", _parts(doc, row, states)
    )


def _flawed(doc: Document, row: Row, finished: Finished) -> RowLook:
    flaws = finished.report.flaws
    parts = list(_parts(doc, row, {}, usual="made"))
    for flaw in flaws:
        if flaw.start is not None and flaw.end is not None:
            parts.append(PartLook(max(row.start, flaw.start), min(row.end, flaw.end), "differs"))
    more = f" and {len(flaws) - 1} more" if len(flaws) > 1 else ""
    story = f"{_what(doc, row)} {' '.join(finished.report.problems)}{_sent_story(finished)}"
    return RowLook("failed the check", "failed the check", f"{flaws[0].said.rstrip('.')}{more}", story, tuple(parts))


def _parts(
    doc: Document, row: Row, states: Mapping[tuple[int, int], PartState], usual: PartState = "to be made"
) -> tuple[PartLook, ...]:
    """The parts of a row as they are told; where none are, those that it would be made in now, as ``usual``."""
    states = states or {(s.start, s.end): usual for s in parted(doc, row.range)}
    return tuple(PartLook(start, end, state) for (start, end), state in sorted(states.items()))


def _what(doc: Document, row: Row) -> str:
    """Which frames of which master a row is."""
    master = doc.master(row.master)
    first, last = (doc.place_of(doc.shot_at(frame).id) + 1 for frame in (row.start, row.end - 1))
    if (row.start, row.end) == (0, doc.lock.frames):
        return f"All of the master {master.name}."
    return (
        f"Shot{'s' if last > first else ''} {first}{f' to {last}' if last > first else ''} of the master {master.name}."
    )


def facts_of(doc: Document, row: Row) -> str:
    """The range and size of a row in a few words: "whole · 1080 × 1920"."""
    master, rate = doc.master(row.master), doc.lock.rate
    if (row.start, row.end) == (0, doc.lock.frames):
        return f"whole · {master.width} × {master.height}"
    label = timecode(doc.lock.start + row.start, rate, doc.lock.drop and can_drop(rate))
    return f"{label}, {float(rate.seconds(row.end - row.start)):.4g} s · {master.width} × {master.height}"


def size_said(count: int) -> str:
    """So many bytes, as people say them: 64 MB."""
    return (
        f"{count / 1e6:.0f} MB"
        if count >= 1e7
        else f"{count / 1e6:.1f} MB"
        if count >= 1e5
        else f"{count / 1e3:.0f} kB"
    )


def coming_said(coming: Sequence[Expected | None]) -> str:
    """What rows are expected to come to together; empty while that is not known of all."""
    known = [each for each in coming if each is not None]
    if not known or len(known) < len(coming):
        return ""
    seconds, size = sum(each.seconds for each in known), sum(each.size for each in known)
    return f"about {time_said(seconds)} · {size_said(size)}"


def time_said(seconds: float) -> str:
    """How long something takes, as people say it: 1 min 10 s."""
    if seconds < 60:
        return f"{max(1, round(seconds))} s"
    minutes, rest = divmod(round(seconds / 10) * 10, 60)
    if minutes >= 60:
        return f"{minutes // 60} h {minutes % 60} min"
    return f"{minutes} min {rest} s" if rest else f"{minutes} min"


def _size(finished: Finished) -> str:
    path = Path(finished.made.file)
    try:
        return size_said(sum(f.stat().st_size for f in path.iterdir()) if path.is_dir() else path.stat().st_size)
    except OSError:
        return ""


def _ago(moment: str) -> str:
    """How long ago a moment was: "3 min ago"."""
    minutes = int((datetime.now(UTC) - datetime.fromisoformat(moment)).total_seconds() // 60)
    if minutes < 1:
        return "just now"
    if minutes < 60:
        return f"{minutes} min ago"
    return f"{minutes // 60} h ago" if minutes < 48 * 60 else f"{minutes // (24 * 60)} days ago"
