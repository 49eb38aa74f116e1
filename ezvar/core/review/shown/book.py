"""The book of a handoff: every decision on paper, with pictures, reasons, notes, and boxes to tick."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from ezvar.core.framing import framed
from ezvar.core.model import Document, Framing, Master, ReviewNote, Shot, threads
from ezvar.core.names import readable
from ezvar.core.timing import timecode
from ezvar.core.viewing import master_line

from ..out.told import LEAST_DOUBT, said_doubt
from .paper import HEIGHT, WIDTH, Paper, height_of
from .stills import ShotStills, moments, outlines

_LEFT, _TOP, _FOOT = 40.0, 46.0, 40.0  # margins, in points
_WIDE = WIDTH - 2 * _LEFT
_FRAMES, _BESIDE = 268.0, 18.0  # how wide three frames are at most, and what lies between them and the words
_HIGH, _PICTURE = 92.0, 168.0  # of a master's frame, and how wide a shot's picture is
_GAP = 6.0
_A_PIECE = 900  # letters of a long note that are kept together
_ROWS, _COLUMNS = 58, 3  # of the contents, on a sheet
_SOFT = "#5d675f"

Draw = Callable[[Paper, float, ShotStills], None]


@dataclass(frozen=True)
class _Item:
    """A part of a sheet: how high it is, and how it is drawn from a height on. ``with_next`` is never alone at a
    sheet's foot."""

    high: float
    draw: Draw
    with_next: bool = False


def book(doc: Document, masters: Sequence[Master], shots: Sequence[Shot], stills: Iterator[ShotStills]) -> bytes:
    """The book for some masters and shots, with their ``stills`` in the same order, as a PDF of A4 sheets.

    For each shot its picture with the windows; for each master the first, the
    middle and the last frame, the verdict with boxes, why it is doubtful, and
    the notes. Ahead of it contents with the numbers of the sheets. Long.
    """
    items = [(shot, list(_items(doc, shot, masters))) for shot in shots]
    ahead = 1 + -(-len(shots) // (_ROWS * _COLUMNS))
    sheets, begins = _sheets(doc, items)
    paper = Paper(f"{readable(doc.lock.name)}: how it is framed")
    total = ahead + len(sheets)
    with paper.sheet():
        _cover(paper, doc, masters, shots)
        _number(paper, doc, 1, total)
    for k in range(ahead - 1):
        part = shots[k * _ROWS * _COLUMNS : (k + 1) * _ROWS * _COLUMNS]
        with paper.sheet():
            _contents(paper, doc, masters, part, [ahead + 1 + begins[s.id] for s in part])
            _number(paper, doc, 2 + k, total)
    known: dict[str, ShotStills] = {}
    for number, sheet in enumerate(sheets, ahead + 1):
        known = {shot.id: known.get(shot.id) or next(stills) for shot in dict.fromkeys(shot for shot, _, _ in sheet)}
        with paper.sheet():
            for shot, item, y in sheet:
                item.draw(paper, y, known[shot.id])
            _number(paper, doc, number, total)
    return paper.whole()


def _sheets(
    doc: Document, items: Sequence[tuple[Shot, list[_Item]]]
) -> tuple[list[list[tuple[Shot, _Item, float]]], dict[str, int]]:
    """The sheets, each with its parts and their heights on it; and on which of them, from 0, each shot begins."""
    sheets: list[list[tuple[Shot, _Item, float]]] = []
    begins: dict[str, int] = {}
    y, room = HEIGHT, HEIGHT - _FOOT
    for shot, parts in items:
        for k, item in enumerate(parts):
            needs = item.high + (parts[k + 1].high if item.with_next and k + 1 < len(parts) else 0.0)
            if y + needs > room or not sheets:
                sheets.append([])
                y = _TOP
                if k:
                    goes_on = _said(f"Shot {doc.place_of(shot.id) + 1}, continued", -12.0, bold=True)
                    sheets[-1].append((shot, goes_on, y))
                    y += goes_on.high + 4
            sheets[-1].append((shot, item, y))
            begins.setdefault(shot.id, len(sheets) - 1)
            y += item.high
    return sheets, begins


def _items(doc: Document, shot: Shot, masters: Sequence[Master]) -> Iterator[_Item]:
    """The parts of a shot: its picture, then each master with its notes."""
    yield _head(doc, shot, masters)
    for note in _all_of(doc, shot, ""):
        yield from _note(doc, shot, note)
    for place, master in enumerate(masters):
        yield _row(doc, shot, master, place)
        for note in _all_of(doc, shot, master.id):
            yield from _note(doc, shot, note)
    yield _Item(10.0, lambda paper, y, stills: None)


def _all_of(doc: Document, shot: Shot, master: str) -> list[ReviewNote]:
    """The notes of a shot in a master, or of the shot where none is named, thread by thread."""
    found = [n for n in doc.notes_on(shot.id, master) if n.master == master]
    return [note for thread in threads(found) for note in thread]


def _head(doc: Document, shot: Shot, masters: Sequence[Master]) -> _Item:
    lock, media = doc.lock, doc.media_of(shot)
    seconds, rest = divmod(shot.frames, lock.rate.nominal)
    size = f"{media.width:g} × {media.height:g}" if media.width else ""
    name = media.name or media.path.replace("\\", "/").rsplit("/", 1)[-1]
    high = _PICTURE * media.height / media.width if media.width else _PICTURE * 9 / 16
    high = min(high, _HIGH * 1.2)
    windows = [
        (master_line(place), outlines(doc, shot, master, moments(shot)[1] - shot.start))
        for place, master in enumerate(masters)
    ]

    def draw(paper: Paper, y: float, stills: ShotStills) -> None:
        wide = high * media.width / media.height if media.width else _PICTURE
        paper.rule(_LEFT, y, _WIDE, "#20302d")
        paper.picture(stills.picture, _LEFT, y + 8, wide, high)
        for line, corners in windows:
            for each in corners:
                at = each * (wide, high) + np.array([_LEFT, y + 8])
                paper.outline(at, line.on_picture, line.dash, (_LEFT, y + 8, wide, high))
        x = _LEFT + max(wide, _PICTURE) + _BESIDE
        paper.write(f"Shot {doc.place_of(shot.id) + 1}", x, y + 6, 200, 15, bold=True)
        begins = timecode(lock.start + shot.start, lock.rate, lock.drop)
        paper.write(begins, x, y + 28, 200, 10, figures=True)
        told = f"{seconds} s {rest} frames, {readable(name)} {size}".strip()
        paper.write(told, x, y + 44, _LEFT + _WIDE - x, 9, _SOFT)

    return _Item(high + 18, draw, with_next=True)


def _row(doc: Document, shot: Shot, master: Master, place: int) -> _Item:
    framing, line = framed(doc, shot, master), master_line(place)
    each = min(_HIGH * master.width / master.height, (_FRAMES - 2 * _GAP) / 3)
    high = each * master.height / master.width
    x = _LEFT + max(3 * each + 2 * _GAP, _PICTURE) + _BESIDE
    words, room = _why(framing), _LEFT + _WIDE - x
    tall = max(high, 34 + height_of(words, room, 8.5)) + 12

    def draw(paper: Paper, y: float, stills: ShotStills) -> None:
        for k, data in enumerate(stills.masters[master.id]):
            paper.picture(data, _LEFT + k * (each + _GAP), y, each, high)
        paper.outline(np.array([[x, y + 7], [x + 22, y + 7]]), line.on_paper, line.dash, (x, y, 22, 14))
        paper.write(master.name, x + 30, y - 1, room - 30, 11, bold=True)
        at = x
        for verdict in ("agreed", "change"):
            paper.box(at, y + 18, 9, framing.verdict == verdict)
            paper.write(verdict, at + 13, y + 16, 60, 9)
            at += 70
        paper.write(words, x, y + 32, room, 8.5, _SOFT)

    return _Item(tall, draw)


def _why(framing: Framing) -> str:
    figure, reasons = said_doubt(framing)
    doubtful = f"Doubt {figure}. {reasons}" if figure >= LEAST_DOUBT else ""
    return f"{framing.why} {doubtful}".strip()


def _note(doc: Document, shot: Shot, note: ReviewNote) -> Iterator[_Item]:
    """A note, in pieces that fit on a sheet."""
    lock, inset = doc.lock, 18.0 if note.answers else 0.0
    at = timecode(lock.start + shot.start + max(0, note.start), lock.rate, lock.drop)
    head = f"{note.author or 'Somebody'}, {at}" + ("" if note.text.strip() else ": a drawing")
    yield _said(head, inset, bold=True)
    for piece in _pieces(note.text.strip()):
        yield _said(piece, inset)
    yield _Item(5.0, lambda paper, y, stills: None)


def _said(text: str, inset: float, bold: bool = False) -> _Item:
    x, room = _LEFT + 12 + inset, _WIDE - 12 - inset
    return _Item(
        height_of(text, room, 9, bold) + 3,
        lambda paper, y, stills: (paper.write(text, x, y, room, 9, bold=bold), None)[1],
        with_next=bold,
    )


def _pieces(text: str) -> Iterator[str]:
    """A text in pieces of at most so many letters, parted between words where there are some."""
    while len(text) > _A_PIECE:
        at = max(text.rfind(" ", 0, _A_PIECE), text.rfind("\n", 0, _A_PIECE))
        at = at if at > 0 else _A_PIECE
        yield text[:at]
        text = text[at:].lstrip()
    if text:
        yield text


def _cover(paper: Paper, doc: Document, masters: Sequence[Master], shots: Sequence[Shot]) -> None:
    lock = doc.lock
    y = 150.0
    y += paper.write(readable(lock.name), _LEFT, y, _WIDE, 26, bold=True) + 6
    y += paper.write("how it is framed in other shapes", _LEFT, y, _WIDE, 13, _SOFT) + 24
    first, last = (timecode(lock.start + n, lock.rate, lock.drop) for n in (0, lock.frames - 1))
    y += paper.write(f"{len(shots)} of {len(doc.shots)} shots, {lock.rate} frames a second", _LEFT, y, _WIDE, 10) + 4
    y += paper.write(f"{first} to {last}", _LEFT, y, _WIDE, 10, figures=True) + 24
    for place, master in enumerate(masters):
        line = master_line(place)
        paper.outline(np.array([[_LEFT, y + 8], [_LEFT + 30, y + 8]]), line.on_paper, line.dash, (_LEFT, y, 30, 16))
        said = f"{master.name}, {master.width} × {master.height} pixels: {_counts(doc, master, shots)}"
        y += paper.write(said, _LEFT + 40, y, _WIDE - 40, 10) + 6
    said = (
        "For each shot its picture with the windows of all shapes in their lines; for each shape the first, the middle "
        "and the last frame, why it is framed so, and what was noted. Tick agreed or change, write beside it, and send "
        "the sheets back."
    )
    paper.write(said, _LEFT, y + 24, _WIDE * 0.72, 10, _SOFT)


def _counts(doc: Document, master: Master, shots: Sequence[Shot]) -> str:
    verdicts = [framed(doc, shot, master).verdict for shot in shots]
    return ", ".join(f"{verdicts.count(v)} {v}" for v in ("agreed", "change", "open") if v in verdicts)


def _contents(
    paper: Paper, doc: Document, masters: Sequence[Master], shots: Sequence[Shot], numbers: Sequence[int]
) -> None:
    """Shots with their timecode, their highest doubt, and the sheet that they begin on."""
    paper.write("Contents", _LEFT, _TOP - 8, _WIDE, 13, bold=True)
    wide = _WIDE / _COLUMNS
    for k, (shot, number) in enumerate(zip(shots, numbers, strict=True)):
        x, y = _LEFT + k // _ROWS * wide, _TOP + 14 + k % _ROWS * 12.2
        begins = timecode(doc.lock.start + shot.start, doc.lock.rate, doc.lock.drop)
        doubt = max((framed(doc, shot, m).doubt for m in masters), default=0)
        paper.write(f"{doc.place_of(shot.id) + 1}", x, y, 26, 8.5, bold=True)
        paper.write(begins, x + 28, y, 70, 8, figures=True)
        if doubt >= LEAST_DOUBT:
            paper.write(f"doubt {doubt}", x + 92, y, 44, 7.5, _SOFT)
        paper.write(f"{number}", x + 138, y, 30, 8.5)


def _number(paper: Paper, doc: Document, number: int, total: int) -> None:
    paper.write(readable(doc.lock.name), _LEFT, HEIGHT - 30, 300, 8, _SOFT)
    paper.write(f"{number} of {total}", WIDTH - _LEFT - 60, HEIGHT - 30, 60, 8, _SOFT)
