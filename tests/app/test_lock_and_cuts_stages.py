"""The lock and cuts stages with timelines, driven by clicks and keys."""

from dataclasses import replace
from pathlib import Path
from threading import Event

import numpy as np
import opentimelineio as otio
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog, QInputDialog, QMenu, QMessageBox, QPushButton

from ezvar.app.commands import ask_about_clips
from ezvar.app.commands.clips_dialog import ClipsDialog
from ezvar.core import edits
from ezvar.core.framing import Size, picture_size
from ezvar.core.lock import LockReader, missing, take_lock
from ezvar.core.model import Choices, Colouring, Cut, Keyframe, Master
from ezvar.core.problems import problems
from ezvar.core.store import Journal, load_sets, save_sets, sets_file
from ezvar.core.waiting import cuts_waiting

from ..driving import CTRL, press, rest
from ..media import make_movie, numbered
from ..timelines import EDL, Range, Time, clip, make_media, make_timeline, track

pytestmark = pytest.mark.usefixtures("movement_alone")


@pytest.fixture(scope="module")
def folder(tmp_path_factory):
    made = tmp_path_factory.mktemp("lock window")
    make_media(made)
    otio.adapters.write_to_file(make_timeline(), str(made / "edit.otio"))
    (made / "edit.edl").write_text(EDL)
    return made


def _rows(tree):
    found = []
    for k in range(tree.topLevelItemCount()):
        top = tree.topLevelItem(k)
        found += [top.text(0), *(top.child(n).text(0) for n in range(top.childCount()))]
    return found


def test_a_timeline_with_missing_media_is_relinked_by_keys(window, qtbot, folder, tmp_path, monkeypatch):
    """Two media elsewhere: one found in a folder, one taken from its guess."""
    timeline = otio.schema.Timeline("t", global_start_time=Time(0, 25))
    timeline.tracks.append(track(clip("one", "x/a.mp4", 90000, 30), clip("two", "sstill.png", 0, 10)))
    otio.adapters.write_to_file(timeline, str(tmp_path / "t.otio"))
    window.session.files.open(tmp_path / "t.otio")
    rest(qtbot, window)
    assert window.session.at.stage == "lock"
    assert "2 media missing, 0 found" in window.pages["lock"].sheet._said.text()
    assert window.ledger.rows.data(window.ledger.rows.index(0), Qt.ItemDataRole.ToolTipRole).startswith("Shot 1")
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *a, **k: str(folder))
    press(qtbot, window, Qt.Key.Key_L, CTRL)
    rest(qtbot, window)
    assert [m.name for m in missing(window.session.project.document)] == ["sstill.png"]
    tree = window.pages["lock"].sheet.tree
    rows = _rows(tree)
    assert rows[:2] == ["Missing: 1", "sstill.png"]
    guess = tree.topLevelItem(0).child(0).child(0)
    assert guess.text(0) == "perhaps still.png"
    assert tree.hasFocus()
    qtbot.keyClick(tree, Qt.Key.Key_Down)  # not the window's command, since the list has the keys
    assert tree.currentItem() is guess
    assert window.session.at.frame == 0
    qtbot.keyClick(tree, Qt.Key.Key_Return)
    rest(qtbot, window)
    assert not missing(window.session.project.document)
    button = next(b for b in window.pages["lock"].card.findChildren(QPushButton) if b.text() == "+ 1:1")
    button.setFocus(Qt.FocusReason.TabFocusReason)
    qtbot.keyClick(button, Qt.Key.Key_Space)
    assert [m.name for m in window.session.project.document.masters] == ["1:1"]
    assert window.player.speed == 0
    rest(qtbot, window)
    while not missing(window.session.project.document):
        press(qtbot, window, Qt.Key.Key_Z, CTRL)
    assert len(missing(window.session.project.document)) == 1
    rest(qtbot, window)


def test_an_edl_asks_for_its_rate(window, qtbot, folder, monkeypatch):
    asked = []

    def choose(parent, title, text, words, current, editable):
        asked.append((text, words[current]))
        return words[current], True

    monkeypatch.setattr(QInputDialog, "getItem", choose)
    window.session.files.open(folder / "edit.edl")
    rest(qtbot, window)
    assert "edit.edl" in asked[0][0]
    assert asked[0][1].startswith("25 ")
    assert len(window.session.project.document.shots) == 6
    assert "Not carried: 4" in _rows(window.pages["lock"].sheet.tree)


def test_a_note_is_gone_to_and_a_flat_part_is_searched(window, qtbot, folder, edit):
    timeline = otio.schema.Timeline("t", global_start_time=Time(0, 25))
    part = clip("finished piece", str(edit), 0, 80)
    part.markers.append(otio.schema.Marker("look", Range(Time(55, 25), Time(1, 25))))
    timeline.tracks.append(track(part))
    file = edit.parent / "flat part.otio"
    otio.adapters.write_to_file(timeline, str(file))
    window.session.files.open(file)
    rest(qtbot, window)
    tree = window.pages["lock"].sheet.tree
    note = next(
        tree.topLevelItem(k) for k in range(tree.topLevelItemCount()) if "Notes" in tree.topLevelItem(k).text(0)
    )
    tree.setCurrentItem(note.child(0))
    qtbot.keyClick(tree, Qt.Key.Key_Return)
    assert window.session.at.frame == 55
    press(qtbot, window, Qt.Key.Key_2, CTRL)
    assert len(window.session.project.document.shots) == 1
    press(qtbot, window, Qt.Key.Key_F, Qt.KeyboardModifier.ShiftModifier)
    rest(qtbot, window)
    assert [s.start for s in window.session.project.document.shots] == [0, 20, 40, 60]
    assert [int(s.source.start) for s in window.session.project.document.shots] == [0, 20, 40, 60]


def test_shots_and_windows_come_while_a_long_movie_is_read_and_leave_decisions_alone(
    window, qtbot, tmp_path, monkeypatch
):
    monkeypatch.setattr("ezvar.core.evidence.tasks._EACH_PART", 0.0)
    monkeypatch.setattr("ezvar.core.evidence.tasks._PART_COSTS", 0.0)
    path = make_movie(tmp_path / "long.mp4", 960, size=(192, 108), picture=lambda n, w, h: numbered(n // 80 * 7, w, h))
    session, go_on, strip = window.session, Event(), LockReader.strip

    def held(self, run, start, end):
        for picture in strip(self, run, start, end):
            assert picture.index < 600 or go_on.wait(60)
            yield picture

    monkeypatch.setattr(LockReader, "strip", held)
    session.files.open(path)
    qtbot.waitUntil(lambda: session.media.analysis is not None, timeout=60_000)
    assert session.media.analysis.known is not None  # the rest is still to come
    assert window.ledger.order.text().endswith("% read")
    session.project.edit("cut", edits.add_cut(session.project.document, 500))
    window.desk.analysing.add_masters([Master("tall", "9:16", 180, 320)])
    qtbot.waitUntil(lambda: bool(session.project.document.framings), timeout=60_000)
    early = session.project.document.framings[0]
    now = edits.set_verdict(session.project.document, early.shot, early.master, "agreed")
    assert not session.media.analysis.knows(now.shots[-1].start, 960)
    pane = replace(early.panes[0], keys=(Keyframe(0, zoom=2.0),), choices=Choices(headroom=0.2))
    unread = replace(early, shot=now.shots[-1].id, panes=(pane,))
    session.project.edit("agree", edits.set_framings(now, [unread]))
    session.at.go(950)
    go_on.set()
    rest(qtbot, window)
    doc = session.project.document
    solved = doc.framing(doc.shots[-1].id, early.master).panes[0]
    assert solved.choices == pane.choices  # what was asked before its pictures were read is solved from them
    assert solved.keys[0].zoom < 2.0
    assert session.media.analysis.known is None
    assert [s.start for s in doc.shots] == sorted({*range(0, 960, 80), 500})
    assert doc.framing(early.shot, early.master).verdict == "agreed"
    assert all(doc.framing(s.id, doc.masters[0].id) is not None for s in doc.shots)


def test_many_cuts_are_settled_at_once_and_passed_ones_taken(opened, qtbot):
    session = opened.session
    doubtful = replace(session.project.document.shots[2], cut=Cut("cut", 40, 40, 0.5, 55, "The change is small."))
    doc = edits.set_shots(
        session.project.document, [*session.project.document.shots[:2], doubtful, session.project.document.shots[3]]
    )
    session.project.edit("doubt", replace(doc, passed=(Cut("cut", 10, 10, 0.3, 61, "Something changes here."),)))
    press(qtbot, opened, Qt.Key.Key_2, CTRL)  # shows the first that waits
    assert (session.at.frame, cuts_waiting(session.project.document, True)) == (10, 2)
    assert opened.pages["cuts"]._title.text().startswith("Change at")
    assert "61" in opened.pages["cuts"]._doubt.text()
    press(qtbot, opened, Qt.Key.Key_Y)  # it is one after all, and on to the next
    assert [s.start for s in session.project.document.shots] == [0, 10, 20, 40, 60]
    assert session.at.frame == 40
    press(qtbot, opened, Qt.Key.Key_U)
    assert [s.start for s in session.project.document.shots] == [0, 10, 20, 60]
    assert cuts_waiting(session.project.document, True) == 0
    qtbot.waitUntil(lambda: bool(session.readings.cut_places))
    opened.ledger.view.selectAll()
    press(qtbot, opened, Qt.Key.Key_U)
    assert [s.start for s in session.project.document.shots] == [0]
    press(qtbot, opened, Qt.Key.Key_Z, CTRL)
    assert len(session.project.document.shots) == 4
    press(qtbot, opened, Qt.Key.Key_F)
    rest(qtbot, opened)
    assert {20, 40, 60} <= {s.start for s in session.project.document.shots}


def _action(menu: QMenu, title: str):
    return next(a for a in menu.actions() if a.text() == title)


def test_masters_are_changed_from_their_menu_and_kept_as_a_set(opened, qtbot, monkeypatch):
    session, rows = opened.session, opened.pages["lock"].masters
    session.at.set_stage("lock")
    answers = iter([("tall", True), ("200x300", True), ("teaser, 0-40, 1", True), ("mine", True)])
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: next(answers))
    monkeypatch.setattr(QMessageBox, "question", lambda *a, **k: QMessageBox.StandardButton.Yes)
    master = session.project.document.master("tall")

    def do(title):
        _action(rows._menu(session.project.document.master("tall"), rows), title).trigger()
        rest(qtbot, opened)

    do("Rename…")
    do("Another size…")
    do("Add a range…")
    changed = session.project.document.master("tall")
    assert (changed.name, changed.width, changed.height) == ("tall", 200, 300)
    assert [(r.name, r.start, r.end, r.limit_seconds) for r in changed.ranges] == [("teaser", 0, 40, 1.0)]
    assert "over 1 s" in opened.banner.message.text()
    do("Duplicate with all decisions")
    do("Move down")
    do("Start with the whole picture")
    assert [m.name for m in session.project.document.masters] == ["tall 2", "tall", "1:1"]
    assert session.project.document.framing(session.project.document.shots[0].id, "tall").panes[0].keys[0].zoom < 1
    rows.save_set(load_sets(sets_file()))
    kept = load_sets(sets_file()).sets[0]
    assert (kept.name, [m.name for m in kept.masters]) == ("mine", ["tall 2", "tall", "1:1"])
    assert kept.masters[1].ranges == ()
    assert master.name == "9:16"
    sets_file().unlink()


def test_a_new_lock_begins_with_the_default_set(window, qtbot, edit, planned):
    sets = load_sets(sets_file()).put("usual", planned.masters)
    save_sets(replace(sets, default="usual"), sets_file())
    window.session.files.open(edit)
    rest(qtbot, window)
    assert [m.name for m in window.session.project.document.masters] == ["9:16", "1:1"]
    assert len(window.session.project.document.framings) == 8
    sets_file().unlink()


def test_a_reference_is_compared_and_a_changed_lock_taken_in(window, qtbot, folder, tmp_path, monkeypatch):
    window.session.files.open(folder / "edit.otio")
    rest(qtbot, window)
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(folder / "a.mp4"), ""))
    window.run("lock.compare")
    rest(qtbot, window)
    tree = window.pages["lock"].sheet.tree
    rows = _rows(tree)
    assert any(r.startswith("Differs from the reference") for r in rows)
    assert "a.mp4 has 200 frames, the lock 279." in rows
    different = tree.topLevelItem(1)
    row = next(different.child(k) for k in range(different.childCount()) if different.child(k).text(0) == "Shot 4")
    tree.setCurrentItem(row)
    qtbot.keyClick(tree, Qt.Key.Key_Return)
    rest(qtbot, window)
    assert window.pages["lock"].shown.currentIndex() == 1
    assert window.pages["lock"].compare._images is not None
    window.grab()
    changed = make_timeline()
    del changed.tracks[0][0:2]
    otio.adapters.write_to_file(changed, str(folder / "again.otio"))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(folder / "again.otio"), ""))
    window.run("lock.relock")
    rest(qtbot, window)
    assert len(window.session.project.document.shots) == 11
    assert any("no longer there" in r for r in _rows(tree))
    press(qtbot, window, Qt.Key.Key_Z, CTRL)
    assert len(window.session.project.document.shots) == 12


def test_loose_clips_are_ordered_and_trimmed(window, qtbot, folder, monkeypatch):
    def arrange(dialog):
        dialog.table.setCurrentCell(0, 0)
        dialog.move_row(1)
        dialog.table.item(1, 1).setText("10")
        dialog.table.item(1, 2).setText("40")
        return 1

    monkeypatch.setattr(ClipsDialog, "exec", arrange)
    ask_about_clips(window, [str(folder / "a.mp4"), str(folder / "still.png")])
    rest(qtbot, window)
    doc = window.session.project.document
    assert [(doc.media_of(s).name, s.frames, int(s.source.start)) for s in doc.shots] == [
        ("still.png", 100, 0), ("a.mp4", 30, 10),
    ]  # fmt: skip


def test_vanished_media_are_noticed_and_welcomed_back(window, qtbot, folder, tmp_path):
    lone = tmp_path / "a.mp4"
    lone.write_bytes((folder / "a.mp4").read_bytes())
    window.session.files.open(lone)
    rest(qtbot, window)
    lone.rename(tmp_path / "away.mp4")
    qtbot.waitUntil(lambda: "no longer where it was" in window.banner.message.text(), timeout=10_000)
    Path(tmp_path / "away.mp4").rename(lone)
    qtbot.waitUntil(lambda: "there again" in window.banner.message.text(), timeout=10_000)


def test_work_left_behind_is_offered_and_taken_up(window, qtbot, folder, monkeypatch):
    doc = take_lock(folder / "edit.otio").doc
    left = Journal(window.session.cache.folder)
    left.note(doc, None)
    qtbot.waitUntil(lambda: left._file.exists(), timeout=10_000)
    left._file.with_suffix(".lock").unlink()  # as if its program had been killed
    monkeypatch.setattr(QMessageBox, "exec", lambda box: 0)
    monkeypatch.setattr(
        QMessageBox, "clickedButton", lambda box: next(b for b in box.buttons() if b.text() == "Take it up")
    )
    window.offer_leftovers()
    rest(qtbot, window)
    assert len(window.session.project.document.shots) == 12
    assert window.session.project.unsaved
    assert not left._file.exists()


def test_the_full_source_and_blended_frames_are_chosen_by_command(window, qtbot, folder, planned):
    timeline = otio.schema.Timeline("placed", global_start_time=Time(0, 25))
    tight = clip("tight", "a.mp4", 90000, 30)
    tight.metadata["ezvar"] = {"placement": {"scale": 2.0}}
    timeline.tracks.append(track(tight, clip("fast", "b.mp4", 2 * 3600 * 50, 40, 50)))
    timeline.metadata["ezvar"] = {"frame": [320, 180]}
    otio.adapters.write_to_file(timeline, str(folder / "placed.otio"))
    window.session.files.open(folder / "placed.otio")
    rest(qtbot, window)
    session = window.session
    window.desk.analysing.add_masters(planned.masters)
    rest(qtbot, window)
    assert picture_size(session.project.document, session.at.shot) == Size(160, 90)
    press(qtbot, window, Qt.Key.Key_E)
    rest(qtbot, window)
    assert picture_size(session.project.document, session.at.shot) == Size(320, 180)
    assert len(session.project.document.framings) == 4  # solved anew
    window.run("lock.rule")
    rest(qtbot, window)
    assert session.project.document.lock.rule == "blended"
    press(qtbot, window, Qt.Key.Key_Z, CTRL)
    assert session.project.document.lock.rule == "nearest"
    rest(qtbot, window)


def test_a_decision_kept_aside_is_shown_and_brought_back(opened, qtbot):
    session = opened.session
    doc = session.project.document
    kept = replace(doc.framings[0], shot="gone", verdict="agreed", why="As agreed.")
    session.project.edit("Relock", replace(doc, aside=(kept,)))
    assert "9:16: a decision on a shot that is gone lies aside." in problems(session.project.document)
    press(qtbot, opened, Qt.Key.Key_1, CTRL)
    rest(qtbot, opened)
    tree = opened.pages["lock"].sheet.tree
    assert "A framing in 9:16" in _rows(tree)
    third = doc.shots[2]
    session.at.go_to_shot(third)
    tree.setCurrentItem(tree.topLevelItem(0).child(0))
    qtbot.keyClick(tree, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: not session.project.document.aside, timeout=10_000)
    assert session.project.document.framing(third.id, kept.master).panes[0].keys == kept.panes[0].keys
    assert "A framing in 9:16" not in _rows(tree)
    session.project.undo()
    assert session.project.document.aside == (kept,)


def test_damaged_pictures_are_listed_and_gone_to(opened, qtbot):
    session = opened.session
    press(qtbot, opened, Qt.Key.Key_1, CTRL)
    sheet = opened.pages["lock"].sheet
    assert not sheet.isVisible()
    session.media.put_analysis(replace(session.media.analysis, damaged=np.array([30, 31, 32, 50], np.int32)))
    rest(qtbot, opened)
    assert sheet.isVisible()
    (group,) = (
        sheet.tree.topLevelItem(k) for k in range(sheet.tree.topLevelItemCount()) if "Damaged" in _title(sheet, k)
    )
    assert [group.child(k).text(0) for k in range(2)] == ["00:00:01:05 to 00:00:01:07", "00:00:02:00"]
    sheet.tree.setCurrentItem(group.child(1))
    sheet.tree.itemActivated.emit(group.child(1), 0)
    assert session.at.frame == 50


def _title(sheet, k):
    return sheet.tree.topLevelItem(k).text(0)


def test_a_colour_table_is_chosen_shown_and_turned_off_by_its_key(opened, qtbot, tmp_path, monkeypatch):
    session, rows = opened.session, opened.pages["lock"].colours
    red = tmp_path / "red.cube"
    red.write_text("LUT_1D_SIZE 2\n0.4 0 0\n1 0.2 0.2\n")
    bad = tmp_path / "bad.cube"
    bad.write_text("LUT_1D_SIZE 2\n0 0 0\n")
    session.at.set_stage("lock")
    rest(qtbot, opened)

    def seen():
        rest(qtbot, opened)
        image = opened.pages["lock"].well.grab().toImage()
        colour = image.pixelColor(image.width() // 2, image.height() // 2)
        return colour.redF() - colour.greenF()

    plain = seen()
    for path in (bad, red):
        monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, path=path, **k: (str(path), ""))
        rows.choose.click()
        if path is bad:
            assert session.project.document.colouring.plain
            assert "1 colours instead of 2" in opened.banner.message.text()
    qtbot.waitUntil(lambda: seen() > plain + 0.2, timeout=8000)
    assert "red.cube" in rows.said.text()
    press(qtbot, opened, Qt.Key.Key_J, CTRL)
    qtbot.waitUntil(lambda: abs(seen() - plain) < 0.05, timeout=8000)
    assert not rows.on.isChecked()
    rows.on.click()
    rows.tone.click()
    assert session.project.document.colouring == Colouring(str(red), tone_mapped=True)
    opened.run("lock.media_table_off")
    assert session.project.document.colouring.table_of(session.project.document.lock.media[0].id) == ""
    opened.run("lock.media_table")
    rows.off.click()
    for _ in range(7):
        opened.run("edit.undo")
    assert session.project.document.colouring == Colouring()
