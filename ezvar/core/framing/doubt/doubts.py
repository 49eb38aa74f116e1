"""How much a framing deserves a look, and why.

Doubt = 100·(1 − ∏(1 − weight)) over named reasons.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np

from ezvar.core.evidence import Subject, covered
from ezvar.core.model import Master, Pane, Reason, ReasonName, doubt

from ..keeping.demands import keep_boxes
from ..keeping.whom_to_follow import RIVAL, SLIGHT
from ..windows.geometry import Size, Window, placed_window
from ..windows.path import pane_aspect, pane_window, picture_size
from ..windows.place import Place
from .seen import Seen, left_out, shown_areas, spare, too_large
from .slight import little_found, slight

NEEDS_A_LOOK = 40
"""Framings from this doubt on need a look."""
WORTH_SAYING = 20
"""Framings below this doubt are hardly ever wrong (docs/FRAMING.md): what little there is to say is not said."""

_WEIGHS = 0.02
"""What a reason must weigh to be one."""
_SENTENCES = {
    "face cut": "A face is cut by the window's edge.",
    "shoulders cut": "The shoulders only just do not fit; the window may cut them.",
    "person cut": "Somebody near is cut in two by the window's edge for a while.",
    "text cut": "Writing that can be read is cut by the window's edge, or left out.",
    "subject leaves": "The subject, or much of what moves, is outside the window for a while.",
    "two subjects": "There is another subject that the window cannot keep.",
    "at the speed limit": "The window moves as fast as its pace allows.",
    "enlarged": "The window is tighter than it had to be, beyond 150\u00a0% of the picture's own pixels.",
    "nothing found": "Little was found to go by: nobody is seen clearly, and hardly anything moves.",
    "close to the edge": "What is kept comes close to the window's edge; a little more of it would be cut.",
    "does not fit": "What is kept is larger than the window, which shows a part of it.",
    "only a thing": "Nobody was found; the window keeps a thing, and something else may matter more.",
    "cut uncertain": "The cut that begins this shot is uncertain.",
}


def sentences(reasons: Iterable[Reason]) -> list[str]:
    """Each reason that weighs something in a plain sentence, the heaviest first."""
    return [_SENTENCES[r.name] for r in sorted(reasons, key=lambda r: -r.weight) if r.weight >= _WEIGHS]


def enlargement(window: Window, surface_height: float) -> float:
    """How far picture pixels are enlarged on a surface of this height that shows the window; 1 = not at all."""
    return surface_height / window.height


def reasons_for(place: Place, pane: Pane, seen: Seen) -> tuple[tuple[Reason, ...], Reason | None]:
    """The reasons for doubt about a pane's path through a place's shot, be it in the document or only meant; and the
    heaviest slight one, where it was not set by hand."""
    doc, shot, master = place.doc, place.shot, place.master
    size = picture_size(doc, shot)
    windows = [pane_window(pane, master, size, int(n) - shot.start) for n in seen.frames]
    areas = shown_areas(windows, size)
    found: list[Reason] = []

    def note(name: ReasonName, weight: float) -> None:
        if weight >= _WEIGHS:
            found.append(Reason(name, round(min(1.0, float(weight)), 3)))

    sides = np.minimum(areas[0, 2:], 1) - np.maximum(areas[0, :2], 0)
    hidden = 1 - float(sides.prod())
    note("nothing found", little_found(seen, hidden))
    if seen.subjects:
        group, first = seen.asks.group, seen.subjects[0].importance
        parts = {s.number: _part_inside(s, seen.frames, areas) for s in seen.subjects}
        cut = [np.mean((p > 0.05) & (p < 0.97)) for s in seen.subjects if s.kind == "face"
               and s.importance > 0.3 * first for p in (parts[s.number],)]  # fmt: skip
        note("face cut", _weighed(float(max(cut, default=0.0)), 0.4, 0.6))
        note("person cut", _weighed(_people_cut(seen, parts), 0.12, 0.5))
        read = round(_READ * float(doc.lock.rate.fraction))
        unread = [_unread(s, parts[s.number], seen.frames, read) for s in seen.subjects if s.kind == "text"]
        note("text cut", _weighed(max(unread, default=0.0), 0.45, 0.5))
        note("shoulders cut", _NEARLY if _nearly_fits(seen, areas) else 0.0)
        if seen.asks.lost:
            note("subject leaves", 0.6)
        elif group:
            away = _weighed(_gone_elsewhere(seen, areas), *_ELSEWHERE)
            note("subject leaves", max(away, _weighed(_left_alone(seen, areas), 0.45, 0.5)))
        else:
            note("subject leaves", _UNSTEADY * _missed(seen.subjects, parts))
        if seen.asks.chosen:
            note("two subjects", _weighed(too_large(seen, areas) if len(group) > 1 else 0.0, 0.45, 0.3))
        else:
            rivals = [s for s in seen.subjects if s not in group and s.importance > max(RIVAL * first, SLIGHT)
                      and s.kind != "moving"]  # fmt: skip
            lost = max((float(np.mean(parts[s.number] < 0.05)) for s in rivals), default=0.0)
            note("two subjects", _weighed(lost, 0.3, 0.3) if group else 0.0)
        if seen.fastest and not pane.by_hand:
            note("at the speed limit", _weighed(_at_the_limit(seen, windows, areas, size), 0.22, 1.15))
    note("enlarged", _enlarged(pane, master, size, max(enlargement(w, _tall(pane, master)) for w in windows)))
    if shot.cut is not None and shot.cut.doubt >= 30 and not shot.cut.settled:
        note("cut uncertain", shot.cut.doubt / 250)
    return tuple(found), None if pane.by_hand else Reason(*slight(seen, areas, hidden))


_READ = 0.5  # seconds for which writing must show to be read
_SURE_TEXT, _TITLE = 0.85, 0.12  # confidence of writing that can be read, and width of such as was put over the picture
_LARGE_PERSON = 0.3  # of the largest person's height and more: those who are near
_WHOLE = 2.4  # times higher than wide, in fractions of the picture, from which it is a whole figure
_HALF = (0.25, 0.85)  # parts of a person inside the window, between which it is cut in two


def _unread(text: Subject, part: np.ndarray, frames: np.ndarray, least: int) -> float:
    """The share of the frames at which writing that could be read is cut, or, if it is as wide as a title, is outside.

    Nothing where that lasts for less than ``least`` frames.
    """
    if float(np.median(text.confidence)) < _SURE_TEXT:
        return 0.0
    wide = float(np.median(text.boxes[:, 2] - text.boxes[:, 0]))
    lost = (part < 0.97) & ((part > 0.03) | (wide >= _TITLE)) & text.there(frames)
    step = float(np.median(np.diff(frames))) if len(frames) > 1 else 1.0
    return float(lost.mean()) if lost.sum() * step >= least else 0.0


def _people_cut(seen: Seen, parts: dict[int, np.ndarray]) -> float:
    """The share of the frames at which somebody near, whom the window does not follow, is cut in two by its edge."""
    people = [s for s in seen.subjects if s.kind == "person" and s not in seen.asks.group
              and s.importance >= SLIGHT and _stands(s)]  # fmt: skip
    tall = {s.number: float(np.median(s.boxes[:, 3] - s.boxes[:, 1])) for s in people}
    near = [s for s in people if tall[s.number] > _LARGE_PERSON * max(tall.values())]
    cut = [(parts[s.number] > _HALF[0]) & (parts[s.number] < _HALF[1]) for s in near]
    return float(np.any(cut, axis=0).mean()) if cut else 0.0


def _stands(person: Subject) -> bool:
    """Whether a whole figure shows, and not only a bust."""
    sides = np.median(person.boxes[:, 2:] - person.boxes[:, :2], axis=0)
    return bool(sides[1] >= _WHOLE * sides[0])


def together(panes: Sequence[tuple[Sequence[Reason], Reason | None]]) -> tuple[Reason, ...]:
    """The reasons of several panes as one framing's: of each name the heaviest.

    Where these are not worth saying, the heaviest of the slight ones is added, as far as it asks for no look.
    """
    heaviest: dict[ReasonName, Reason] = {}
    for reason in (r for reasons, _ in panes for r in reasons):
        if reason.name not in heaviest or reason.weight > heaviest[reason.name].weight:
            heaviest[reason.name] = reason
    least = max((one for _, one in panes if one), key=lambda r: r.weight, default=None)
    if least is not None and doubt(heaviest.values()) < WORTH_SAYING:
        said = doubt(r for r in heaviest.values() if r.name != least.name)
        weight = round(min(least.weight, (NEEDS_A_LOOK - 1 - said) / (100 - said)), 3)
        if weight >= max(_WEIGHS, heaviest[least.name].weight if least.name in heaviest else 0.0):
            heaviest[least.name] = Reason(least.name, weight)
    return tuple(heaviest.values())


def _tall(pane: Pane, master: Master) -> float:
    return master.height * pane.rect.height


LARGEST = 1.5
"""Enlargement beyond which pixels deserve a look."""


def _enlarged(pane: Pane, master: Master, size: Size, most: float) -> float:
    """What enlargement weighs: only where the window is tighter than the shape itself demands.

    What a filling window enlarges already holds for every shot alike; it is told once, of the master.
    """
    filling = enlargement(placed_window(size, pane_aspect(pane, master), 0.5, 0.5, trim=pane.trim), _tall(pane, master))
    least = max(filling, LARGEST)
    return 0.4 + 0.2 * (most - least) if most > 1.02 * least else 0.0


_NEVER = 0.004  # share of a shot that counts as none of it


def _weighed(share: float, from_: float, slope: float) -> float:
    """What a share of the shot weighs: nothing at all, or ``from_`` and more the larger it is."""
    return 0.0 if share <= _NEVER else min(0.95, from_ + slope * share)


_MATTERS = 0.12  # importance from which what is outside counts wholly
_UNSTEADY = 0.7  # what it weighs when all that moves, but goes no way that could be followed, is outside


def _missed(subjects: Sequence[Subject], parts: dict[int, np.ndarray]) -> float:
    """The share of all that was seen, by importance, that is outside the window; less where all of it is slight."""
    outside = [s.importance * float(np.mean(1 - parts[s.number])) for s in subjects]
    matters = min(1.0, max(s.importance for s in subjects) / _MATTERS)
    return matters * sum(outside) / sum(s.importance for s in subjects)


def _part_inside(subject: Subject, frames: np.ndarray, areas: np.ndarray) -> np.ndarray:
    """The part of a subject's box inside each area (frames,); 1 where it is not there."""
    return np.where(subject.there(frames), covered(subject.at(frames), areas), 1.0)


def _left_alone(seen: Seen, areas: np.ndarray) -> float:
    """The share of the frames that ask something at which the window does not hold it."""
    return float(left_out(seen, areas)[seen.wanted].mean()) if seen.wanted.any() else 0.0


_ELSEWHERE = 0.2, 0.4
"""What it weighs that what is kept where it came in is elsewhere."""


def _gone_elsewhere(seen: Seen, areas: np.ndarray) -> float:
    """The share of its time for which less than half shows of what is kept where it came in."""
    shares = [0.0]
    for one in seen.asks.group:
        there = one.there(seen.frames)
        if one.way is not None and there.any():
            part = covered(one.way_at(seen.frames), areas)
            shares.append(float((part[there] < 0.5).mean()))
    return max(shares)


_NEARLY = 0.42
_JUST = 1.14
"""How many times wider than the window shoulders may be that might still fit: heads and shoulders are measured from
faces, and people differ by that much."""


def _nearly_fits(seen: Seen, areas: np.ndarray) -> bool:
    """Whether one person is shown without the shoulders although these nearly fit."""
    if len(seen.asks.group) != 1 or seen.asks.group[0].kind != "face":
        return False
    person, wanted = seen.asks.group[0], seen.wanted
    if not wanted.any():
        return False
    whole, kept = keep_boxes(person, seen.frames), seen.boxes
    window = (areas[:, 2] - areas[:, 0])[wanted]
    wide = float(np.median((whole[:, 2] - whole[:, 0])[wanted] / window))
    return 1 < wide <= _JUST and float(np.median((kept[:, 2] - kept[:, 0])[wanted] / window)) < 0.95 * wide


_AT_LIMIT = 0.6  # of the most that the pace allows, from which a window has little speed to spare
_FULLY = 0.9  # of the most that the pace allows, from which there is none to spare
_MARKED = 0.16  # the share that a move at the very limit counts as at least
_CLOSE = 0.05  # of the picture, between what is kept and the window's edge


def _at_the_limit(seen: Seen, windows: Sequence[Window], areas: np.ndarray, size: Size) -> float:
    """The share of a shot in which the window moves about as fast as it may, if it does so altogether at some time or
    what it keeps comes close to its edge meanwhile."""
    if len(windows) < 2:
        return 0.0
    centres = np.array([(w.cx / size.width, w.cy / size.height) for w in windows])
    speed = np.abs(np.diff(centres, axis=0)).max(axis=1) / np.diff(seen.frames)
    close = seen.wanted & (spare(seen.boxes, areas) < _CLOSE)
    quick = speed > _AT_LIMIT * seen.fastest
    if (speed >= _FULLY * seen.fastest).any():
        return max(_MARKED, float(quick.mean()))
    return float(quick.mean()) if (quick & (close[1:] | close[:-1])).any() else 0.0
