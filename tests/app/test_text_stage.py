"""The text stage, driven by clicks and keys: captions taken in, put right, moved in time, and given their look."""

from __future__ import annotations

import shlex
import sys
from dataclasses import replace

import cv2
import numpy as np
import opentimelineio as otio
import pytest
from PyQt6.QtCore import QPointF, QSize, Qt
from PyQt6.QtWidgets import QFileDialog, QInputDialog

from ezvar.app.stages.text.dialogs import FindDialog, SpreadDialog, TrackDialog
from ezvar.app.stages.text.taking_dialog import TakingDialog
from ezvar.app.viewer.made_pictures import wanted_picture
from ezvar.core import edits
from ezvar.core.model import Beside, Master
from ezvar.core.text import STYLES, CaptionChecks, read_captions, service_named
from ezvar.core.text.setting.type import FOLDER

from ..driving import ALT, CTRL, LEFT, SHIFT, button, click, drag, press, rest
from ..timelines import clip, track

SRT = """1
00:00:00,200 --> 00:00:01,600
Grüße aus dem Tal an alle, die heute Abend nicht zum Fluss kommen können

2
00:00:01,640 --> 00:00:02,000
Bis bald, ihr Lieben

x
00:00:02,000 --> nie
?
"""


@pytest.fixture
def text(stage, qtbot, tmp_path):
    """The text stage with two captions, of which both have something wrong."""
    file = tmp_path / "a.srt"
    file.write_bytes(SRT.encode("cp1252"))
    dialog = TakingDialog(stage.pages["text"].tools, str(file))
    assert (dialog.encoding.currentData(), dialog.ok.isEnabled()) == ("cp1252", True)
    assert "Line 10" in dialog.left_out.text()
    dialog.offset.setText("soon")
    dialog.show_times()
    assert not dialog.ok.isEnabled()
    dialog.offset.setText("")
    dialog.show_times()
    assert dialog.first.text().startswith("The first at 00:00:00:05")
    qtbot.mouseClick(dialog.ok, LEFT)
    press(qtbot, stage, Qt.Key.Key_4, CTRL)
    looked(qtbot, stage)
    return stage


def looked(qtbot, window):
    """Wait until the captions were looked through, and everything is drawn."""
    rest(qtbot, window)
    qtbot.waitUntil(lambda: not window.desk.text_checks.busy, timeout=20_000)
    qtbot.wait(30)


def choose(box, value):
    """Choose a value of a box, as by a click."""
    box.setCurrentIndex(box.findData(value))
    box.activated.emit(box.currentIndex())


def captions(window):
    return window.session.project.document.tracks[0].captions


def test_captions_are_listed_with_what_is_wrong_and_settled_by_keys(text, qtbot):
    page, work = text.pages["text"], text.desk.text_work
    assert text.session.at.stage == "text"
    assert text.strip.stages["text"].waiting == 2
    assert [text.ledger.rows.figure(r) for r in text.ledger.rows.rows] == [
        text.desk.text_checks.waits(c.id) for c in captions(text)
    ]
    assert work.present[1].text.startswith("Grüße")
    assert "letters a second" in page._doubt.text()
    offers = [b.text() for b in page.offers if b.isVisible()]
    assert any(said.startswith("Split at") for said in offers)
    press(
        qtbot,
        text,
        (Qt.Key.Key_F6, Qt.Key.Key_F7, Qt.Key.Key_F8)[next(k for k, s in enumerate(offers) if "Split" in s)],
    )
    looked(qtbot, text)
    assert len(captions(text)) == 3
    press(qtbot, text, Qt.Key.Key_Z, CTRL)
    looked(qtbot, text)
    assert len(captions(text)) == 2
    press(qtbot, text, Qt.Key.Key_Return)
    looked(qtbot, text)
    assert work.present[1].id == captions(text)[1].id
    press(qtbot, text, Qt.Key.Key_Return)
    looked(qtbot, text)
    assert text.strip.stages["text"].waiting == 0
    assert CaptionChecks().all(text.session.project.document, text.session.media.analysis) == []
    assert "let stand" in page._differs.text() or not page._differs.isVisible()


def test_text_is_typed_in_place_and_drawn_at_once(text, qtbot):
    page = text.pages["text"]
    press(qtbot, text, Qt.Key.Key_T)
    assert page.text.field.hasFocus()
    qtbot.keyClicks(page.text.field, "Guten <i>Abend</i>")
    looked(qtbot, text)
    assert [(s.text, s.italic) for s in captions(text)[0].spans] == [("Guten ", False), ("Abend", True)]
    assert text.session.project.history.undo_label.startswith("Text")
    qtbot.keyClick(page.text.field, Qt.Key.Key_Escape)
    press(qtbot, text, Qt.Key.Key_Z, CTRL)
    assert captions(text)[0].text.startswith("Grüße")
    qtbot.waitUntil(lambda: all(r is not None for r in page.board._results) and len(page.board._results) == 2)
    qtbot.waitUntil(lambda: len(page.grid.last) >= 2, timeout=10_000)
    looked(qtbot, text)
    assert page.text.field.toPlainText().startswith("Grüße")


def test_captions_are_moved_and_stretched_in_the_lane(text, qtbot):
    lane, at = text.pages["text"].lane, text.session.at
    box = next(b.box for b in lane.blocks() if b.item == captions(text)[1].id)
    drag(qtbot, lane, box.center(), QPointF(lane.width() * 0.5 / lane.seconds, 0), ALT)
    start, end = captions(text)[1].start, captions(text)[1].end
    assert (start, end - start) == (pytest.approx(2140, abs=25), 360)
    at.go(20)
    press(qtbot, text, Qt.Key.Key_PageUp)
    assert text.desk.text_work.present[1].id == captions(text)[0].id
    at.go(20)
    press(qtbot, text, Qt.Key.Key_O)
    assert captions(text)[0].end == 800
    at.go(10)
    press(qtbot, text, Qt.Key.Key_I)
    assert captions(text)[0].start == 400
    press(qtbot, text, Qt.Key.Key_BracketRight)
    assert (captions(text)[0].start, captions(text)[0].end) == (440, 840)
    edge = next(b.box for b in lane.blocks() if b.item == captions(text)[0].id)
    near = QPointF(lane.x_of(start) - edge.right() - 3, 0)
    drag(qtbot, lane, QPointF(edge.right() - 2, edge.center().y()), near)
    assert captions(text)[0].end == start  # it snaps to where the next begins
    press(qtbot, text, Qt.Key.Key_X, SHIFT)
    assert len(captions(text)) == 1


def test_looks_differ_by_master_and_single_captions_by_themselves(text, qtbot, monkeypatch):
    page, work, session = text.pages["text"], text.desk.text_work, text.session
    page.look.letters.setValue(9)
    looked(qtbot, text)
    assert work.style().size == pytest.approx(0.09)
    press(qtbot, text, Qt.Key.Key_Q)
    assert session.at.master_id == "square"
    assert work.style().size == 0.05
    press(qtbot, text, Qt.Key.Key_Minus)
    press(qtbot, text, Qt.Key.Key_Minus)
    press(qtbot, text, Qt.Key.Key_PageUp, ALT)
    looked(qtbot, text)
    assert (work.differing().size, work.differing().raised) == (0.96, 0.01)
    assert "96 % as large, 1 % higher" in page._differs.text()
    assert session.project.document.differs(work.present[1].id, "tall").size == 1
    click(qtbot, page.card, "As it began, here")
    assert work.differing().nothing
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: ("Evening", True))
    click(qtbot, page.card, "Keep this look as…")
    assert [s.name for s in STYLES.load()] == ["Evening"]
    page.look.ground.setCurrentIndex(page.look.ground.findData("none"))
    page.look.ground.activated.emit(page.look.ground.currentIndex())
    assert work.style().ground == "none"
    monkeypatch.setattr(QInputDialog, "getItem", lambda *a, **k: ("Evening", True))
    text.run("text.use_look")
    assert work.style().ground == "lines"
    click(qtbot, page.card, "The same look in all masters")
    assert {s.style for s in session.project.document.styles} == {work.style()}


def test_captions_are_raised_clear_found_and_given_out(text, qtbot, monkeypatch, tmp_path):
    page, work, session = text.pages["text"], text.desk.text_work, text.session
    page.look.zones.setCurrentIndex(1)
    page.look.zones.activated.emit(1)
    assert session.at.master.zones.name == "tall, controls right"
    page.look.margin.setValue(5)
    looked(qtbot, text)
    assert "behind controls" in {p.name for p in text.desk.text_checks.problems}
    click(qtbot, page.card, "Raise all captions clear")
    looked(qtbot, text)
    assert not {p.name for p in text.desk.text_checks.problems if p.master == "tall"} & {
        "behind controls",
        "over a face",
    }
    dialog = FindDialog(page.tools)
    dialog.words.setText("lieben")
    click(qtbot, dialog, "Find next") if dialog.isVisible() else dialog.find_next()
    assert work.present[1].id == captions(text)[1].id
    dialog.by.setText("Freunde")
    dialog.replace_all()
    assert captions(text)[1].text == "Bis bald, ihr Freunde"
    monkeypatch.setattr(QInputDialog, "getItem", lambda *a, **k: ("WebVTT", True))
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *a, **k: str(tmp_path / "out"))
    text.run("text.give")
    rest(qtbot, text)
    assert len(list((tmp_path / "out").glob("*.vtt"))) == 2
    assert read_captions(next((tmp_path / "out").glob("*.vtt"))).captions[1].text == "Bis bald, ihr Freunde"


def test_a_track_is_named_limited_hidden_and_locked(text, qtbot):
    work = text.desk.text_work
    dialog = TrackDialog(text.pages["text"].tools, work.track)
    dialog.name.setText("Deutsch")
    dialog.pace.setValue(60)
    dialog.shortest.setValue(0)
    dialog.locked.setChecked(True)
    dialog.change()
    looked(qtbot, text)
    assert (work.track.name, work.track.limits.letters_a_second, work.track.locked) == ("Deutsch", 60, True)
    assert "too quick" not in {p.name for p in text.desk.text_checks.problems}
    press(qtbot, text, Qt.Key.Key_Delete)
    assert len(captions(text)) == 2
    dialog = TrackDialog(text.pages["text"].tools, work.track)
    dialog.locked.setChecked(False)
    dialog.shown.setChecked(False)
    dialog.change()
    looked(qtbot, text)
    assert text.desk.text_checks.problems == ()
    dialog.shortest.setValue(9)
    dialog.longest.setValue(1)
    dialog.change()
    assert "cannot be" in dialog.said.text()


def test_titles_are_made_typed_dragged_and_placed_by_keys(stage, qtbot, monkeypatch):
    press(qtbot, stage, Qt.Key.Key_4, CTRL)
    page, work, session = stage.pages["text"], stage.desk.title_work, stage.session
    session.at.go(10)
    press(qtbot, stage, Qt.Key.Key_A, SHIFT)
    qtbot.keyClicks(page.title.field, "Ilma")
    qtbot.keyClick(page.title.field, Qt.Key.Key_Escape)
    looked(qtbot, stage)
    (title,) = session.project.document.titles
    assert (title.kind, title.lines, title.start) == ("lower third", ("Ilma",), 10)
    session.at.go(20)
    box = page.board.boxes()[1]
    item = page.board._item_box(title.id, session.project.document.masters[1], box)
    drag(qtbot, page.board, item.center(), QPointF(0, -box.height() / 4))
    assert session.at.master_id == "square"
    assert work.stands().y == pytest.approx(-0.25, abs=0.02)
    assert session.project.document.stands(title.id, "tall").y == 0
    press(qtbot, stage, Qt.Key.Key_Right, ALT)
    press(qtbot, stage, Qt.Key.Key_Plus)
    assert (work.stands().x, work.stands().scale) == (0.01, 1.02)
    looked(qtbot, stage)
    assert "moved, 102 % as large" in page._differs.text()
    choose(page.title.family, "Noto Sans JP")
    assert (session.at.title.design.family, page.title.family.currentText()) == ("Noto Sans JP", "Noto Sans JP")
    file = str(FOLDER / "NotoSansHebrew-Bold.ttf")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a: (file, ""))
    page.title.family.activated.emit(page.title.family.count() - 1)
    rest(qtbot, stage)
    design = session.at.title.design
    assert (design.family, design.font, page.title.family.currentText()) == ("Noto Sans Hebrew", file, design.family)
    assert "NotoSansHebrew-Bold.ttf" in page.title.family.toolTip()
    press(qtbot, stage, Qt.Key.Key_A, SHIFT)
    qtbot.keyClick(page.title.field, Qt.Key.Key_Escape)
    looked(qtbot, stage)
    choose(page.title.beside, title.id)
    choose(page.title.side, "below")
    new = session.at.title
    assert (new.beside, session.project.history.undo_label) == (Beside(title.id, "below"), "Beside, A name")
    tall = session.project.document.master("tall")
    lower, upper = (page.board._item_box(i, tall, page.board.boxes()[0]) for i in (new.id, title.id))
    assert lower.bottom() < upper.top()  # there is no room below
    session.at.set_title(title.id)
    choose(page.title.beside, new.id)
    assert "stands beside" in stage.banner.message.text()
    assert session.at.title.beside is None
    session.at.set_title(new.id)
    press(qtbot, stage, Qt.Key.Key_Delete)
    looked(qtbot, stage)
    session.at.set_title(title.id)  # what can be done with it can be done at once
    choose(page.title.kind, "end card")
    assert session.project.document.titles[0].kind == "end card"
    block = next(b for b in page.lane.blocks() if b.is_title)
    drag(qtbot, page.lane, QPointF(block.box.right() - 2, block.box.center().y()), QPointF(-40, 0), ALT)
    assert session.project.document.titles[0].end < title.end
    stage.run("text.lock_titles")
    before = session.project.document
    press(qtbot, stage, Qt.Key.Key_H)
    press(qtbot, stage, Qt.Key.Key_Delete)
    page.title.field.setPlainText("No")
    block = next(b for b in page.lane.blocks() if b.is_title)
    drag(qtbot, page.lane, block.box.center(), QPointF(40, 0), ALT)
    assert session.project.document is before
    assert "locked" in stage.banner.message.text()
    stage.run("text.lock_titles")
    stage.run("text.show_titles")
    assert [b.words for b in page.lane.blocks() if b.is_title and b.hidden] == ["Ilma"]
    stage.run("text.show_titles")
    press(qtbot, stage, Qt.Key.Key_H)
    assert work.stands().hidden
    press(qtbot, stage, Qt.Key.Key_S)
    assert work.stands().nothing
    press(qtbot, stage, Qt.Key.Key_Delete)
    assert session.project.document.titles == ()


def test_captions_are_written_from_nothing_and_removed(stage, qtbot):
    press(qtbot, stage, Qt.Key.Key_4, CTRL)
    page = stage.pages["text"]
    assert page._title.text() == "No captions yet"
    stage.session.at.go(12)
    press(qtbot, stage, Qt.Key.Key_A)
    qtbot.keyClicks(page.text.field, "Hello")
    looked(qtbot, stage)
    assert [(c.text, c.start, c.end) for c in captions(stage)] == [("Hello", 480, 2480)]
    qtbot.keyClick(page.text.field, Qt.Key.Key_Escape)
    click_at = page.grid.visualRect(page.grid.model().index(0, 0)).center()
    qtbot.mouseClick(page.grid.viewport(), LEFT, pos=click_at)
    press(qtbot, stage, Qt.Key.Key_H)
    looked(qtbot, stage)
    assert "hidden" in page._differs.text()
    press(qtbot, stage, Qt.Key.Key_Delete)
    looked(qtbot, stage)
    assert captions(stage) == ()
    assert button(page.card, "Take captions in…").isEnabled()


def test_a_pasted_text_and_written_down_speech_become_tracks(stage, qtbot, monkeypatch):
    press(qtbot, stage, Qt.Key.Key_4, CTRL)
    dialog = SpreadDialog(stage.pages["text"].tools)
    dialog.text.setPlainText("One sentence. And another one.")
    dialog.last.setText("soon")
    qtbot.mouseClick(dialog.ok, LEFT)
    assert "cannot be" in dialog.said.text()
    dialog.last.setText("00:00:02:00")
    qtbot.mouseClick(dialog.ok, LEFT)
    assert [c.text for c in captions(stage)] == ["One sentence.", "And another one."]
    assert captions(stage)[1].end == 2000
    said = '{"words": [{"text": "Guten", "start": 0.1, "end": 0.5, "confidence": 0.2}], "done": true}'
    monkeypatch.setenv("EZVAR_TRANSCRIBER", shlex.join((sys.executable, "-c", f"print({said!r})")))
    stage.desk.text_work.transcribe(service_named())
    rest(qtbot, stage)
    looked(qtbot, stage)
    assert [t.name for t in stage.session.project.document.tracks] == ["Pasted text", "Transcribed"]
    assert "not sure" in {p.name for p in stage.desk.text_checks.problems}


def test_small_pictures_are_named_by_all_that_they_show_and_drawn_by_the_one_drawing(text, qtbot):
    """The review's and the grid's alike: with captions, and anew where these are others."""
    doc, size = text.session.project.document, QSize(90, 160)
    master = doc.masters[0]
    wanted = wanted_picture(doc, master, 20, size)
    assert wanted_picture(edits.settle_cut(doc, doc.shots[1].id), master, 20, size).key == wanted.key
    hidden = edits.differ_by(doc, [captions(text)[0].id], [master.id], lambda d: replace(d, hidden=True))
    without = wanted_picture(hidden, master, 20, size)
    assert without.key != wanted.key
    assert wanted_picture(hidden, doc.masters[1], 20, size).key == wanted_picture(doc, doc.masters[1], 20, size).key
    pictures = text.pages["review"].board.pictures
    qtbot.waitUntil(lambda: pictures.get(wanted) is not None, timeout=10_000)
    qtbot.waitUntil(lambda: pictures.get(without) is not None, timeout=10_000)
    assert pictures.get(wanted).size() == size
    assert pictures.get(wanted) != pictures.get(without)
    press(qtbot, text, Qt.Key.Key_5, CTRL)
    looked(qtbot, text)
    assert text.pages["review"].board.isVisible()


def test_a_layer_of_the_lock_is_anchored_with_what_stays_with_it(window, qtbot, edit, tmp_path):
    """A bar, and a writing on it, of which the upper one is clicked."""
    for name, box in (("bar", (20, 140, 150, 164)), ("writing", (40, 146, 120, 158))):
        picture = np.zeros((180, 320, 4), np.uint8)
        picture[box[1] : box[3], box[0] : box[2]] = 255
        cv2.imwrite(str(tmp_path / f"{name}.png"), picture)
    timeline = otio.schema.Timeline("t")
    timeline.tracks.extend(
        track(clip(n, str(f), 0, 80))
        for n, f in (("edit", edit), ("bar", tmp_path / "bar.png"), ("writing", tmp_path / "writing.png"))
    )
    otio.adapters.write_to_file(timeline, str(tmp_path / "t.otio"))
    window.session.files.open(tmp_path / "t.otio")
    rest(qtbot, window)
    window.desk.analysing.add_masters([Master("tall", "9:16", 180, 320)])
    rest(qtbot, window)
    session, page = window.session, window.pages["text"]
    session.at.set_stage("text")
    looked(qtbot, window)
    master = session.project.document.masters[-1]

    def boxes():
        looked(qtbot, window)
        places = {layer.name: rect for layer, rect in window.desk.text_checks.layers_in(master)}
        return places["bar"], places["writing"]

    before = boxes()
    place = session.project.document.masters.index(master)
    box = page.board.boxes()[place]
    bar, writing = before
    spot = box.topLeft() + QPointF((writing.x + writing.width / 2) * box.width(), (writing.y + 0.01) * box.height())
    qtbot.mouseClick(page.board, LEFT, pos=spot.toPoint())
    assert "Layer of the lock “writing”" in page.board._said()
    assert page.layer.isVisible()
    assert not page.title.isVisible()
    choose(page.layer.down, "top")
    page.layer.margin.setValue(10)
    after = boxes()
    assert after[0].y == pytest.approx(0.1, abs=0.002)
    assert after[1].y - after[0].y == pytest.approx(writing.y - bar.y)
    assert session.project.history.undo_label == "Anchor writing"
    press(qtbot, window, Qt.Key.Key_PageDown, ALT)
    moved = boxes()
    assert moved[0].y > after[0].y
    assert moved[1].y - after[1].y == pytest.approx(moved[0].y - after[0].y)
    assert [page.layer.beside.itemText(k) for k in range(page.layer.beside.count())] == ["nothing"]
    choose(page.layer.down, "")
    page.layer.margin.setValue(5)
    press(qtbot, window, Qt.Key.Key_Z, CTRL)
    assert session.project.document.anchorings[0].margin == 0.1
