"""Black bars that are part of the picture: windows stay inside what they leave."""

from __future__ import annotations

from dataclasses import replace

from ezvar.core.evidence import Analysis
from ezvar.core.model import Document, Framing, Pane, Rect, Shot

_WHOLE = Rect()
_SAME = 0.004  # of the picture, by which a trim may differ from what bars leave and still be theirs


def active_rect(shot: Shot, analysis: Analysis) -> Rect | None:
    """What black bars leave of a shot's picture, as fractions of it; ``None`` where there are none."""
    found = analysis.active(shot.start, shot.end)
    if found is None:
        return None
    left, top, right, foot = (round(v, 5) for v in found)
    return Rect(left, top, round(right - left, 5), round(foot - top, 5))


def without_bars(framing: Framing, active: Rect | None) -> Framing:
    """A framing whose panes are trimmed to what bars leave, unless an editor has asked to show them, trimmed the
    picture or set a path by hand; and whole again where bars that had trimmed it are to be shown."""
    return replace(framing, panes=tuple(_pane(p, active) for p in framing.panes))


def _pane(pane: Pane, active: Rect | None) -> Pane:
    if pane.shot or pane.by_hand or active is None:
        return pane
    if pane.choices.with_bars:
        return replace(pane, trim=_WHOLE) if _alike(pane.trim, active) else pane
    return replace(pane, trim=active) if pane.trim == _WHOLE else pane


def _alike(a: Rect, b: Rect) -> bool:
    return all(abs(x - y) <= _SAME for x, y in ((a.x, b.x), (a.y, b.y), (a.width, b.width), (a.height, b.height)))


def bars_said(doc: Document, analysis: Analysis) -> str:
    """A sentence on the black bars of a lock and where they are; empty where there are none."""
    if not analysis.bars["sharp"].any():
        return ""
    found = [(k, rect) for k, shot in enumerate(doc.shots, 1) if (rect := active_rect(shot, analysis)) is not None]
    if not found:
        return ""
    sides = {"above and below" if rect.height < 1 else "at the sides" for _, rect in found}
    where = "in all shots" if len(found) == len(doc.shots) else f"in shot{'s' * (len(found) > 1)} {_listed(found)}"
    which = " and ".join(sorted(sides))
    return f"Black bars {which} are part of the picture {where}; windows stay inside what they leave."


def _listed(found: list[tuple[int, Rect]]) -> str:
    """Numbers of shots, those that follow one another as a range."""
    runs: list[list[int]] = []
    for k, _ in found:
        if runs and k == runs[-1][-1] + 1:
            runs[-1].append(k)
        else:
            runs.append([k])
    return ", ".join(str(r[0]) if len(r) == 1 else f"{r[0]} to {r[-1]}" for r in runs)
