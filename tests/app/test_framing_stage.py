"""The framing stage, driven in the real window: every correction in as few actions as it should take."""

import threading
from dataclasses import replace

import numpy as np
import pytest
from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QApplication, QDialog, QFileDialog, QInputDialog

import ezvar.core.framing.solver.solve as solve_module
from ezvar.app.kit import theme
from ezvar.app.kit.keymap import Keymap
from ezvar.app.stages.framing.agree_preview import AgreePreview
from ezvar.app.window.keys_dialog import KeysDialog, write_sheet
from ezvar.app.window.walk import STEPS
from ezvar.core import edits
from ezvar.core.evidence.gather import KINDS, LOOK, ROW
from ezvar.core.framing import key_at, pane_window, picture_size, solve
from ezvar.core.model import Keyframe, Master, Pane
from ezvar.core.store import load_preferences, load_project

from ..driving import ALT, CTRL, LEFT, PLAIN, SHIFT, drag, known, press, rest, seen
from ..sights import SHOT, analysis_with


def test_following_another_and_both_take_one_key_each(stage, qtbot):
    assert seen(stage)[1] < 0.35
    press(qtbot, stage, Qt.Key.Key_2)
    known(qtbot, stage)
    assert seen(stage)[1] > 0.65
    assert [b.isChecked() for b in stage.pages["framing"].subjects.buttons[:2]] == [False, True]
    press(qtbot, stage, Qt.Key.Key_1, SHIFT)
    known(qtbot, stage)
    assert (seen(stage)[0] < 0.16) & (seen(stage)[2] > 0.84)
    press(qtbot, stage, Qt.Key.Key_S)
    known(qtbot, stage)
    assert seen(stage)[1] < 0.35
    assert stage.session.at.framing.decided == "solved"
    press(qtbot, stage, Qt.Key.Key_B)
    known(qtbot, stage)
    assert (seen(stage)[0] < 0.16) & (seen(stage)[2] > 0.84)
    press(qtbot, stage, Qt.Key.Key_U)
    known(qtbot, stage)
    assert len(stage.session.at.framing.panes) == 2
    press(qtbot, stage, Qt.Key.Key_W)
    known(qtbot, stage)
    zoom = stage.session.at.framing.panes[0].keys[0].zoom
    assert zoom < 1
    press(qtbot, stage, Qt.Key.Key_Z, CTRL)
    assert len(stage.session.at.framing.panes) == 2


def in_order(values, kind):
    return np.array(sorted(values, key=lambda each: each[0]), kind)


def test_writing_that_is_cut_is_titled_anew_from_the_framing_stage(stage, qtbot):
    session, page = stage.session, stage.pages["framing"]
    assert not page._anew.isVisible()
    seen_there = session.media.analysis.parts.evidence(0, 3 * SHOT)
    number, box = KINDS.index("text"), (0.02, 0.8, 0.3, 0.12)
    rows = [*seen_there.rows.tolist(), *((n, number, box, 0.99, 1.0, 0.0) for n in range(0, SHOT, 4))]
    looks = [*seen_there.looks.tolist(), *((n, number) for n in range(0, SHOT, 4))]
    session.media.analysis = analysis_with(
        replace(seen_there, rows=in_order(rows, ROW), looks=in_order(looks, LOOK), finders=KINDS)
    )
    doc = session.project.document
    solved = solve(doc, doc.master("tall"), session.media.analysis, doc.shots[:1])
    session.project.edit("Frame", edits.set_framings(doc, solved))
    known(qtbot, stage)
    assert page._anew.isVisible()
    press(qtbot, stage, Qt.Key.Key_F9)
    rest(qtbot, stage)
    (title,) = session.project.document.titles
    assert (session.at.stage, session.at.title, title.cover is not None) == ("text", title, True)
    assert not any(r.name == "text cut" for r in session.project.document.framing(doc.shots[0].id, "tall").reasons)
    session.at.set_stage("framing")
    rest(qtbot, stage)
    assert not page._anew.isVisible()


def test_digits_are_taken_by_their_place_and_left_alone_where_something_is_typed(stage, qtbot):
    french = QKeyEvent(QEvent.Type.KeyPress, Qt.Key.Key_Eacute, PLAIN, 11, 0, 0, "é")  # the place of 2
    QApplication.sendEvent(stage.ledger.view, french)
    known(qtbot, stage)
    assert seen(stage)[1] > 0.65
    before = stage.session.project.document
    stage.pages["framing"].values.across.setFocus()
    qtbot.keyClick(stage.pages["framing"].values.across, Qt.Key.Key_1)
    qtbot.wait(50)
    assert stage.session.project.document is before


def test_from_here_on_another_takes_two_choices_at_two_places(stage, qtbot):
    stage.session.at.go(20)
    press(qtbot, stage, Qt.Key.Key_2, ALT)
    known(qtbot, stage)
    assert [t.frame for t in stage.session.at.framing.panes[0].choices.follow] == [0, 20]
    assert (seen(stage, 1)[1] < 0.45) & (seen(stage, 39)[1] > 0.65)


def test_a_subject_is_drawn_by_one_drag_or_by_keys_alone(stage, qtbot):
    well = stage.pages["framing"].well
    press(qtbot, stage, Qt.Key.Key_D)
    picture = well.places().picture

    def at(x, y):
        return QPointF(picture.left() + x * picture.width(), picture.top() + y * picture.height()).toPoint()

    qtbot.mousePress(well, LEFT, pos=at(0.4, 0.3))
    qtbot.mouseMove(well, at(0.5, 0.5))
    qtbot.mouseMove(well, at(0.6, 0.7))
    qtbot.mouseRelease(well, LEFT, pos=at(0.6, 0.7))
    rest(qtbot, stage)
    known(qtbot, stage)
    (drawn,) = stage.session.project.document.drawn
    box = drawn.boxes[drawn.frames.index(10)]
    assert (box.x, box.y, box.width, box.height) == pytest.approx((0.4, 0.3, 0.2, 0.4), abs=0.02)
    assert seen(stage)[0] < 0.42 < 0.58 < seen(stage)[2]
    press(qtbot, stage, Qt.Key.Key_D)
    for key in (Qt.Key.Key_Left, Qt.Key.Key_Up, Qt.Key.Key_Plus):
        qtbot.keyClick(well, key)
    assert (well.box.x(), well.box.y(), well.box.width()) == pytest.approx((0.355, 0.355, 0.27))
    qtbot.keyClick(well, Qt.Key.Key_Return)
    rest(qtbot, stage)
    known(qtbot, stage)
    assert len(stage.session.project.document.drawn) == 2
    press(qtbot, stage, Qt.Key.Key_D)
    qtbot.keyClick(well, Qt.Key.Key_Escape)
    assert well.box is None


def test_a_constant_offset_takes_one_drag_and_shift_keeps_the_line(stage, qtbot):
    well = stage.pages["framing"].well
    before, places = seen(stage)[1], well.places()
    drag(qtbot, well, places.picture.center(), QPointF(60, 25), SHIFT)
    assert seen(stage)[1] == pytest.approx(before + 60 / places.picture.width(), abs=0.005)
    assert len(stage.session.at.framing.panes[0].keys) == 1


def test_one_moment_takes_a_drag_with_ctrl_and_a_pan_four_actions(stage, qtbot):
    well, session = stage.pages["framing"].well, stage.session
    by = QPointF(0.3 * well.places().picture.width(), 0)
    start = seen(stage)[1]
    session.at.go(12)
    drag(qtbot, well, well.places().picture.center(), QPointF(1, 0), CTRL)
    session.at.go(30)
    drag(qtbot, well, well.places().picture.center(), by, CTRL)
    keys = session.at.framing.panes[0].keys
    assert {12, 30} <= {k.frame for k in keys}
    assert key_at(session.at.framing.panes[0], 30).cx == pytest.approx(start + 0.3, abs=0.01)
    assert key_at(session.at.framing.panes[0], 5).cx == pytest.approx(start, abs=0.01)
    press(qtbot, stage, Qt.Key.Key_Left, CTRL)
    assert session.at.frame == 12
    press(qtbot, stage, Qt.Key.Key_Delete)
    assert 12 not in {k.frame for k in session.at.framing.panes[0].keys}


def test_the_window_is_sized_turned_and_typed(stage, qtbot):
    well, session = stage.pages["framing"].well, stage.session
    window_, size = well.active()[0]
    places = well.places()
    corner = places.on_screen(window_.corners(), (size.width, size.height))[2]
    middle = places.on_screen([(window_.cx, window_.cy)], (size.width, size.height))[0]
    drag(qtbot, well, corner, (middle - corner) * 0.5)
    assert session.at.framing.panes[0].keys[0].zoom == pytest.approx(2, rel=0.03)
    values = stage.pages["framing"].values
    for spin, value in ((values.zoom, 1.5), (values.across, 160.0), (values.angle, 4.0)):
        spin.setValue(value)
    key = session.at.framing.panes[0].keys[0]
    assert (key.zoom, key.cx, key.angle) == pytest.approx((1.5, 0.5, 4.0))
    for key, check in (
        (Qt.Key.Key_BracketRight, lambda k: k.angle == pytest.approx(5)), (Qt.Key.Key_Up, lambda k: k.cy < 0.5),
    ):  # fmt: skip
        press(qtbot, stage, key, ALT)
        assert check(session.at.framing.panes[0].keys[0])
    press(qtbot, stage, Qt.Key.Key_Plus)
    assert session.at.framing.panes[0].keys[0].zoom == pytest.approx(1.575)


def test_beads_are_moved_chosen_copied_and_eased_in_the_chart(stage, qtbot):
    sweep, session = stage.pages["framing"].sweep, stage.session
    pane = Pane((Keyframe(5, 0.3), Keyframe(20, 0.6), Keyframe(35, 0.4)))
    stage.desk.framing_work.put("Path", pane)
    known(qtbot, stage)
    chart = sweep.chart
    at = {f: QPointF(chart.x(f), chart.y(p)) for f, p in sweep.beads(session.at.framing.panes[0])}
    drag(qtbot, sweep, at[20], QPointF(chart.x(24) - chart.x(20), chart.y(0.7) - chart.y(0.6)))
    moved = session.at.framing.panes[0].keys[1]
    assert (moved.frame, moved.cx) == (24, pytest.approx(0.7, abs=0.01))
    assert stage.desk.framing_work.chosen_keys == {24}
    press(qtbot, stage, Qt.Key.Key_E, SHIFT)
    assert session.at.framing.panes[0].keys[1].ease == "hold"
    drag(qtbot, sweep, QPointF(chart.x(1), chart.area.top() + 2), QPointF(chart.x(28) - chart.x(1), 400), SHIFT)
    assert stage.desk.framing_work.chosen_keys == {5, 24}
    press(qtbot, stage, Qt.Key.Key_C, CTRL | ALT)
    session.at.go(30)
    press(qtbot, stage, Qt.Key.Key_V, CTRL | ALT)
    assert [k.frame for k in session.at.framing.panes[0].keys] == [5, 24, 30, 49]
    session.at.go(2)
    free = QPoint(round(chart.x(12)), round(chart.y(0.5)))
    qtbot.mouseDClick(sweep, LEFT, pos=free)
    assert 12 in {k.frame for k in session.at.framing.panes[0].keys}


def test_beads_snap_to_what_is_chosen_and_one_key_turns_it_off(stage, qtbot):
    sweep, session = stage.pages["framing"].sweep, stage.session
    session.at.go(20)
    frames = []
    for turn in ("", "view.snap_playhead", "view.snap_playhead", "view.snap"):
        if turn:
            stage.run(turn)
        stage.desk.framing_work.put("Path", Pane((Keyframe(5, 0.3), Keyframe(15, 0.6), Keyframe(35, 0.4))))
        chart = sweep.chart
        start = QPointF(chart.x(15), chart.y(0.6))
        drag(qtbot, sweep, start, QPointF(chart.x(19) - chart.x(15), 0))
        frames.append(session.at.framing.panes[0].keys[1].frame)
    assert frames == [20, 19, 20, 19]


def test_a_curve_is_bent_by_dragging_it_with_alt(stage, qtbot):
    sweep, session = stage.pages["framing"].sweep, stage.session
    stage.desk.framing_work.put("Path", Pane((Keyframe(0, 0.3, ease="linear"), Keyframe(39, 0.7))))
    chart = sweep.chart
    start = QPointF(chart.x(20), chart.y(key_at(session.at.framing.panes[0], 20).cx))
    drag(qtbot, sweep, start, QPointF(0, chart.y(0.6) - start.y()), ALT)
    assert key_at(session.at.framing.panes[0], 20).cx == pytest.approx(0.6, abs=0.01)
    assert session.at.framing.panes[0].keys[0].bend > 0.6


def test_what_is_lost_and_the_solved_path_are_shown_behind_a_path_by_hand(stage, qtbot):
    press(qtbot, stage, Qt.Key.Key_1)
    known(qtbot, stage)
    drag(qtbot, stage.pages["framing"].well, stage.pages["framing"].well.places().picture.center(), QPointF(250, 0))
    known(qtbot, stage)
    told = stage.desk.of_shot.known
    assert sum(len(s) for s in told.lost) == SHOT
    assert told.ghost is not None
    assert stage.pages["framing"]._doubt.isVisible()
    assert stage.pages["framing"].offers[0].isVisible()
    press(qtbot, stage, Qt.Key.Key_F6)
    known(qtbot, stage)
    assert stage.session.readings.doubt_of(stage.session.at.shot) < 40


def test_choices_from_the_card_and_from_keys_show_at_once(stage, qtbot):
    asks, session = stage.pages["framing"].asks, stage.session
    asks.pace.setValue(0)
    known(qtbot, stage)
    assert session.at.framing.panes[0].choices.pace == 0
    press(qtbot, stage, Qt.Key.Key_Period)
    known(qtbot, stage)
    assert session.at.framing.panes[0].choices.pace == pytest.approx(0.1)
    for key, name, value in (
        (Qt.Key.Key_Y, "look_room", False), (Qt.Key.Key_T, "keep_text", True), (Qt.Key.Key_H, "place", 1 / 3),
    ):  # fmt: skip
        press(qtbot, stage, key)
        known(qtbot, stage)
        assert getattr(session.at.framing.panes[0].choices, name) == value
    asks.tightest.setValue(2.0)
    known(qtbot, stage)
    assert session.at.framing.panes[0].choices.tightest == 2.0
    press(qtbot, stage, Qt.Key.Key_W, SHIFT)
    known(qtbot, stage)
    assert session.at.framing.panes[0].backdrop is not None
    assert asks.backdrop.currentText() == "the picture, blurred"


def test_the_same_fix_goes_to_the_whole_set_up_by_one_more_key(stage, qtbot):
    session = stage.session
    press(qtbot, stage, Qt.Key.Key_2)
    known(qtbot, stage)
    assert "shot 3" in stage.pages["framing"]._setup.text()
    press(qtbot, stage, Qt.Key.Key_G)
    known(qtbot, stage)
    panes = [session.project.document.framing(s.id, "tall").panes[0].keys for s in session.project.document.shots]
    assert panes[2] == panes[0] != panes[1]
    assert session.project.document.framing(session.project.document.shots[2].id, "tall").decided == "from a set-up"


def test_many_at_once_with_agreed_ones_left_alone(stage, qtbot, monkeypatch):
    session = stage.session
    shots = session.project.document.shots
    session.project.edit("Agree", edits.set_verdict(session.project.document, shots[1].id, "tall", "agreed"))
    press(qtbot, stage, Qt.Key.Key_C, CTRL)
    press(qtbot, stage, Qt.Key.Key_A, CTRL)
    assert session.at.chosen == tuple(s.id for s in shots)
    assert "3 shots are chosen" in stage.pages["framing"]._many.text()
    press(qtbot, stage, Qt.Key.Key_W)
    known(qtbot, stage)
    zooms = [session.project.document.framing(s.id, "tall").panes[0].keys[0].zoom for s in shots]
    assert (zooms[0] < 1, zooms[1], zooms[2] < 1) == (True, 1.0, True)
    monkeypatch.setattr(QInputDialog, "getItem", lambda *a, **k: ("The zoom only", True))
    press(qtbot, stage, Qt.Key.Key_V, CTRL | SHIFT)
    known(qtbot, stage)
    assert [session.project.document.framing(s.id, "tall").panes[0].keys[0].zoom for s in shots] == [1.0, 1.0, 1.0]
    look = AgreePreview(stage, stage.desk)
    rest(qtbot, stage)
    assert len(look.pictures) == 9
    assert all(not p.pixmap().isNull() for p in look.pictures.values())
    monkeypatch.setattr(QDialog, "exec", lambda self: 1)  # they look right
    press(qtbot, stage, Qt.Key.Key_G, CTRL)
    assert all(session.project.document.framing(s.id, "tall").verdict == "agreed" for s in shots)


def test_versions_are_held_shown_side_by_side_and_one_is_kept(stage, qtbot):
    session, well = stage.session, stage.pages["framing"].well
    first = session.at.framing.panes
    press(qtbot, stage, Qt.Key.Key_V)
    press(qtbot, stage, Qt.Key.Key_2)
    known(qtbot, stage)
    second = session.at.framing.panes
    well.show_versions()
    assert [name for name, _, _ in well.shown()] == ["this version", "version 2"]
    assert len({round(b.height()) for b in well.places().results}) == 1
    press(qtbot, stage, Qt.Key.Key_V, SHIFT)
    assert session.at.framing.panes == first
    assert session.at.framing.held[0].panes == second
    press(qtbot, stage, Qt.Key.Key_K, CTRL)
    assert not session.at.framing.held


def test_shots_know_whether_they_were_played_since_they_changed(stage, qtbot, tmp_path):
    session = stage.session
    assert len(session.played.unplayed()) == 3
    press(qtbot, stage, Qt.Key.Key_P)
    qtbot.waitUntil(lambda: stage.player.speed == 0, timeout=10_000)
    assert len(session.played.unplayed()) == 2
    press(qtbot, stage, Qt.Key.Key_P, SHIFT)
    qtbot.waitUntil(lambda: stage.player.speed == 0, timeout=10_000)
    assert session.played.unplayed() == []
    session.files.save(tmp_path / "played.ezvar")
    rest(qtbot, stage)
    assert len(load_project(tmp_path / "played.ezvar").played) == 3
    assert not session.project.unsaved
    session.at.go(10)
    press(qtbot, stage, Qt.Key.Key_M)
    known(qtbot, stage)
    assert [s.id for s in session.played.unplayed()] == ["s0"]
    qtbot.mouseClick(stage.ledger.unplayed, LEFT)
    assert [r.id for r in stage.ledger.rows.rows] == ["s0"]
    press(qtbot, stage, Qt.Key.Key_Z, CTRL)
    assert session.played.unplayed() == []


def test_loops_and_plays_across_cuts_at_half_speed(stage, qtbot):
    player, session, frames = stage.player, stage.session, []
    player.moved.connect(frames.append)
    press(qtbot, stage, Qt.Key.Key_Space, SHIFT)
    qtbot.waitUntil(lambda: len(frames) > 3 and frames[-1] < frames[-2], timeout=10_000)
    press(qtbot, stage, Qt.Key.Key_K)
    assert max(frames) < SHOT  # the last one may be dropped where the machine is slow
    session.at.go(60)
    press(qtbot, stage, Qt.Key.Key_J, SHIFT)
    qtbot.waitUntil(lambda: session.at.frame < 45)
    press(qtbot, stage, Qt.Key.Key_K, SHIFT)
    assert player.speed == 0.5
    press(qtbot, stage, Qt.Key.Key_K)


def test_the_view_zooms_out_past_the_edge_wipes_and_enlarges(stage, qtbot):
    well = stage.pages["framing"].well
    whole = well.places().picture.width()
    stage.run("view.farther")
    assert well.places().picture.width() < whole
    stage.run("view.fit")
    stage.run("view.wipe")
    assert well.wipe == 0.5
    stage.run("view.enlarge")
    big = well.places().results[0]
    assert big.height() > 0.8 * (well.height() - 70)
    qtbot.mouseClick(well, LEFT, pos=big.center().toPoint())
    small = well.places().results[1]
    qtbot.mouseClick(well, LEFT, pos=small.center().toPoint())
    assert stage.session.at.master_id == "square"
    stage.run("view.chart_closer")
    assert stage.pages["framing"].sweep.span.length < 1
    stage.run("view.chart_height")
    assert stage.pages["framing"].sweep.along_y


def test_a_stretch_is_marked_and_taken_back_alone(stage, qtbot):
    session = stage.session
    stage.desk.framing_work.put("Path", Pane((Keyframe(0, 0.5), Keyframe(39, 0.6))))
    for frame, key in ((0, Qt.Key.Key_I), (15, Qt.Key.Key_O)):
        session.at.go(frame)
        press(qtbot, stage, key)
    press(qtbot, stage, Qt.Key.Key_S)
    known(qtbot, stage)
    pane = session.at.framing.panes[0]
    assert key_at(pane, 39).cx == pytest.approx(0.6, abs=0.01)
    assert key_at(pane, 2).cx < 0.45
    assert [s.start >= 16 for s in pane.by_hand] == [True]


def test_keys_are_changed_kept_and_printed_and_the_theme_is_too(stage, qtbot, tmp_path):
    dialog = KeysDialog(stage, stage.menus.catalogue, stage.menus.keymap)
    dialog.field.setText("best static")
    dialog.tree.setCurrentItem(dialog.tree.topLevelItem(0))
    dialog._change("S")
    assert "back to solved" in dialog.said.text()
    dialog._change("Ctrl+R")
    assert not dialog.said.isVisible()
    stage.menus.use(dialog.keymap)
    press(qtbot, stage, Qt.Key.Key_R, CTRL)
    known(qtbot, stage)
    assert stage.session.at.framing.decided == "by hand"
    write_sheet(Keymap(stage.menus.catalogue), str(tmp_path / "keys.pdf"))
    assert (tmp_path / "keys.pdf").read_bytes().startswith(b"%PDF")
    light = theme.PAPER.name()
    stage.run("view.theme")
    assert theme.PAPER.name() != light
    assert load_preferences(stage.preferences.file).theme == "dim"
    stage.run("view.theme")
    assert theme.PAPER.name() == light


def test_the_first_walk_goes_on_as_its_steps_are_tried(stage, qtbot):
    stage.show_walk()
    stage.walk._go(1)
    assert "Shift+1" in stage.walk.text.text()
    press(qtbot, stage, Qt.Key.Key_2)
    known(qtbot, stage)
    assert stage.walk.title.text().startswith("3 of")
    for _ in range(len(STEPS)):
        if stage.walk.isVisible():
            stage.walk.on.click()
    assert not stage.walk.isVisible()


def test_going_away_and_back_at_once_still_tells_the_subjects(stage, qtbot):
    session = stage.session
    for frame in (50, 90, 10):
        session.at.go(frame)
    known(qtbot, stage)
    assert [s.number for s in stage.desk.of_shot.subjects] == [1, 2]
    session.at.go(50)
    session.at.go(10)
    known(qtbot, stage)
    assert stage.pages["framing"].subjects.buttons[1].isVisible()


def test_a_mistake_of_ours_is_said_and_nothing_is_lost(stage, qtbot):
    before = stage.session.project.document

    def broken(place):
        raise ZeroDivisionError("made up")

    stage.desk.framing_work.each("Break", broken)
    known(qtbot, stage)
    assert "made a mistake (ZeroDivisionError: made up)" in stage.banner.message.text()
    report = max((stage.session.cache.folder / "reports").iterdir())
    assert "in broken" in report.read_text()
    assert str(report) in stage.banner.message.text()
    assert stage.session.project.document is before
    press(qtbot, stage, Qt.Key.Key_2)
    known(qtbot, stage)
    assert stage.session.project.document is not before
    press(qtbot, stage, Qt.Key.Key_7)  # there is no such subject
    known(qtbot, stage)
    assert "no subject 7" in stage.banner.message.text()


def test_framing_the_shots_is_stopped_and_done_again_where_the_document_changed(stage, qtbot, monkeypatch):
    """Whole masters are framed on a thread: what is stopped changes nothing, what was overtaken is done once more."""
    session, go_on = stage.session, threading.Event()
    solve_shot = solve_module.solve_shot

    def slow(*args):
        go_on.wait(20)
        return solve_shot(*args)

    monkeypatch.setattr(solve_module, "solve_shot", slow)
    new = Master("wide", "2:1", 320, 160)
    session.project.edit("Add", edits.add_master(session.project.document, new))
    before = session.project.document
    stage.desk.analysing.frame_missing()
    (job,) = [j for j in session.jobs.running if j.title == "Framing the shots"]
    job.cancel()
    go_on.set()
    rest(qtbot, stage)
    assert session.project.document is before
    stage.desk.analysing.frame_missing()
    rest(qtbot, stage)
    assert all(session.project.document.framing(s.id, "wide") for s in session.project.document.shots)

    go_on.clear()
    stage.desk.analysing.resize_master("wide", 300, 160)
    first = session.project.document.shots[0].id
    session.project.edit("Agree", edits.set_verdict(session.project.document, first, "tall", "agreed"))
    go_on.set()
    rest(qtbot, stage)
    assert session.project.document.master("wide").width == 300
    assert session.project.document.framing(first, "tall").verdict == "agreed"
    session.project.undo()
    assert session.project.document.master("wide").width == 320


def typed(qtbot, field, text):
    field.selectAll()
    qtbot.keyClicks(field, text)
    qtbot.keyClick(field, Qt.Key.Key_Return)


def test_panes_share_the_frame_from_the_dialog_and_arrangements_are_kept(stage, qtbot, tmp_path, monkeypatch):
    session = stage.session
    press(qtbot, stage, Qt.Key.Key_U, SHIFT)
    known(qtbot, stage)
    assert session.at.framing.arrangement.name == "one above the other"
    press(qtbot, stage, Qt.Key.Key_U, CTRL)
    dialog = stage.pages["framing"].tools.dialog
    qtbot.waitUntil(dialog.isActiveWindow)
    panes = dialog.panes
    typed(qtbot, panes.gap, "4")
    typed(qtbot, panes.border, "2")
    known(qtbot, stage)
    panes.colour.choose("#a04020")
    known(qtbot, stage)
    used = session.at.framing.arrangement
    assert (used.gap, used.border, used.colour) == (0.04, 0.02, "#a04020")
    panes.shots[1].setValue(3)
    known(qtbot, stage)
    panes.sound.activated.emit(2)
    known(qtbot, stage)
    assert (session.at.framing.panes[1].shot, session.at.framing.sound) == (session.project.document.shots[2].id, 1)
    qtbot.mouseClick(panes.later[0], LEFT)
    known(qtbot, stage)
    assert (session.at.framing.panes[0].shot, session.at.framing.sound) == (session.project.document.shots[2].id, 0)
    well = stage.pages["framing"].well
    middle = well.places().picture.center()
    for number, handles in ((0, False), (1, True)):  # the first one's picture is not the one that is seen here
        qtbot.mouseClick(panes.panes[number], LEFT)
        assert session.at.pane_number == number
        assert list(well.active()) == [1]
        assert (well.hands._begin_drag(middle, well.places()) is not None) == handles
        well.repaint()
    monkeypatch.setattr(QInputDialog, "getText", lambda *_: ("two with a seam", True))
    qtbot.mouseClick(panes.keep, LEFT)
    file = str(tmp_path / "arrangements.json")
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (file, ""))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (file, ""))
    qtbot.mouseClick(panes.give, LEFT)
    panes.arrangement.activated.emit(0)
    known(qtbot, stage)
    assert len(session.at.framing.panes) == 1
    panes.arrangement.activated.emit(panes.arrangement.count() - 1)
    known(qtbot, stage)
    assert session.at.framing.arrangement.border == 0.02
    qtbot.mouseClick(panes.forget, LEFT)
    assert not panes.give.isEnabled()
    qtbot.mouseClick(panes.take, LEFT)
    assert panes.arrangement.itemText(panes.arrangement.count() - 1) == "two with a seam"
    (tmp_path / "arrangements.json").write_text("no arrangement")
    with qtbot.waitSignal(session.messages.problem_said):
        qtbot.mouseClick(panes.take, LEFT)
    dialog.close()


def test_a_whole_picture_is_trimmed_stands_higher_and_has_a_backdrop_of_its_own(stage, qtbot, people, monkeypatch):
    session = stage.session
    press(qtbot, stage, Qt.Key.Key_W)
    known(qtbot, stage)
    well = stage.pages["framing"].well
    assert well.out_of_sight()
    for _ in range(5):
        stage.run("view.farther")
    assert not well.out_of_sight()
    for _ in range(3):
        stage.run("framing.stand_higher")
        known(qtbot, stage)
    assert stage.desk.panes_work.stands() == pytest.approx(0.3)
    stage.run("framing.share")
    dialog = stage.pages["framing"].tools.dialog
    qtbot.waitUntil(dialog.isActiveWindow)
    picture, backdrop = dialog.picture, dialog.backdrop
    assert picture.height_in_frame.value() == 30
    typed(qtbot, picture.left, "20")
    known(qtbot, stage)
    pane = session.at.framing.panes[0]
    assert pane.trim.x == 0.2
    assert (
        pane_window(pane, session.at.master, picture_size(session.project.document, session.at.shot), 0).width
        > 0.79 * 320
    )
    picture.height_in_frame.setValue(-100)
    known(qtbot, stage)
    assert stage.desk.panes_work.stands() == pytest.approx(-1)
    backdrop.kind.activated.emit(2)
    known(qtbot, stage)
    backdrop.colour.choose("#203040")
    backdrop.fields["shadow"].setValue(40)
    known(qtbot, stage)
    made = session.at.framing.panes[0].backdrop
    assert (made.kind, made.colour, made.shadow) == ("colour", "#203040", 0.4)
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(people), ""))
    qtbot.mouseClick(backdrop.file, LEFT)
    known(qtbot, stage)
    assert session.at.framing.panes[0].backdrop.media == str(people)
    qtbot.mouseClick(backdrop.for_all, LEFT)
    assert session.at.framing.panes[0].backdrop is None
    assert session.at.master.backdrop.media == str(people)
    qtbot.keyClick(dialog, Qt.Key.Key_Escape)
    assert stage.pages["framing"].tools.dialog is None
    stage.run("edit.undo")
    assert session.at.framing.panes[0].backdrop.media == str(people)
