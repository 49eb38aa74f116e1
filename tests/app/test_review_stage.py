"""The review stage, driven by clicks and keys: notes, drawings, what is listed, moving pictures, agreed ones kept."""

from dataclasses import replace
from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QFileDialog, QInputDialog

from ezvar.app.stages.review.history_dialog import HistoryDialog
from ezvar.core import edits
from ezvar.core.framing import pane_window
from ezvar.core.model import Keyframe, threads
from ezvar.core.review import Asked
from ezvar.core.store import load_project, save_project

from ..driving import ALT, CTRL, LEFT, SHIFT, click, press, rest


@pytest.fixture
def review(opened, qtbot):
    opened.session.at.set_stage("review")
    opened.session.project.author = "Edit"
    rest(qtbot, opened)
    return opened


def notes(window):
    at = window.session.at
    return window.session.project.document.notes_on(at.shot.id, at.master_id)


def test_notes_are_written_answered_and_withdrawn_by_keys(review, qtbot, monkeypatch):
    session, page = review.session, review.pages["review"]
    session.at.go(session.project.document.shots[1].start + 7)
    press(qtbot, review, Qt.Key.Key_W)
    qtbot.keyClicks(page.notes.field, "Nearer, please")
    qtbot.keyClick(page.notes.field, Qt.Key.Key_Return, CTRL)
    rest(qtbot, review)
    (note,) = notes(review)
    assert (note.text, note.author, note.start, note.end) == ("Nearer, please", "Edit", 7, 8)
    assert not page.notes.field.hasFocus()
    press(qtbot, review, Qt.Key.Key_R)
    assert "An answer to Edit" in page.notes._told.text()
    qtbot.keyClicks(page.notes.field, "Done")
    click(qtbot, page.notes, "Note it")
    rest(qtbot, review)
    assert [[n.text for n in thread] for thread in threads(notes(review))] == [["Nearer, please", "Done"]]
    assert session.project.history.undo_label == "Note, shot 2"
    press(qtbot, review, Qt.Key.Key_W, SHIFT)
    assert [n.text for n in notes(review)] == ["Nearer, please"]
    page.notes.everywhere.setChecked(True)
    assert review.desk.note_work.say("", None) is False  # nothing is written
    qtbot.keyClicks(page.notes.field, "Too dark")
    click(qtbot, page.notes, "Note it")
    session.at.set_master(session.project.document.masters[1].id)
    assert [n.text for n in notes(review)] == ["Too dark"]
    session.at.set_master(session.project.document.masters[0].id)
    session.project.undo()
    rest(qtbot, review)
    assert len(session.project.document.notes) == 2  # kept without its words
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: ("Director", True))
    review.run("review.name")
    press(qtbot, review, Qt.Key.Key_W, SHIFT)
    assert "No note here is yours" in review.banner.message.text()
    session.at.go(0)
    click(qtbot, page.board.window(), "With notes 1")
    assert len(page.board.rows.shots) == 2  # and the present one
    press(qtbot, review, Qt.Key.Key_F)
    assert page.board.rows.listed == "all"


def test_a_drawing_goes_with_the_next_note_and_is_shown_at_its_frames(review, qtbot):
    session, page = review.session, review.pages["review"]
    press(qtbot, review, Qt.Key.Key_E)
    rest(qtbot, review)
    large, box = page.large, page.large.box()
    middle = box.center().toPoint()
    qtbot.mousePress(large, LEFT, pos=middle)
    for k in range(1, 6):
        qtbot.mouseMove(large, middle + QPoint(5 * k, -3 * k))
    qtbot.mouseRelease(large, LEFT, pos=middle + QPoint(25, -15))
    (mark,) = review.desk.note_work.drawn
    assert mark.points[0] == pytest.approx((0.5, 0.5), abs=0.01)
    assert mark.points[-1][0] == pytest.approx(0.5 + 25 / box.width(), abs=0.01)
    press(qtbot, review, Qt.Key.Key_W)
    qtbot.keyClick(page.notes.field, Qt.Key.Key_Return, CTRL)
    (note,) = notes(review)
    assert (note.text, note.marks) == ("", (mark,))
    assert review.desk.note_work.marks_at_playhead() == (mark,)
    session.at.go(session.at.frame + 1)
    assert review.desk.note_work.marks_at_playhead() == ()
    press(qtbot, review, Qt.Key.Key_E)
    assert page.board.isVisible()


def test_what_is_pointed_at_moves_and_verdicts_are_counted_and_listed(review, qtbot):
    session, page = review.session, review.pages["review"]
    board, doc = page.board, session.project.document
    qtbot.waitUntil(lambda: board.visualRect(board.rows.index(0)).isValid(), timeout=5000)
    cell = board.cells.cell(board.visualRect(board.rows.index(0)), 1)
    spot = board.cells.box(cell, doc.masters[1]).center().toPoint()
    qtbot.mouseMove(board.viewport(), spot + QPoint(2, 2))
    qtbot.mouseMove(board.viewport(), spot)
    assert board.pointed == (doc.shots[0].id, doc.masters[1].id)
    seen = set()

    def went_on():
        seen.add(board.moving_to)
        return len(seen) > 5

    qtbot.waitUntil(went_on, timeout=20_000)
    assert board.image_of(doc.shots[0], doc.masters[1], board.cells.size_of(1, doc.masters[1])) is not None
    qtbot.mouseMove(board.viewport(), QPoint(3, 3))
    assert board.pointed is None
    press(qtbot, review, Qt.Key.Key_A)
    assert page.filters["agreed"].text() == "Agreed 1"
    for _ in range(2):
        press(qtbot, review, Qt.Key.Key_F)
    assert board.rows.shots == (doc.shots[0].id,)


def test_an_agreed_framing_stays_until_it_is_opened_again(stage, qtbot):
    session = stage.session
    session.at.set_stage("framing")
    shot = session.at.shot
    session.project.edit("Agree", edits.set_verdict(session.project.document, shot.id, "tall", "agreed"))
    agreed = session.at.framing
    for key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
        press(qtbot, stage, key, ALT)
        assert session.at.framing == agreed
    assert "is agreed in 9:16, and stays" in stage.banner.message.text()
    press(qtbot, stage, Qt.Key.Key_1)
    rest(qtbot, stage)
    assert session.at.framing == agreed
    press(qtbot, stage, Qt.Key.Key_Return, SHIFT)
    assert session.at.framing.verdict == "open"
    press(qtbot, stage, Qt.Key.Key_Left, ALT)
    place = session.at.place
    assert pane_window(session.at.pane, place.master, place.size, 0) != pane_window(
        agreed.panes[0], place.master, place.size, 0
    )


def test_a_shared_folder_is_watched_and_what_the_reviewer_answers_is_offered_and_never_taken_by_itself(
    review, qtbot, tmp_path, monkeypatch
):
    session, page, work = review.session, review.pages["review"], review.desk.incoming
    work._timer.setInterval(100)
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *a: str(tmp_path))
    review.run("review.shared_folder")
    assert session.project.document.shared == str(tmp_path)
    review.run("review.reviewer")
    qtbot.waitUntil(lambda: "Nothing was handed out" in review.banner.message.text(), timeout=20_000)
    page.tools.exchange.write_handoff(str(tmp_path / "out"), Asked(frozenset({"json", "csv"})))
    rest(qtbot, review)
    review.run("review.reviewer")
    before = session.project.document.framings
    qtbot.waitUntil(lambda: bool(work.offers), timeout=30_000)
    rest(qtbot, review)
    assert len(work.offers) == 1  # what we handed out ourselves is none
    assert session.project.document.framings == before
    assert page._offer.isVisible()
    assert "A return of Reviewer: " in page._offer.text()
    click(qtbot, page.card, "Take the return in")
    rest(qtbot, review)
    assert session.project.document.framings != before
    assert work.offers == []
    session.project.undo()
    assert session.project.document.framings == before
    review.run("review.share")
    rest(qtbot, review)
    assert [f.name.startswith("walk by Edit ") for f in tmp_path.glob("* by Edit *.json")] == [True]
    qtbot.wait(500)
    rest(qtbot, review)
    assert work.offers == []
    save_project(session.project.whole, tmp_path / "q.ezvar")
    assert load_project(tmp_path / "q.ezvar").shared == str(tmp_path)
    review.run("review.share_none")
    assert not work._timer.isActive()


def test_what_a_framing_was_before_is_looked_at_and_brought_back_and_a_saved_project_compared(review, qtbot, tmp_path):
    session, page = review.session, review.pages["review"]
    shot, master = session.at.shot, session.at.master
    save_project(session.project.whole, tmp_path / "before.ezvar")
    first = session.at.framing
    moved = replace(first, panes=(replace(first.panes[0], keys=(Keyframe(0, 0.2),)),))
    session.project.edit("Shift path, shot 1", edits.set_framings(session.project.document, [moved]))
    rest(qtbot, review)
    press(qtbot, review, Qt.Key.Key_B)
    dialog = review.findChild(HistoryDialog)
    assert dialog.list.count() == 1
    assert dialog.list.item(0).text().endswith("Edit: Shift path")
    assert "windows overlap by" in dialog._told.text()
    dialog.back.click()
    assert session.at.framing.panes == first.panes
    assert session.project.history.undo_label == "Bring back, shot 1"
    session.project.undo()
    page.tools.exchange.compare_with(str(tmp_path / "before.ezvar"))
    rest(qtbot, review)
    assert "1 framings differ" in page.result.text()
    assert page.tools.exchange.theirs.panes == first.panes
    assert page._differs.isVisible()
    click(qtbot, page.card, "Take theirs")
    assert session.project.document.framing(shot.id, master.id).panes == first.panes


def test_many_that_differ_are_settled_at_once_and_drawn_in_the_chart(review, qtbot, tmp_path):
    session, page = review.session, review.pages["review"]
    doc = session.project.document
    save_project(session.project.whole, tmp_path / "before.ezvar")
    moved = [replace(f, panes=(replace(f.panes[0], keys=(Keyframe(0, 0.2),)),)) for f in doc.framings[:4]]
    session.project.edit("Shift path", edits.set_framings(doc, moved))
    page.tools.exchange.compare_with(str(tmp_path / "before.ezvar"))
    rest(qtbot, review)
    assert page.filters["differs"].text() == f"Differs {len({f.shot for f in moved})}"
    chart = review.pages["framing"].sweep
    session.at.set_stage("framing")
    rest(qtbot, review)
    with_theirs = chart.grab().toImage()
    session.at.set_stage("review")
    review.ledger.view.selectAll()
    rest(qtbot, review)
    press(qtbot, review, Qt.Key.Key_T)
    rest(qtbot, review)
    assert session.project.document.framings == doc.framings
    assert page.tools.exchange.differing == {}
    assert session.project.history.undo_label == "Take theirs, 4 framings"
    session.project.undo()
    assert len(page.tools.exchange.differing) == 4
    rest(qtbot, review)
    press(qtbot, review, Qt.Key.Key_U)
    rest(qtbot, review)
    assert page.tools.exchange.differing == {}
    assert [f.panes for f in session.project.document.framings[:4]] == [f.panes for f in moved]
    session.at.set_stage("framing")
    rest(qtbot, review)
    assert chart.grab().toImage() != with_theirs


def test_the_simulated_reviewer_is_asked_by_one_command_where_no_folder_is_shared_yet(review, qtbot):
    session, work = review.session, review.desk.incoming
    work._timer.setInterval(100)
    review.run("review.reviewer")
    assert Path(session.project.document.shared).is_relative_to(session.cache.folder)
    qtbot.waitUntil(lambda: bool(work.offers), timeout=40_000)
    rest(qtbot, review)
    review.run("review.leave_offered")
    assert work.offers == []
