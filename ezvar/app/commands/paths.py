"""Commands that change a window's path by hand: nudges, zoom, angle, keyframes, a stretch."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING

from ezvar.app.background.framing_work import Change, at_most
from ezvar.core.evidence import Analysis
from ezvar.core.framing import (
    Size,
    copied_keys,
    framed,
    key_at,
    pane_picture_size,
    put_by_hand,
    shifted,
    turned,
    with_key,
    without_keys,
    zoomed,
)
from ezvar.core.model import EASES, Document, Ease, Master, Pane, Shot
from ezvar.core.timing import FrameRange

if TYPE_CHECKING:
    from ezvar.app.window.main_window import MainWindow

_FINE, _FAR = 0.0025, 0.02  # of the picture
_TIGHTER = 1.05
_TURN = 1.0  # degrees
PathChange = Callable[[Pane, Master, Size], Pane]


class PathCommands:
    """A method for each such command of the framing menu."""

    def __init__(self, window: MainWindow) -> None:
        self._window = window
        self._session = window.session
        self._work = window.session.framing_work

    @property
    def _frame(self) -> int:
        """The playhead in frames of the shot."""
        shot = self._session.shot
        return self._session.frame - shot.start if shot else 0

    def by_hand(self, label: str, change: PathChange, gesture: object | None = None) -> None:
        """Change the present pane's path by hand, or those of all chosen shots."""
        analysis, number = self._session.analysis, self._work.number
        if len(self._work.targets()) > 1:
            self._work.each(label, _put(change, number, analysis))
            return
        pane, master, shot = self._work.present_pane, self._session.master, self._session.shot
        if pane is not None and master is not None and shot is not None:
            size = pane_picture_size(self._session.document, shot, pane)
            self._work.put(label, change(pane, master, size), gesture)

    def _nudge(self, dx: float, dy: float) -> None:
        self.by_hand("Shift path", lambda p, m, size: shifted(p, m, size, dx, dy))

    def left(self) -> None:
        self._nudge(-_FINE, 0)

    def right(self) -> None:
        self._nudge(_FINE, 0)

    def up(self) -> None:
        self._nudge(0, -_FINE)

    def down(self) -> None:
        self._nudge(0, _FINE)

    def far_left(self) -> None:
        self._nudge(-_FAR, 0)

    def far_right(self) -> None:
        self._nudge(_FAR, 0)

    def far_up(self) -> None:
        self._nudge(0, -_FAR)

    def far_down(self) -> None:
        self._nudge(0, _FAR)

    def tighter(self) -> None:
        self.by_hand("Tighter", lambda p, m, size: zoomed(p, m, size, _TIGHTER))

    def looser(self) -> None:
        self.by_hand("Looser", lambda p, m, size: zoomed(p, m, size, 1 / _TIGHTER))

    def turn_left(self) -> None:
        self.by_hand("Turn", lambda p, m, size: turned(p, m, size, -_TURN))

    def turn_right(self) -> None:
        self.by_hand("Turn", lambda p, m, size: turned(p, m, size, _TURN))

    def pane(self) -> None:
        framing = self._session.framing
        if framing is not None and len(framing.panes) > 1:
            self._work.choose_pane((self._work.number + 1) % len(framing.panes))
        else:
            self._window.say("There is one pane only.")

    # Keyframes

    def key(self) -> None:
        frame = self._frame
        self.by_hand("Set keyframe", lambda p, m, size: with_key(p, m, size, replace(key_at(p, frame), frame=frame)))

    def unkey(self) -> None:
        chosen = self._work.chosen_keys or {self._frame}
        pane = self._work.present_pane
        if pane is None or not chosen & {k.frame for k in pane.keys}:
            self._window.say("There is no keyframe here. Choose some in the chart, or go to one.")
            return

        def without(pane: Pane, master: Master, size: Size) -> Pane:
            for frame in sorted(chosen):
                pane = without_keys(pane, frame, frame)
            return pane

        self.by_hand("Take keyframes away", without)
        self._work.chosen_keys = frozenset()

    def _to_key(self, forwards: bool) -> None:
        pane, shot = self._work.present_pane, self._session.shot
        if pane is None or shot is None:
            return
        frames = [k.frame for k in pane.keys if 0 <= k.frame < shot.frames]
        found = [f for f in frames if f > self._frame] if forwards else [f for f in frames[::-1] if f < self._frame]
        if found:
            self._session.go(shot.start + found[0])
        else:
            self._window.say(f"There is no keyframe {'after' if forwards else 'before'} this in the shot.")

    def key_back(self) -> None:
        self._to_key(False)

    def key_on(self) -> None:
        self._to_key(True)

    def _ease(self, ease: Ease) -> None:
        self._work.run_ease(ease)

    def ease(self) -> None:
        pane, frames = self._work.present_pane, self._work.eased()
        now = next((k.ease for k in pane.keys if k.frame in frames), "both") if pane else "both"
        self._ease(EASES[(EASES.index(now) + 1) % len(EASES)])

    def copy_keys(self) -> None:
        pane = self._work.present_pane
        if pane is not None:
            chosen = self._work.chosen_keys or {self._frame}
            keys = tuple(k for k in pane.keys if k.frame in chosen)
            self._work.copied_keys = keys or (key_at(pane, self._frame),)
            self._window.say(f"{len(self._work.copied_keys)} keyframes copied.")

    def paste_keys(self) -> None:
        keys, frame = self._work.copied_keys, self._frame
        if not keys:
            self._window.say("No keyframes were copied yet.")
        else:
            self.by_hand("Paste keyframes", lambda p, m, size: copied_keys(p, m, size, keys, frame))

    # A stretch

    def mark_in(self) -> None:
        self._mark(self._frame, None)

    def mark_out(self) -> None:
        self._mark(None, self._frame + 1)

    def _mark(self, start: int | None, end: int | None) -> None:
        shot, old = self._session.shot, self._work.stretch
        if shot is None:
            return
        old = old or FrameRange(0, shot.frames)
        start = old.start if start is None else start
        end = old.end if end is None else end
        self._work.stretch = FrameRange(start, end) if start < end else FrameRange(*sorted((start, end + 1)))
        self._window.framing.sweep.update()

    def mark_none(self) -> None:
        self._work.stretch = None
        self._window.framing.sweep.update()

    def unkey_stretch(self) -> None:
        stretch = self._work.stretch
        if stretch is None:
            self._window.say("No stretch is marked. Mark where it begins and ends first.")
        else:
            self.by_hand(
                "Delete the path in the stretch", lambda p, m, size: without_keys(p, stretch.start, stretch.end - 1)
            )


def _put(change: PathChange, number: int, analysis: Analysis | None) -> Change:
    def changed(doc: Document, shot: Shot, master: Master) -> Document:
        at = at_most(doc, shot, master, number)
        pane = framed(doc, shot, master).panes[at]
        new = change(pane, master, pane_picture_size(doc, shot, pane))
        return put_by_hand(doc, shot, master, new, analysis, at)

    return changed
