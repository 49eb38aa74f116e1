"""The first walk: steps through the demo edit, as data. Knows no Qt."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from ezvar.app.kit.keymap import Keymap, shown
from ezvar.app.session.session import Session
from ezvar.app.stages import FRAMING


@dataclass(frozen=True)
class Step:
    """One thing to try. ``{command.id}`` in the text stands for its key; ``done`` tells when it was tried."""

    title: str
    text: str
    done: Callable[[Session], bool]

    def said(self, keymap: Keymap) -> str:
        """The text with the keys that hold now."""
        words = self.text
        while "{" in words:
            id = words[words.index("{") + 1 : words.index("}")]
            words = words.replace("{" + id + "}", shown(keymap.key(id)) or "no key")
        return words


def _choices(s: Session) -> bool:
    pane = s.at.pane
    return pane is not None and bool(pane.choices.follow)


STEPS = (
    Step(
        "What needs a look",
        "Each shot has its windows already. {go.doubt} goes to the next one that deserves a look; the card says why.",
        lambda s: s.at.stage == FRAMING.name and s.at.shot is not None and s.readings.needs_a_look(s.at.shot),
    ),
    Step(
        "Whom to follow",
        "Subjects have numbers in the picture. {framing.follow_2} follows 2, {framing.too_1} keeps 1 as well. Try it.",
        _choices,
    ),
    Step(
        "Put it right by hand",
        "Drag the window in the picture, or its band in the chart below. With Ctrl only this moment changes. "
        "{edit.undo} takes it back.",
        lambda s: s.at.framing is not None and s.at.framing.decided == "by hand",
    ),
    Step(
        "The plain ways back",
        "{framing.solve} goes back to solved, {framing.static} to a static window, {framing.whole} shows the whole "
        "picture.",
        lambda s: s.at.framing is not None and s.at.framing.decided == "solved",
    ),
    Step(
        "Play it",
        "{go.play_shot} plays this shot, {go.unplayed} all that was not played since it changed. A tick in the ledger "
        "marks what was.",
        lambda s: s.played.count > 0,
    ),
    Step(
        "Looks right",
        "{framing.agree} says that it looks right and goes on to the next.",
        lambda s: s.project.doc is not None and any(f.verdict == "agreed" for f in s.project.doc.framings),
    ),
    Step(
        "The other masters",
        "{go.master} goes to the next master; the same shots wait there. {help.keys} lists every key.",
        lambda s: s.project.doc is not None and s.at.master_id != s.project.doc.masters[0].id,
    ),
)
