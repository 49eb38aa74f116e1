"""Reading windows and verdicts that come back in the comments of an edit decision list."""

from __future__ import annotations

import os
import re
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import cast

from ezvar.core.errors import TimelineError
from ezvar.core.framing import Window, pane_aspect, pane_picture_size, pane_window, placed_window
from ezvar.core.lock import mix_of
from ezvar.core.model import Document, Framing, Keyframe, Master, Pane, Shot, Verdict
from ezvar.core.timing import frame_of
from ezvar.core.way_in import read_bytes

from .returned import NotOurs, Returned

_LONGEST = 1000  # signs of a line
_NUMBER = r"(-?\d{1,7}(?:\.\d{1,6})?)"
_EVENT = re.compile(r"^\d{3,}\s+\S+\s+V\s.*\s(\d{2}:\d{2}:\d{2}[:;]\d{2}) \d{2}:\d{2}:\d{2}[:;]\d{2}\s*$")
_OF = re.compile(r"^\* SHOT \d+ IN (.*), (\d{1,5}) X (\d{1,5})\s*$")
_WINDOW = re.compile(
    rf"^\* WINDOW (\d{{1,3}})/\d{{1,3}} F (\d{{1,7}}) X {_NUMBER} Y {_NUMBER} W {_NUMBER} H {_NUMBER} A {_NUMBER}\s*$"
)
_VERDICT = re.compile(r"^\* VERDICT (OPEN|AGREED|CHANGE)\s*$")
_SAME = 0.0011  # pixels, degrees: as they are printed


@dataclass
class _Told:
    """What a list says of a shot: where it begins in the lock, for which master, and its windows by pane."""

    frame: int
    master: tuple[str, int, int]
    windows: dict[int, list[tuple[int, Window]]] = field(default_factory=lambda: defaultdict(list))
    verdict: str = ""


def read_list(path: str | os.PathLike[str], doc: Document) -> list[Returned]:
    """The decisions in the comments of an edit decision list of a handoff, by master.

    Windows that are ours, as they are printed, are ours. Of others a list
    knows the places at some frames, and not the path between: they go evenly,
    which is told. Raises `TimelineError` for what holds none of our comments.
    """
    text = read_bytes(path, TimelineError, "an edit decision list").decode("utf-8", "replace")
    told = _shots(text, doc)
    if not told:
        raise NotOurs("it holds no reframe decisions", file=path, remedy="Choose a list from a handoff")
    begins = {(mix.start if not doc.lock.flat and (mix := mix_of(s)) else s.start): s for s in doc.shots}
    return [
        _of_master(doc, of, [each for each in told if each.master == of], begins)
        for of in dict.fromkeys(each.master for each in told)
    ]


def _shots(text: str, doc: Document) -> list[_Told]:
    found: list[_Told] = []
    at: int | None = None
    for line in text.splitlines():
        if len(line) > _LONGEST:
            continue
        if event := _EVENT.match(line):
            at = _frame(event[1], doc)
        elif (of := _OF.match(line)) and at is not None:
            found.append(_Told(at, (of[1], int(of[2]), int(of[3]))))
        elif found and (window := _WINDOW.match(line)):
            x, y, width, height, angle = (float(v) for v in window.groups()[2:])
            made = Window(x + width / 2, y + height / 2, width, height, angle)
            found[-1].windows[int(window[1])].append((int(window[2]), made))
        elif found and (verdict := _VERDICT.match(line)):
            found[-1].verdict = verdict[1].lower()
    return found


def _frame(said: str, doc: Document) -> int | None:
    try:
        return frame_of(said, doc.lock.rate) - doc.lock.start
    except ValueError:
        return None


def _of_master(
    doc: Document, of: tuple[str, int, int], told: Sequence[_Told], begins: dict[int, Shot]
) -> Returned:  # fmt: skip
    name, width, height = of
    master = next((m for m in doc.masters if (m.name, m.width, m.height) == of), None)
    framings: list[tuple[Framing, str]] = []
    problems: list[str] = []
    for each in told if master is not None else ():
        shot = begins.get(each.frame)
        ours = doc.framing(shot.id, master.id) if shot is not None and master is not None else None
        if shot is None or ours is None:
            problems.append(f"No shot here begins at frame {each.frame}, or it has no framing in {name}.")
            continue
        where = f"Shot {doc.place_of(shot.id) + 1} in {name}"
        try:
            framing, lost = _framing(doc, shot, doc.master(ours.master), ours, each)
        except ValueError as error:
            problems.append(f"{where}: {error}.")
            continue
        if lost:
            problems.append(f"{where}: between its keyframes the window goes evenly.")
        framings.append((framing, doc.sent(shot.id, ours.master)))
    spans = tuple((s.id, s.start, s.frames) for s in doc.shots)
    return Returned(
        doc.lock.content, "", doc.lock.frames, name, (width, height), tuple(framings), spans, tuple(problems)
    )


def _framing(doc: Document, shot: Shot, master: Master, ours: Framing, told: _Told) -> tuple[Framing, bool]:
    """Our framing with the windows and the verdict of a list, and whether a path between windows is lost."""
    panes, lost = list(ours.panes), False
    for number, windows in told.windows.items():
        if not 1 <= number <= len(panes):
            raise ValueError(f"it has no pane {number}")
        pane = panes[number - 1]
        if not _is(doc, shot, master, pane, windows):
            panes[number - 1] = replace(pane, keys=_keys(doc, shot, master, pane, windows))
            lost = lost or len(panes[number - 1].keys) > 1
    verdict = cast(Verdict, told.verdict or ours.verdict)
    return replace(ours, panes=tuple(panes), verdict=verdict), lost


def _is(doc: Document, shot: Shot, master: Master, pane: Pane, windows: Sequence[tuple[int, Window]]) -> bool:
    """Whether a pane's windows are those that a list says."""
    size = pane_picture_size(doc, shot, pane)
    return all(_alike(pane_window(pane, master, size, frame), window) for frame, window in windows)


def _alike(one: Window, other: Window) -> bool:
    pairs = (
        (one.left, other.left), (one.top, other.top), (one.width, other.width), (one.height, other.height),
        (one.angle, other.angle),
    )  # fmt: skip
    return all(abs(a - b) <= _SAME for a, b in pairs)


def _keys(
    doc: Document, shot: Shot, master: Master, pane: Pane, windows: Sequence[tuple[int, Window]]
) -> tuple[Keyframe, ...]:
    size, aspect = pane_picture_size(doc, shot, pane), pane_aspect(pane, master)
    made = []
    for frame, window in sorted(windows, key=lambda each: each[0]):
        if window.width <= 0:
            raise ValueError("a window has a width")
        fills = placed_window(size, aspect, 0.5, 0.5, 1.0, window.angle, pane.trim).width
        made.append(Keyframe(frame, window.cx / size.width, window.cy / size.height, fills / window.width, window.angle,
                             "linear"))  # fmt: skip
    resting = all(_alike(window, windows[0][1]) for _, window in windows)
    return (replace(made[0], frame=0, ease="both"),) if resting else tuple(made)
