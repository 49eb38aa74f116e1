"""A lock's shots as a CMX3600 edit decision list."""

from __future__ import annotations

import textwrap
from collections.abc import Collection
from functools import lru_cache
from pathlib import Path

from ezvar.core.lock import mix_of
from ezvar.core.model import Document, Framing, Master, Shot, Wipe, threads
from ezvar.core.names import readable
from ezvar.core.timing import Rate, can_drop, timecode

from .told import LEAST_DOUBT, Common, said_doubt

MOST_EVENTS = 999
"""Events of one list: their numbers have three digits."""
_LONGEST = 78  # signs of a comment line


def edl_texts(
    doc: Document, master: Master | None = None, shots: Collection[str] = (), common: Common | None = None
) -> list[str]:
    """The shots as events with cuts, dissolves, wipes and speeds; a fade is a dissolve with black. In as many lists as
    their numbers need, one after the other.

    With a ``master`` each event says its windows, in picture pixels, at the
    keyframes and the shot's ends, its verdict and its doubt, in comments.
    ``shots``, by their ids, are those that are listed, where any are named.
    Of a flat lock its mixes are in the picture already, so that all its
    events are cuts. Not written: sound, titles, placements.
    """
    lock, common = doc.lock, common or Common(doc)
    drop = lock.drop and can_drop(lock.rate)
    name = lock.name if master is None else f"{lock.name} {master.name}"
    wanted = [k for k, shot in enumerate(doc.shots) if not shots or shot.id in shots]
    parts = [wanted[k : k + MOST_EVENTS] for k in range(0, len(wanted), MOST_EVENTS)]
    made = []
    for part, places in enumerate(parts, 1):
        title = name if len(parts) == 1 else f"{name} {part} of {len(parts)}"
        lines = [f"TITLE: {title}", f"FCM: {'DROP FRAME' if drop else 'NON-DROP FRAME'}", ""]
        for number, place in enumerate(places, 1):
            lines += _shot(doc, place, number, drop)
            framing = None if master is None else doc.framing(doc.shots[place].id, master.id)
            if master is not None and framing is not None:
                lines += _decision(common, doc.shots[place], master, framing)
        made.append("\n".join(lines) + "\n")
    return made


def _shot(doc: Document, place: int, number: int, drop: bool) -> list[str]:
    """The event, or the two of a mix, of a shot."""
    flat, shot = doc.lock.flat, doc.shots[place]
    before = doc.shots[place - 1] if place else None
    cut = None if flat or before is None else mix_of(shot)
    following = None if flat or place + 1 == len(doc.shots) else mix_of(doc.shots[place + 1])
    begins = cut.start if cut else shot.start
    ends = following.start if following else shot.end
    if before and cut:
        how = f"W{(cut.wipe or Wipe()).pattern:03d}" if cut.kind == "wipe" else "D   "
        lines = [
            _event(doc, number, before, begins, begins, "C   ", None, drop),
            _event(doc, number, shot, begins, ends, how, cut.end - cut.start, drop),
            f"* FROM CLIP NAME: {_name(doc, before)}", f"* TO CLIP NAME: {_name(doc, shot)}",
        ]  # fmt: skip
    else:
        lines = [_event(doc, number, shot, begins, ends, "C   ", None, drop), f"* FROM CLIP NAME: {_name(doc, shot)}"]
    return lines + _speed(doc, shot, begins)


def _decision(common: Common, shot: Shot, master: Master, framing: Framing) -> list[str]:
    """A framing as comments: windows by pane and frame of the shot, verdict, doubt."""
    count = len(framing.panes)
    lines = [f"* SHOT {common.doc.place_of(shot.id) + 1} IN {readable(master.name)}, {master.width} X {master.height}"]
    for told in common.windows(shot, master, framing):
        w = told.window
        lines.append(f"* WINDOW {told.pane}/{count} F {told.frame} X {w.left:.3f} Y {w.top:.3f} "
                     f"W {w.width:.3f} H {w.height:.3f} A {w.angle:.3f}")  # fmt: skip
    lines.append(f"* VERDICT {framing.verdict.upper()}")
    for note in (n for thread in threads(common.doc.notes_on(shot.id, master.id)) for n in thread):
        said = f"NOTE OF {readable(note.author)} F {max(0, note.start)}: {readable(note.text or 'a drawing')}"
        lines += _wrapped(said)
    figure, why = said_doubt(framing)
    if figure >= LEAST_DOUBT:
        lines += _wrapped(f"DOUBT {figure}. {why}")
    return lines


@lru_cache(maxsize=1024)
def _wrapped(said: str) -> tuple[str, ...]:
    """A text as comments; its further lines stand deeper, so that no words of it are taken for a window."""
    return tuple(f"* {line}" for line in textwrap.wrap(said, _LONGEST, subsequent_indent="  "))


def _event(
    doc: Document, number: int, shot: Shot, start: int, end: int, how: str, length: int | None, drop: bool
) -> str:
    lock = doc.lock
    source = _source_frame(doc, shot, start)
    played = round(abs(_speed_of(doc, shot)) * (end - start)) if _speed_of(doc, shot) else end - start
    times = [timecode(f, lock.rate) for f in (source, source + played)]
    times += [timecode(lock.start + f, lock.rate, drop) for f in (start, end)]
    mix = f"{length:03d}" if length is not None else "   "
    return f"{number:03d}  {_reel(doc, shot):<32} V     {how} {mix}  {' '.join(times)}"


def _source_frame(doc: Document, shot: Shot, frame: int) -> int:
    """The source timecode of what a shot shows at a lock frame, in frames of the lock's rate."""
    media, rate = doc.media_of(shot), doc.lock.rate
    seconds = media.origin + shot.source.at(frame - shot.start) / media.rate.fraction
    return max(0, round(seconds * rate.fraction))


def _speed_of(doc: Document, shot: Shot) -> float:
    media = doc.media_of(shot)
    if media.kind in ("black", "still"):
        return 1.0
    return float(shot.source.step * doc.lock.rate.fraction / media.rate.fraction)


def _speed(doc: Document, shot: Shot, start: int) -> list[str]:
    speed = _speed_of(doc, shot)
    if speed == 1:
        return []
    rate: Rate = doc.lock.rate
    at = timecode(_source_frame(doc, shot, start), rate)
    return [f"M2   {_reel(doc, shot):<32} {speed * rate.nominal:05.1f}                {at}"]


def _reel(doc: Document, shot: Shot) -> str:
    media = doc.media_of(shot)
    if media.kind == "black":
        return "BL"
    return "".join(c if c.isalnum() or c in "-_." else "_" for c in media.reel or Path(media.path).stem)[:32] or "AX"


def _name(doc: Document, shot: Shot) -> str:
    media = doc.media_of(shot)
    return "black" if media.kind == "black" else readable(Path(media.path.replace("\\", "/")).name or media.name)
