"""The text stage: every caption in every master, what is wrong with it, and what can be done about it."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QPixmap
from PyQt6.QtWidgets import QLabel, QSplitter, QVBoxLayout, QWidget

from ezvar.app.commands import Workbench
from ezvar.app.kit import theme
from ezvar.app.kit.controls import label, rule
from ezvar.app.kit.keymap import shown
from ezvar.app.session.jobs import later
from ezvar.app.viewer.made_pictures import MadePictures, made_pictures
from ezvar.app.viewer.pictures import Stills, Viewer
from ezvar.core.model import Title
from ezvar.core.text import Offer

from ..stage import Page
from .board import Board
from .card import LookPart, TextPart
from .commands import captions, look, titles
from .grid import Grid
from .lane import Lane
from .layer_part import LayerPart
from .title_part import TitlePart
from .tools import TextTools

_ORIGINAL = 210  # how wide what is written in the picture is shown in the card


class TextPage(Page[TextTools]):
    """Where captions are read, put right and given their look."""

    def __init__(self, bench: Workbench) -> None:
        super().__init__(bench)
        desk, session = self.desk, self.session
        self.board, self.grid, self.lane = Board(desk), Grid(desk), Lane(desk)
        self.tools = TextTools(bench, self.board, self.grid, self.lane)
        self._pictures: MadePictures | None = None
        split = QSplitter(Qt.Orientation.Vertical)
        split.setObjectName("well")
        split.setChildrenCollapsible(False)
        split.setHandleWidth(5)
        split.addWidget(self.board)
        split.addWidget(self.grid)
        split.setSizes([360, 190])
        self.middle = QWidget()
        column = QVBoxLayout(self.middle)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(split, 1)
        column.addWidget(self.lane)
        self._title, self._when = label("", "title"), label("", "soft")
        self._doubt = label("", "doubt")
        self.text = self.tools.text = TextPart(desk)
        self.offers = [self.button(offer) for offer in captions.take_offer]
        self.right = self.button(captions.right, main=True)
        self.title = self.tools.title_text = TitlePart(desk)
        self.layer = LayerPart(desk)
        self.layer.setVisible(False)
        self._original = QLabel()
        self._original.setAccessibleName("What is written in the picture")
        self._original.setToolTip("What is written in the picture")
        self._original.setVisible(False)
        self.card.add(
            self._title,
            self._when,
            self.text,
            self._doubt,
            *self.offers,
            self.right,
            self._original,
            self.title,
            self.layer,
        )
        self._differs = label("", "soft")
        self._as_track = self.button(captions.as_track)
        self.card.add(self._differs, self._as_track, self.button(captions.raise_all), rule())
        self._of_track = label("", "heading")
        self.look = LookPart(desk)
        self._same = self.button(look.same_in_all)
        self._look_rule = rule()
        self.card.add(self._of_track, self.look, self._same, self._look_rule)
        self.card.add(
            self.button(look.keep_look),
            self.button(captions.new),
            self.button(titles.new_title),
            self.button(captions.take),
        )
        self.card.column.addStretch(1)
        self._offered: list[Offer] = []
        self._stills: Stills | None = None
        desk.text_checks.ready.connect(self._ready)
        session.at.caption_changed.connect(self.refresh)

    def set_viewer(self, viewer: Viewer | None) -> None:
        self.board.set_viewer(viewer)
        if self._pictures is not None:
            self._pictures.close()
        self._pictures = made_pictures(self.session) if viewer is not None else None
        self.grid.set_pictures(self._pictures)

    def set_stills(self, stills: Stills | None) -> None:
        self._stills = stills
        if stills is not None:
            later(stills.arrived, self._still_arrived)

    def _still_arrived(self) -> None:
        if self.is_shown and self.session.at.title is not None and not self.session.at.playing:
            self._show_original()

    def _show_original(self) -> None:
        """What is written in the picture where a title stands, enlarged, beside which its words are typed."""
        writing, shot = self.desk.title_work.writing(), self.session.at.shot
        image = None
        if writing is not None and shot is not None and self._stills is not None:
            image = self._stills.get_near(writing.start, writing.end, (writing.start + writing.end) // 2)
        self._original.setVisible(image is not None)
        if image is None or writing is None:
            return
        box, wide = writing.box, theme.px(_ORIGINAL)
        part = image.copy(
            round((box.x - 0.01) * image.width()), round((box.y - 0.01) * image.height()),
            max(2, round((box.width + 0.02) * image.width())), max(2, round((box.height + 0.02) * image.height())),
        )  # fmt: skip
        size = part.size().scaled(wide, theme.px(90), Qt.AspectRatioMode.KeepAspectRatio)
        self._original.setPixmap(
            QPixmap.fromImage(part).scaled(size, transformMode=Qt.TransformationMode.SmoothTransformation)
        )

    def set_loudness(self, loud: np.ndarray | None) -> None:
        self.lane.set_loudness(loud)
        self.desk.text_work.loud = loud

    def entered(self) -> None:
        """Show the first caption that waits, where the playhead stands at none."""
        work = self.desk.text_work
        if work.present is None and (found := work.next_waiting() or next((c for _, c in work.all()), None)):
            work.choose(found.id)

    def to_next_waiting(self) -> None:
        captions.to_next(self.tools)

    def _ready(self) -> None:
        if self.is_shown:
            self.refresh()

    def moved(self) -> None:
        """The board and the lane follow the playhead by themselves; the card does where another caption is on."""
        if not self.session.at.playing:
            self._refresh_card()

    def refresh(self) -> None:
        if not self.is_shown:
            return
        self.grid.refresh()
        self.board.ask()
        self.lane.update()
        self._refresh_card()

    def _refresh_card(self) -> None:
        session, work = self.session, self.desk.text_work
        present, master = work.present, session.at.master
        self.text.refresh()
        self.title.refresh()
        track, title = work.track, session.at.title
        self.layer.setVisible(title is None and bool(self.desk.title_work.item))
        if title is None:
            self._original.setVisible(False)
        if title is not None:
            self._show_title(title)
            return
        if self.desk.title_work.item:
            self._show_layer()
            return
        self.look.refresh()
        self._of_track.setVisible(track is not None and master is not None)
        self._same.setVisible(track is not None and master is not None)
        self._look_rule.setVisible(track is not None and master is not None)
        if track is not None and master is not None:
            self._of_track.setText(f"Look of “{track.name}” in {master.name}")
        self.text.setVisible(present is not None)
        self.right.setVisible(present is not None)
        if present is None or session.project.doc is None:
            for widget in (self._doubt, self._differs, self._as_track, *self.offers):
                widget.setVisible(False)
            there = bool(session.project.doc and session.project.doc.tracks)
            self._title.setText("No caption here" if there else "No captions yet")
            self._when.setText(
                "Choose one in the list, or begin one at the playhead."
                if there
                else "Take a caption file in (SRT, WebVTT or TTML), or write the first one at the playhead."
            )
            return
        track, caption = present
        rate = session.project.document.lock.rate
        frames = caption.frames(rate)
        seconds, rest = divmod(frames.end - frames.start, rate.nominal)
        self._title.setText(f"Caption {track.place_of(caption.id) + 1}")
        letters = sum(not sign.isspace() for sign in caption.text)
        pace = f"{1000 * letters / caption.length:.0f} letters a second"
        self._when.setText(f"{session.readings.timecode(frames.start)}, {seconds} s {rest} frames, {pace}")
        self._show_problems()

    def _show_title(self, title: Title) -> None:
        session = self.session
        for widget in (self.text, self._of_track, self.look, self._same, self._look_rule, *self.offers):
            widget.setVisible(False)
        self.right.setVisible(True)
        rate = session.project.document.lock.rate
        seconds, rest = divmod(title.end - title.start, rate.nominal)
        self._title.setText(f"{title.kind.capitalize()}")
        self._when.setText(f"{session.readings.timecode(title.start)}, {seconds} s {rest} frames")
        self._show_doubt()
        self._show_original()
        self._show_place()

    def _show_layer(self) -> None:
        """What can be said of a layer of the lock: where it stands."""
        for widget in (
            self.text,
            self._of_track,
            self.look,
            self._same,
            self._look_rule,
            self.right,
            self._doubt,
            *self.offers,
        ):
            widget.setVisible(False)
        self._title.setText(self.desk.title_work.called)
        self._when.setText(
            "A layer of the lock. In masters of other shapes it stands as said here; dragged in one, moved by Alt with "
            "an arrow or Page Up and Down, scaled by + and -, or hidden by H, it differs there."
        )
        self.layer.refresh()
        self._show_place()

    def _show_place(self) -> None:
        stands = self.desk.title_work.stands()
        ways = [
            words
            for words, is_so in (
                ("hidden", stands.hidden), ("moved", bool(stands.x or stands.y)),
                (f"{round(100 * stands.scale)} % as large", stands.scale != 1),
            )
            if is_so
        ]  # fmt: skip
        self._say_differs(ways)

    def _say_differs(self, ways: list[str]) -> None:
        self._differs.setText(f"Differs in {self.session.at.master_name}: {', '.join(ways)}." if ways else "")
        self._differs.setVisible(bool(ways))
        self._as_track.setVisible(bool(ways))

    def _show_doubt(self) -> bool:
        """Say what is wrong with the present caption or title; whether it is so in the active master."""
        session = self.session
        master, found = session.at.master, self.desk.text_checks.wrong_now()
        here = [p for p in found if p.master == "" or (master is not None and p.master == master.id)]
        others = [session.project.document.master(p.master).name for p in found if p not in here]
        said = list(dict.fromkeys(p.said for p in here))
        if others:
            said.append(f"More in {', '.join(dict.fromkeys(others))} (Q goes there).")
        self._doubt.setText("\n".join(said))
        self._doubt.setVisible(bool(said))
        return bool(here)

    def _show_problems(self) -> None:
        work = self.desk.text_work
        self._offered = work.offers() if self._show_doubt() else []
        for k, button in enumerate(self.offers):
            button.setVisible(k < len(self._offered))
            if k < len(self._offered):
                button.setText(self._offered[k].said)
                button.setAccessibleName(self._offered[k].said)
                button.setToolTip(f"{self._offered[k].said} ({shown(button.key)})")
        differing = work.differing()
        ways = [
            words
            for words, is_so in (
                ("hidden", differing.hidden), ("with its own text", bool(differing.spans)),
                (f"{round(100 * differing.size)} % as large", differing.size != 1),
                (f"{differing.lines} lines allowed", bool(differing.lines)),
                (f"{round(100 * differing.raised)} % higher", differing.raised > 0),
                (f"{round(-100 * differing.raised)} % lower", differing.raised < 0),
                ("in a place of its own", differing.spot is not None),
                ("let stand as it is", bool(differing.right)),
            )
            if is_so
        ]  # fmt: skip
        self._say_differs(ways)
