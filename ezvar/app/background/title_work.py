"""Titles: what is done to the present one, and where titles and layers of the lock stand in the masters."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterable
from dataclasses import replace
from typing import Any

from ezvar.app.session.session import Session
from ezvar.core import edits
from ezvar.core.framing import picture_size
from ezvar.core.lock import Conformed
from ezvar.core.model import (
    DESIGNS,
    Anchoring,
    Beside,
    Document,
    Placed,
    Side,
    Textless,
    Title,
    TitleDesign,
    TitleKind,
    layer_key,
    new_id,
)
from ezvar.core.text import Writing, textless_version, titled_anew, writing_in

from .text_checks import TextChecks
from .text_work import TextWork

_FIRST: dict[TitleKind, tuple[str, ...]] = {
    "title": ("A title", "and what it is about"), "lower third": ("A name", "what they do"), "label": ("A place",),
    "end card": ("The end",),
}  # fmt: skip
_SECONDS = 3


class TitleWork:
    """Changes titles, each change a step of undo."""

    def __init__(self, session: Session, text: TextWork, checks: TextChecks, frame_missing: Callable[[], None]) -> None:
        self._session, self._text, self._checks, self._frame_missing = session, text, checks, frame_missing

    @property
    def present(self) -> Title | None:
        return self._session.at.title

    def _free(self) -> Title | None:
        """The present title, unless all are locked; says so where they are."""
        title = self.present
        if title is not None and self._session.project.document.title_lane.locked:
            self._session.messages.say("The titles are locked.")
            return None
        return title

    def choose(self, title: str) -> None:
        """Work on a title from now on, with the playhead where it is at rest."""
        at, doc = self._session.at, self._session.project.document
        found = next((t for t in doc.titles if t.id == title), None)
        if found is None:
            return
        at.set_title(title)
        if not found.start <= at.frame < found.end:
            at.go((found.start + found.end) // 2)

    def begin_here(self, kind: TitleKind = "lower third") -> None:
        """A new title of a kind at the playhead, for a few seconds."""
        session, doc = self._session, self._session.project.document
        start = session.at.frame
        end = min(doc.lock.frames, start + _SECONDS * doc.lock.rate.nominal)
        title = Title(new_id(), kind, start, end, _FIRST[kind], DESIGNS[kind])
        self._text.edit(f"New {kind}", lambda d: edits.put_title(d, title))
        session.at.set_title(title.id)

    def change(self, label: str, change: Callable[[Title], Title], gesture: Hashable = None) -> None:
        """Change the present title."""
        title = self._free()
        if title is not None:
            self._text.edit(f"{label}, {title.called}", lambda d: edits.put_title(d, change(title)), gesture)

    def set_lines(self, text: str) -> None:
        """Give the present title other lines."""
        lines = tuple(line.strip() for line in text.split("\n") if line.strip())[:4]
        title = self.present
        if lines and title is not None and lines != title.lines:
            self.change("Text", lambda t: replace(t, lines=lines), ("title text", title.id))

    def set_kind(self, kind: TitleKind) -> None:
        """Make the present title one of another kind, in the design that this begins with."""
        self.change(f"A {kind}", lambda t: replace(t, kind=kind, design=DESIGNS[kind]))

    def change_design(self, **values: Any) -> None:
        """Change parts of the present title's design, by the names of `TitleDesign`."""
        self.change("Design", lambda t: replace(t, design=replace(t.design, **values)), ("design", *values))

    def others(self) -> list[tuple[str, str]]:
        """Titles and layers of the lock that the present title or layer may stand beside, those that are on with it,
        with what they are called."""
        present, doc = self.present or self._session.at.layer, self._session.project.doc
        if present is None or doc is None:
            return []
        on = [(t.id, t.called, t.start, t.end) for t in doc.titles if t != present]
        on += [(layer_key(n), n.name, n.start, n.end) for n in doc.lock.layers if self._checks.group_of(n) != self.item]
        beside = present.beside if isinstance(present, Title) else self.anchoring().beside
        chosen = beside.item if beside is not None else ""
        return [(item, called) for item, called, start, end in on
                if item == chosen or (start < present.end and present.start < end)]  # fmt: skip

    def stand_beside(self, item: str, side: Side) -> None:
        """Let the present title or layer stand at a side of another item; by itself where none is named."""
        beside = Beside(item, side) if item else None
        if self.present is None:
            self.anchor(beside=beside)
            return
        title = self._free()
        if title is not None and title.beside != beside:
            self._text.edit(f"Beside, {title.called}", lambda d: edits.stand_beside(d, title.id, beside))

    def anchoring(self) -> Anchoring:
        """To what the present layer of the lock is anchored."""
        doc = self._session.project.doc
        return Anchoring("") if doc is None or not self.item else doc.anchoring(self.item)

    def anchor(self, **values: Any) -> None:
        """Change to what the present layer of the lock is anchored in all masters, by the names of `Anchoring`."""
        item, layer = self.item, self._session.at.layer
        if layer is not None:
            self._text.edit(
                f"Anchor {layer.name}", lambda d: edits.anchor_layer(d, item, lambda a: replace(a, **values)),
                ("anchor", *values),
            )  # fmt: skip

    def use_design(self, design: TitleDesign) -> None:
        self.change("Design", lambda t: replace(t, design=design))

    def retime(self, start: int, end: int, gesture: Hashable = None) -> None:
        """Let the present title stand from and to these lock frames."""
        title = self._free()
        if title is not None:
            self._text.edit(
                f"Time, {title.called}", lambda d: edits.retime_title(d, title.id, start, end),
                gesture or ("title time", title.id),
            )  # fmt: skip

    def remove(self) -> None:
        title = self._free()
        if title is not None:
            self._text.edit(f"Remove {title.called}", lambda d: edits.remove_title(d, title.id))

    # Writing in the picture

    def writing(self) -> Writing | None:
        """The largest block of writing in the present shot's picture that shows at the playhead, else in the shot."""
        session = self._session
        doc, shot, analysis = session.project.doc, session.at.shot, session.media.analysis
        if doc is None or shot is None or analysis is None:
            return None
        found = writing_in(doc, shot, analysis, picture_size(doc, shot).aspect)
        return next((w for w in found if w.start <= session.at.frame < w.end), found[0] if found else None)

    def title_anew(self) -> bool:
        """A title in the place of the writing in the present shot, which is framed without it; whether there is some.

        Where a textless version is linked the shot shows that; without one the windows no longer keep the writing, and
        a bar in the picture's own colours covers it.
        """
        session, shot, writing = self._session, self._session.at.shot, self.writing()
        if shot is None or writing is None:
            session.messages.say("No writing was found in this shot.")
            return False
        title = titled_anew(writing, session.project.document.lock.frames)

        def change(doc: Document) -> Document:
            return edits.use_textless(edits.put_title(doc, title), [shot.id])

        self._text.edit("Title the writing anew", change)
        self._frame_missing()
        session.at.set_title(title.id)
        if session.project.document.textless is None:
            session.messages.say("Where a window shows the writing a bar covers it. A textless version needs none.")
        return True

    def use_textless(self, shots: Iterable[str], use: bool, label: str) -> None:
        """Let shots show the textless version, or be as they are; they are framed anew."""
        wanted = tuple(shots)
        self._text.edit(label, lambda d: edits.use_textless(d, wanted, use))
        self._frame_missing()

    def link_textless(self, file: str) -> None:
        """Compare a movie with the lock, and link it as its textless version."""
        session, doc = self._session, self._session.project.document

        def done(found: tuple[Textless, Conformed]) -> None:
            textless, compared = found
            self._text.edit("Link a textless version", lambda d: edits.link_textless(d, textless))
            numbers = [str(doc.place_of(d.shot) + 1) for d in compared.shots]
            other = f" Shots {', '.join(numbers)} show another picture there." if numbers else ""
            session.messages.say(f"The textless version is as long as the lock.{other}")

        session.jobs.start(
            "Comparing the textless version", lambda p, c: textless_version(doc, file, p, c), done,
            session.messages.say_problem,
        )  # fmt: skip

    # Where it stands in the active master

    @property
    def item(self) -> str:
        """The title or layer of the lock, by the first of its group, that is placed, as `Placed` names it; empty for
        none."""
        title, layer = self._session.at.title, self._session.at.layer
        return title.id if title is not None else self._checks.group_of(layer) if layer is not None else ""

    @property
    def called(self) -> str:
        """What the placed item is called."""
        title, layer = self._session.at.title, self._session.at.layer
        return title.called if title is not None else layer.name if layer is not None else ""

    def stands(self) -> Placed:
        """Where the present title or layer stands in the active master beside its first layout."""
        master, doc = self._session.at.master, self._session.project.doc
        if not self.item or master is None or doc is None:
            return Placed("", "")
        return doc.stands(self.item, master.id)

    def place(self, label: str, change: Callable[[Placed], Placed], gesture: Hashable = None) -> None:
        """Change where the present title or layer stands in the active master."""
        item, master = self.item, self._session.at.master
        if self.present is not None and self._free() is None:
            return
        if item and master is not None:

            def placed(doc: Document) -> Document:
                return edits.place_items(doc, [item], [master.id], change)

            self._text.edit(f"{label} in {master.name}, {self.called}", placed, gesture)

    def move(self, x: float, y: float, gesture: Hashable = "move title") -> None:
        """Move it by parts of the frame."""
        self.place("Place", lambda p: replace(p, x=_within(p.x + x), y=_within(p.y + y)), gesture)

    def put(self, x: float, y: float, gesture: Hashable) -> None:
        """Let it stand so far from where it began, in parts of the frame."""
        self.place("Place", lambda p: replace(p, x=_within(x), y=_within(y)), gesture)

    def scale(self, by: float) -> None:
        self.place("Size", lambda p: replace(p, scale=min(10.0, max(0.1, round(p.scale * by, 4)))), "scale title")

    def hide(self) -> None:
        self.place("Show or hide", lambda p: replace(p, hidden=not p.hidden))

    def back(self) -> None:
        """Where it would stand by itself."""
        self.place("As it began", lambda p: Placed(p.item, p.master))


def _within(part: float) -> float:
    return round(min(1.0, max(-1.0, part)), 5)
