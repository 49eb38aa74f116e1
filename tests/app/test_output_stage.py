"""The output stage, driven by keys and clicks: made, stopped, gone on with, kept with the project."""

import json
import re
import sys
from dataclasses import replace
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QDesktopServices
from PyQt6.QtWidgets import QAbstractButton, QDialog, QFileDialog, QInputDialog, QMessageBox

from ezvar.app.stages.output.presets_dialog import PresetsDialog
from ezvar.core import edits
from ezvar.core.encoding import preset_named
from ezvar.core.media import probe
from ezvar.core.model import Check, Flaw, Heard, Keyframe, Master, Pane, Report, listing
from ezvar.core.output import RECEIVER, known_receivers
from ezvar.core.store import load_project, save_project

from ..driving import ALT, CTRL, SHIFT, click, press, rest
from ..media import make_movie


@pytest.fixture
def output(opened, qtbot, tmp_path, monkeypatch):
    """The output stage, where all rows are made in one folder, in segments of a second."""
    for name, seconds in (("LEAST", 0.7), ("MOST", 2)):
        monkeypatch.setattr(f"ezvar.core.output.segments.{name}", seconds)
    (tmp_path / "out").mkdir()
    press(qtbot, opened, Qt.Key.Key_6, CTRL)
    put_in(opened, tmp_path / "out")
    opened.session.project.journal.forget()
    return opened


def put_in(window, folder):
    project = window.session.project
    doc = project.document
    for row in listing(doc):
        doc = edits.change_row(doc, replace(row, folder=str(folder)))
    project.edit("Folder", doc)


def makings(window):
    return window.session.project.makings


def choose(window, row):
    page = window.pages["output"]
    page.view.refresh()
    page.view.choose(row)


def states(window):
    page = window.pages["output"]
    page.view.refresh()
    return [look.state for look in page.view.rows.looks]


def known(qtbot, window, *wanted):
    qtbot.waitUntil(lambda: states(window) == list(wanted), timeout=20_000)


def set_field(qtbot, field, text):
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, text)
    qtbot.keyClick(field, Qt.Key.Key_Return)


def test_all_is_made_in_one_pass_checked_and_kept_with_the_project(output, qtbot, tmp_path):
    page, project = output.pages["output"], output.session.project
    assert not output.ledger.isVisible()
    output.show_and_tell = []
    output.desk.making.ended.connect(output.show_and_tell.append)
    press(qtbot, output, Qt.Key.Key_M, CTRL | SHIFT)
    qtbot.waitUntil(lambda: "being made" in states(output), timeout=20_000)
    assert len(output.jobs.running) == 1
    rest(qtbot, output)
    known(qtbot, output, "checked", "checked")
    assert sorted(p.name for p in (tmp_path / "out").iterdir()) == ["walk 1x1.mp4", "walk 9x16.mp4"]
    assert output.show_and_tell == ["2 movies are made."]
    assert any("not played" in line for line in makings(output).finished[0].anyway)
    assert "Made although" in page.row_card.findChildren(type(page.row_card.title))[-1].text()
    assert (output.isWindowModified(), len(makings(output).revisions)) == (True, 1)
    save_project(project.whole, tmp_path / "kept.ezvar")
    assert load_project(tmp_path / "kept.ezvar").makings == makings(output)

    doc, shot = project.document, project.document.shots[2]
    framing = doc.framing(shot.id, "tall")
    project.edit("Window", edits.set_framings(doc, [replace(framing, panes=(Pane((Keyframe(0, 0.2),)),))]))
    known(qtbot, output, "moved on", "checked")
    assert "Shot 3" in page.row_card.story.text()
    before = Path(makings(output).finished_of("tall").made.file).stat().st_mtime_ns
    press(qtbot, output, Qt.Key.Key_M, CTRL)
    rest(qtbot, output)
    known(qtbot, output, "checked", "checked")
    assert Path(makings(output).finished_of("tall").made.file).stat().st_mtime_ns > before
    assert len(makings(output).revisions) == 2
    project.undo()
    known(qtbot, output, "moved on", "checked")  # what was made is no step of undo


def test_making_is_stopped_and_goes_on_as_the_project_was(output, qtbot, tmp_path):
    project, page = output.session.project, output.pages["output"]
    project.edit("Large", edits.add_master(project.document, Master("large", "large", 720, 1280)))
    put_in(output, tmp_path / "out")
    choose(output, "large")
    press(qtbot, output, Qt.Key.Key_M, CTRL)
    qtbot.waitUntil(lambda: "under way" in {p.state for p in page.view.rows.looks[2].parts}, timeout=20_000)
    page.view.choose("tall")
    press(qtbot, output, Qt.Key.Key_M, CTRL)  # waits for its turn
    assert states(output)[0] == "waits"
    press(qtbot, output, Qt.Key.Key_Escape)
    rest(qtbot, output)
    known(qtbot, output, "stopped", "not made", "stopped")
    assert not list((tmp_path / "out").glob("*.mp4"))
    changed = replace(project.document.master("large"), width=320, height=180)
    project.edit("Small", edits.change_master(project.document, changed))
    output.run("output.go_on")
    rest(qtbot, output)
    finished = makings(output).finished_of("large")
    assert probe(finished.made.file).width == 720  # as it was ordered
    known(qtbot, output, "checked", "not made", "moved on")
    output.run("output.make_all")
    rest(qtbot, output)
    known(qtbot, output, "checked", "checked", "checked")
    assert probe(finished.made.file).width == 320


def test_what_cannot_be_made_is_said_and_can_be_forgotten(output, qtbot):
    put_in(output, "/proc/none")
    press(qtbot, output, Qt.Key.Key_M, CTRL | SHIFT)
    rest(qtbot, output)
    known(qtbot, output, "failed", "failed")
    assert "cannot be written" in output.pages["output"].row_card.story.text()
    press(qtbot, output, Qt.Key.Key_A, CTRL)
    output.run("output.forget")
    known(qtbot, output, "not made", "not made")


def test_rows_are_changed_moved_added_and_taken_off(output, qtbot, monkeypatch):
    page, project = output.pages["output"], output.session.project
    card = page.row_card
    page.view.choose("tall")
    set_field(qtbot, card.range, "10-30")
    set_field(qtbot, card.name, "{{master} in vain")
    assert "makes no sense" in card.example.text()
    set_field(qtbot, card.name, "{lock} for {width}")
    qtbot.waitUntil(lambda: card.example.text() == "walk for 180")
    card.preset.setCurrentIndex(card.preset.findText("web, VP9"))
    card.preset.activated.emit(card.preset.currentIndex())
    card.captions.setCurrentIndex(card.captions.findData("beside"))
    card.captions.activated.emit(card.captions.currentIndex())
    row = output.desk.making.row("tall")
    assert (row.start, row.end, row.preset.name, row.preset.captions) == (10, 30, "web, VP9", "beside")
    set_field(qtbot, card.range, "90-100")
    assert "outside" in output.banner.message.text()
    press(qtbot, output, Qt.Key.Key_Down, ALT)
    qtbot.waitUntil(lambda: [r.id for r in page.view.rows.rows] == ["square", "tall"])
    monkeypatch.setattr(QInputDialog, "getItem", lambda *a, **k: ("1:1", True))
    press(qtbot, output, Qt.Key.Key_Insert)
    qtbot.waitUntil(lambda: [r.master for r in page.view.rows.rows] == ["square", "square", "tall"])
    press(qtbot, output, Qt.Key.Key_Delete)
    qtbot.waitUntil(lambda: [r.master for r in page.view.rows.rows] == ["square", "tall"])
    for _ in range(3):
        project.undo()
    qtbot.waitUntil(lambda: [r.id for r in page.view.rows.rows] == ["tall", "square"])


def test_what_waits_is_listed_and_gone_to(output, qtbot):
    page = output.pages["output"]
    waits = {}

    def listed():  # what is found later joins it
        waits.update({f"Go there: {c.said}": c for c in output.desk.before_making.concerns if c.master == "square"})
        shown = [b for b in page.middle.findChildren(QAbstractButton) if b.isVisible() and b.accessibleName() in waits]
        return shown[0] if shown else None

    qtbot.waitUntil(lambda: listed() is not None, timeout=10_000)
    there = listed()
    concern = waits[there.accessibleName()]
    there.click()
    at = output.session.at
    assert (at.stage, at.master_id, at.frame) == (concern.where, "square", concern.frame)


def test_it_goes_on_while_another_project_is_open_and_is_known_when_it_is_back(output, qtbot, planned, tmp_path):
    project = output.session.project
    doc = edits.add_master(project.document, Master("large", "large", 1280, 720))
    doc = edits.change_row(doc, replace(listing(doc)[-1], folder=str(tmp_path / "out")))
    for name, each in (("one", replace(doc, project="one")), ("two", replace(planned, project="two"))):
        save_project(each, tmp_path / f"{name}.ezvar")
    output.session.files.open(tmp_path / "one.ezvar")
    rest(qtbot, output)
    press(qtbot, output, Qt.Key.Key_6, CTRL)
    choose(output, "large")
    press(qtbot, output, Qt.Key.Key_M, CTRL)
    qtbot.waitUntil(lambda: "being made" in states(output), timeout=20_000)
    output.session.files.open(tmp_path / "two.ezvar")
    qtbot.waitUntil(lambda: project.document.project == "two", timeout=20_000)
    assert states(output) == ["not made", "not made"]
    rest(qtbot, output)
    assert (tmp_path / "out" / "walk large.mp4").exists()
    assert makings(output).finished == ()
    output.session.files.open(tmp_path / "one.ezvar")
    rest(qtbot, output)
    qtbot.waitUntil(lambda: project.document.project == "one" and states(output)[-1] == "checked", timeout=20_000)
    assert project.unsaved


def test_closing_asks_and_what_was_unfinished_is_offered_after_a_crash(output, qtbot, tmp_path, monkeypatch):
    project = output.session.project
    project.edit("Large", edits.add_master(project.document, Master("large", "large", 720, 1280)))
    put_in(output, tmp_path / "out")
    choose(output, "large")
    press(qtbot, output, Qt.Key.Key_M, CTRL)
    qtbot.waitUntil(lambda: bool(makings(output).revisions), timeout=20_000)
    crashed = project.whole
    monkeypatch.setattr("ezvar.app.window.main_window.ask", lambda *a: "Go on making them")
    assert not output.close()
    monkeypatch.setattr("ezvar.app.window.main_window.ask", lambda *a: "Stop and close")
    monkeypatch.setattr(QMessageBox, "question", lambda *a, **k: QMessageBox.StandardButton.Cancel)
    assert not output.close()  # unsaved, which is asked about next
    rest(qtbot, output)
    assert [o.state for o in makings(output).ordered] == ["stopped"]
    save_project(crashed, tmp_path / "crashed.ezvar")
    output.session.files.open(tmp_path / "crashed.ezvar")
    rest(qtbot, output)
    assert "1 movie is not finished" in output.banner.message.text()
    assert [o.state for o in makings(output).ordered] == ["stopped"]
    click(qtbot, output.strip, "Stage Output")
    click(qtbot, output.pages["output"].middle, "Go on with what is not finished")
    rest(qtbot, output)
    known(qtbot, output, "not made", "not made", "checked")


def test_what_was_checked_is_shown_with_the_pictures_that_differ_and_stills_are_kept(
    output, qtbot, tmp_path, monkeypatch
):
    press(qtbot, output, Qt.Key.Key_M, CTRL)
    rest(qtbot, output)
    finished = makings(output).finished_of("tall")
    flawed = Report((Check("80 pictures as decided", (Flaw("Frame 30 in shot 2 differs.", 30, 31), Flaw("Else."))),))
    output.session.project.note_makings(makings(output).with_finished(replace(finished, report=flawed)))
    known(qtbot, output, "failed the check", "not made")
    press(qtbot, output, Qt.Key.Key_R, CTRL)
    dialog = output.findChild(QDialog)
    qtbot.waitUntil(lambda: not dialog.made.pixmap().isNull() and not dialog.stated.pixmap().isNull(), timeout=10_000)
    assert dialog.said.text() == "Frame 30 in shot 2 differs."
    dialog.list.setCurrentRow(2)
    assert (dialog.said.text(), dialog.made.pixmap().isNull()) == ("Else.", True)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a: (str(tmp_path / "check.json"), ""))
    click(qtbot, dialog, "Keep as JSON…")
    kept = json.loads((tmp_path / "check.json").read_text())
    assert kept["checks"][0]["flaws"][0] == {"said": "Frame 30 in shot 2 differs.", "start": 30, "end": 31}
    dialog.close()

    for wanted in (output.session.at.frame, None):
        output.run("output.poster")
        assert output.session.at.master.poster == wanted
        story = output.pages["output"].row_card._story(output.desk.making.row("tall"))
        assert ("With a poster" in story) == (wanted is not None)
    for command, name in (("output.still", "still"), ("output.sheet", "sheet")):
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, name=name: (str(tmp_path / name), ""))
        output.run(command)
        rest(qtbot, output)
    assert sorted(p.name for p in tmp_path.glob("s*.*g")) == ["sheet.jpg", "still.png"]


def test_what_movies_will_come_to_is_tried_out_and_shown(output, qtbot):
    page = output.pages["output"]
    qtbot.waitUntil(lambda: all(look.said for look in page.view.rows.looks), timeout=20_000)
    assert all(re.fullmatch(r"[\d.]+ kB, \d+ s", look.said) for look in page.view.rows.looks)
    assert "about" in page._counts.text()


def pick(box, value):
    box.setCurrentIndex(next(k for k in range(box.count()) if box.itemData(k) == value))
    box.activated.emit(box.currentIndex())


def test_presets_are_changed_kept_exchanged_and_one_is_the_usual_one(output, qtbot, tmp_path, monkeypatch):
    monkeypatch.setenv("EZVAR_CONFIG", str(tmp_path))
    monkeypatch.setattr(output.preferences, "file", tmp_path / "preferences.json")
    output.run("output.presets")
    dialog = output.findChild(PresetsDialog)
    assert dialog.list.currentItem().text() == "delivery, H.264   (usual)"
    assert not dialog.keep.isEnabled()
    pick(dialog.codec, "prores")
    assert (dialog.preset.picture.container, dialog.rating.isEnabled()) == ("mov", False)
    pick(dialog.codec, "h265")
    pick(dialog.rating, "size")
    dialog.amount.setValue(4)
    pick(dialog.passes, 2)
    dialog.loudness.setValue(-16)
    pick(dialog.sound, "pcm")
    assert ("does not go into MP4" in dialog.said.text(), dialog.keep.isEnabled()) == (True, False)
    pick(dialog.container, "mov")
    dialog.name.selectAll()
    qtbot.keyClicks(dialog.name, "four megabytes")
    click(qtbot, dialog, "Keep")
    kept = preset_named("four megabytes")
    assert (kept.picture.codec, kept.picture.megabytes, kept.picture.passes) == ("h265", 4, 2)
    assert (kept.sound.codec, kept.sound.loudness) == ("pcm", -16)
    click(qtbot, dialog, "Make it the usual one")
    assert {row.preset.name for row in output.desk.making.rows()} == {"four megabytes"}
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a: (str(tmp_path / "four.json"), ""))
    click(qtbot, dialog, "Hand out…")
    click(qtbot, dialog, "Throw away")
    qtbot.waitUntil(lambda: {row.preset.name for row in output.desk.making.rows()} == {"delivery, H.264"})
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a: (str(tmp_path / "four.json"), ""))
    click(qtbot, dialog, "Bring in…")
    assert preset_named("four megabytes") == kept
    dialog.close()


def test_several_rows_are_changed_at_once_and_it_is_said_on_the_desktop(output, qtbot, tmp_path, monkeypatch):
    _page, card = output.pages["output"], output.pages["output"].row_card
    said = []
    monkeypatch.setattr("ezvar.app.window.main_window.notify", lambda *words: said.append(words))
    monkeypatch.setattr(output.preferences, "file", tmp_path / "preferences.json")
    output.run("output.notice")
    press(qtbot, output, Qt.Key.Key_A, CTRL)
    assert card.title.text() == "2 movies"
    pick(card.sound, next(s for s, words in card._sounds(output.desk.making.default) if words == "mono, AAC"))
    filled = []
    card.sound.model().rowsInserted.connect(lambda *_: filled.append(1))
    card.refresh()
    assert filled == []  # somebody may have it open
    wav = Path(make_movie(tmp_path / "own.mp4", 20, sound="beeps"))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a: ("", ""))
    pick(card.heard, "a file")
    assert [r.heard for r in output.desk.making.rows()] == [Heard(), Heard()]
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a: (str(wav), ""))
    pick(card.heard, "a file")
    assert [r.heard.file for r in output.desk.making.rows()] == [str(wav)] * 2
    card.refresh()
    assert card.heard.currentText() == "own.mp4"
    pick(card.exists, "number")
    set_field(qtbot, card.range, "0-20")
    press(qtbot, output, Qt.Key.Key_Up, ALT)  # they are first already
    rows = output.desk.making.rows()
    assert [(r.preset.sound.channels, r.exists, r.start, r.end) for r in rows] == [("mono", "number", 0, 20)] * 2
    for number in ("", " (2)"):
        press(qtbot, output, Qt.Key.Key_M, CTRL)
        rest(qtbot, output)
        assert (tmp_path / "out" / f"walk 1x1{number}.mp4").exists()
    assert said == [("Ezvar", "2 movies are made.")] * 2
    opened = []
    monkeypatch.setattr(QDesktopServices, "openUrl", lambda url: opened.append(url.toLocalFile()))
    output.run("output.folder")
    assert opened == [str(tmp_path / "out")]
    monkeypatch.setenv(RECEIVER, f"{sys.executable} -m ezvar.receiver --inbox {tmp_path / 'in'} --pace 0 --mood well")
    output.pages["output"].view.choose(output.desk.making.rows()[0].id)
    pick(card.receiver, known_receivers()[0])
    rest(qtbot, output)
    monkeypatch.setattr(QMessageBox, "question", lambda *a: QMessageBox.StandardButton.Yes)
    press(qtbot, output, Qt.Key.Key_D, CTRL | ALT)
    rest(qtbot, output)
    assert [f.sent.state for f in makings(output).finished if f.sent is not None] == ["accepted"]
    assert "took" in output.banner.message.text()
    assert len(list((tmp_path / "in").iterdir())) == 1
    qtbot.waitUntil(lambda: any("pixels there" in c.said for c in output.desk.before_making.concerns), timeout=10_000)
