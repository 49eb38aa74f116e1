"""A lock's shots as a CMX3600 edit decision list."""

from __future__ import annotations

from pathlib import Path

from ezvar.core.lock import mix_of
from ezvar.core.model import Document, Shot, Wipe
from ezvar.core.names import readable
from ezvar.core.timing import Rate, can_drop, timecode


def edl_text(doc: Document) -> str:
    """The shots as events with cuts, dissolves, wipes and speeds; a fade is a dissolve with black.

    Of a flat lock its mixes are in the picture already, so that all its
    events are cuts. Not written: sound, titles, placements.
    """
    lock = doc.lock
    drop = lock.drop and can_drop(lock.rate)
    lines = [f"TITLE: {lock.name}", f"FCM: {'DROP FRAME' if drop else 'NON-DROP FRAME'}", ""]
    for number, shot in enumerate(doc.shots, 1):
        before = doc.shots[number - 2] if number > 1 else None
        cut = None if lock.flat or before is None else mix_of(shot)
        following = None if lock.flat or number == len(doc.shots) else mix_of(doc.shots[number])
        begins = cut.start if cut else shot.start
        ends = following.start if following else shot.end
        if before and cut:
            how = f"W{(cut.wipe or Wipe()).pattern:03d}" if cut.kind == "wipe" else "D   "
            lines.append(_event(doc, number, before, begins, begins, "C   ", None, drop))
            lines.append(_event(doc, number, shot, begins, ends, how, cut.end - cut.start, drop))
            lines += [f"* FROM CLIP NAME: {_name(doc, before)}", f"* TO CLIP NAME: {_name(doc, shot)}"]
        else:
            lines.append(_event(doc, number, shot, begins, ends, "C   ", None, drop))
            lines.append(f"* FROM CLIP NAME: {_name(doc, shot)}")
        lines += _speed(doc, shot, begins)
    return "\n".join(lines) + "\n"


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
