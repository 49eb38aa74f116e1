"""The real window, driven by clicks and keys."""

import os
import subprocess
import sys
import threading
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtWidgets import QAbstractButton, QFileDialog, QMessageBox

from ezvar.app.kit import theme
from ezvar.app.stages.review.handoff_dialog import HandoffDialog
from ezvar.app.window.finder import Finder
from ezvar.app.window.reports_dialog import ReportsDialog
from ezvar.cli import main
from ezvar.core import edits
from ezvar.core.media import index, probe
from ezvar.core.model import Backdrop, Keyframe, doubt
from ezvar.core.store import holder_of, load_project, save_project

from ..driving import ALT, CTRL, LEFT, click, press, rest, window_of
from ..media import make_movie
from ..timelines import handed_timelines


def test_from_an_empty_window_to_a_finished_master(window, qtbot, edit, tmp_path, monkeypatch):
    """Open by the button, see the facts, add masters, see them framed, save, make one, find it checked."""
    assert "Begin with a locked edit" in [
        w.text() for w in window.pages["lock"].middle.findChildren(type(window.pages["lock"]._title))
    ]
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(edit), ""))
    click(qtbot, window.pages["lock"].middle, "Open a movie, timeline or project…")
    rest(qtbot, window)
    session = window.session
    assert [s.start for s in session.project.document.shots] == [0, 20, 40, 60]
    assert window.pages["lock"]._title.text() == "walk"
    click(qtbot, window.pages["lock"].card, "Add a master 9:16")
    rest(qtbot, window)
    window.pages["lock"].name_field.setText("poster")
    window.pages["lock"].width_field.setValue(120)
    window.pages["lock"].height_field.setValue(160)
    click(qtbot, window.pages["lock"].card, "Add a master of this size")
    rest(qtbot, window)
    assert [(m.name, m.width, m.height) for m in session.project.document.masters] == [
        ("9:16", 1080, 1920),
        ("poster", 120, 160),
    ]
    assert len(session.project.document.framings) == 8
    assert [c.text() for c in window.strip.chips.values()] == ["9:16", "poster"]
    click(qtbot, window.pages["lock"].card, "Add a master 9:16")
    assert "already" in window.pages["lock"].problem.text()

    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(tmp_path / "mine"), ""))
    press(qtbot, window, Qt.Key.Key_S, CTRL)
    rest(qtbot, window)
    assert load_project(tmp_path / "mine.ezvar") == session.project.document
    assert not window.isWindowModified()

    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *a, **k: str(tmp_path))
    click(qtbot, window.strip, "Stage Output")
    page = window.pages["output"]
    page.view.choose(session.at.master_id)
    click(qtbot, page.card, "Folder")
    press(qtbot, window, Qt.Key.Key_M, CTRL)
    rest(qtbot, window)
    made = session.project.makings.finished_of(session.at.master_id)
    assert (made.made.file, made.report.problems) == (str(tmp_path / "walk poster.mp4"), ())
    assert probe(made.made.file).width == 120
    assert "all is as it should be" in page.row_card.story.text()


def test_dragging_the_window_follows_the_mouse_and_is_one_step_of_undo(opened, qtbot):
    session, well = opened.session, opened.pages["framing"].well
    qtbot.waitUntil(lambda: well._image is not None and bool(well._results), timeout=10_000)
    before = session.project.document
    picture = well.places().picture
    start = QPoint(round(picture.center().x()), round(picture.center().y()))
    old = window_of(session)
    qtbot.mousePress(well, LEFT, pos=start)
    for k in range(1, 9):
        qtbot.mouseMove(well, start + QPoint(5 * k, 0))
        qtbot.wait(2)
    qtbot.mouseRelease(well, LEFT, pos=start + QPoint(40, 0))
    new = window_of(session)
    room = session.project.document.lock.width - old.width / 2
    assert new.cx == pytest.approx(
        min(room, old.cx + 40 / picture.width() * session.project.document.lock.width), abs=1
    )
    assert session.at.framing.decided == "by hand"
    assert opened.windowTitle().startswith("p.ezvar")
    assert opened.isWindowModified()
    press(qtbot, opened, Qt.Key.Key_Z, CTRL)
    assert session.project.document is before
    press(qtbot, opened, Qt.Key.Key_Z, CTRL | Qt.KeyboardModifier.ShiftModifier)
    assert window_of(session) == new


def test_the_sweep_charts_band_is_dragged_and_a_click_beside_it_seeks(opened, qtbot):
    session, sweep = opened.session, opened.pages["framing"].sweep
    qtbot.waitUntil(lambda: bool(sweep._scans), timeout=10_000)
    shot, area = session.at.shot, sweep.chart.area
    middle = QPoint(
        round(area.center().x()), round(sweep.chart.y(window_of(session).cx / session.project.document.lock.width))
    )
    old = window_of(session).cx
    up = -30 if old < session.project.document.lock.width / 2 else 30
    qtbot.mousePress(sweep, LEFT, pos=middle)
    qtbot.mouseMove(sweep, middle + QPoint(0, up // 2))
    qtbot.mouseMove(sweep, middle + QPoint(0, up))
    qtbot.mouseRelease(sweep, LEFT, pos=middle + QPoint(0, up))
    assert (window_of(session).cx - old) * up < 0  # upwards on the chart is to the right in the picture
    now = window_of(session)
    upper = sweep.chart.y((now.cx + now.width / 2) / session.project.document.lock.width)
    free = area.top() + 3 if upper > area.top() + 10 else area.bottom() - 3
    qtbot.mouseClick(sweep, LEFT, pos=QPointF(area.left() + area.width() * 0.775, free).toPoint())
    assert session.at.frame == shot.start + 15


def test_framing_by_keys(opened, qtbot):
    session = opened.session
    start = session.at.framing
    for key, check in (
        (Qt.Key.Key_M, lambda f: f.panes[0].keys[0].cx == 0.5),
        (Qt.Key.Key_W, lambda f: f.panes[0].keys[0].zoom < 1),
        (Qt.Key.Key_S, lambda f: f.decided == "solved" and f.panes == start.panes),
    ):
        press(qtbot, opened, key)
        qtbot.waitUntil(lambda check=check: check(session.at.framing), timeout=10_000)
    press(qtbot, opened, Qt.Key.Key_M)
    qtbot.waitUntil(lambda: session.at.framing.decided == "by hand", timeout=10_000)
    middle = session.at.framing.panes[0].keys[0].cx
    press(qtbot, opened, Qt.Key.Key_Right, ALT)
    assert session.at.framing.panes[0].keys[0].cx == pytest.approx(middle + 0.0025)
    press(qtbot, opened, Qt.Key.Key_Left, ALT)
    assert session.at.framing.panes[0].keys[0].cx == pytest.approx(middle)
    press(qtbot, opened, Qt.Key.Key_Return)
    assert session.project.document.framing(session.project.document.shots[0].id, "tall").verdict == "agreed"
    assert session.readings.doubt_of(session.project.document.shots[0]) == 0


def test_memory_is_given_back_once_nothing_moves(opened, qtbot, monkeypatch):
    given = []
    monkeypatch.setattr("ezvar.app.window.rest.give_back", lambda: given.append(opened.jobs.running))
    opened.session.at.go(10)
    qtbot.waitUntil(lambda: given[:1] == [[]], timeout=20_000)


def test_going_about_by_keys_and_by_the_mouse(opened, qtbot):
    session = opened.session
    keys = Qt.Key
    way = [(keys.Key_Right, 1), (keys.Key_Right, 2), (keys.Key_Left, 1), (keys.Key_Down, 20), (keys.Key_Down, 40)]
    way += [(keys.Key_Up, 20), (keys.Key_End, 79), (keys.Key_Right, 79), (keys.Key_Home, 0)]
    for key, frame in way:
        press(qtbot, opened, key)
        assert session.at.frame == frame
    press(qtbot, opened, Qt.Key.Key_Q)
    assert session.at.master.name == "1:1"
    qtbot.mouseClick(opened.strip.chips["tall"], LEFT)
    assert session.at.master.name == "9:16"
    row = opened.ledger.view.visualRect(opened.ledger.rows.index(2)).center()
    qtbot.mouseClick(opened.ledger.view.viewport(), LEFT, pos=row)
    assert session.at.frame == 40
    strip = opened.edit_strip
    qtbot.mouseClick(strip, LEFT, pos=QPoint(round(strip._x(70.5)), 50))
    assert session.at.frame == 70


def test_scrubbing_shows_the_frame_at_the_playhead(opened, qtbot):
    well, shown = opened.pages["framing"].well, []
    well.picture_shown.connect(shown.append)
    for frame in (5, 33, 78):
        opened.session.at.go(frame)
        qtbot.waitUntil(lambda f=frame: bool(shown) and shown[-1] == f, timeout=10_000)
    assert well._image.width() > 100
    tall = well._results[0]
    assert tall.height() > tall.width()
    assert opened.session.readings.timecode(78) == "00:00:03:03"


def test_playing_moves_the_playhead_and_stops(opened, qtbot):
    session, player = opened.session, opened.player
    press(qtbot, opened, Qt.Key.Key_Space)
    assert player.speed == 1
    qtbot.waitUntil(lambda: session.at.frame >= 10, timeout=10_000)
    press(qtbot, opened, Qt.Key.Key_L)
    assert player.speed == 2
    qtbot.waitUntil(lambda: session.at.frame == 79 and player.speed == 0, timeout=10_000)
    press(qtbot, opened, Qt.Key.Key_J)
    qtbot.waitUntil(lambda: session.at.frame < 75, timeout=10_000)
    press(qtbot, opened, Qt.Key.Key_K)
    assert player.speed == 0


def test_cuts_are_settled_removed_moved_and_added_by_keys(opened, qtbot):
    session = opened.session
    press(qtbot, opened, Qt.Key.Key_2, CTRL)
    assert (session.at.stage, session.at.frame) == ("cuts", 20)  # the first there is, and no empty view
    press(qtbot, opened, Qt.Key.Key_BracketRight)
    assert [s.start for s in session.project.document.shots] == [0, 21, 40, 60]
    press(qtbot, opened, Qt.Key.Key_BracketLeft)
    press(qtbot, opened, Qt.Key.Key_BracketLeft)
    assert [s.start for s in session.project.document.shots] == [0, 19, 40, 60]
    press(qtbot, opened, Qt.Key.Key_Y)
    assert session.project.document.shots[1].cut.settled
    session.at.go(40)
    press(qtbot, opened, Qt.Key.Key_U)
    assert [s.start for s in session.project.document.shots] == [0, 19, 60]
    session.at.go(50)
    press(qtbot, opened, Qt.Key.Key_X)
    assert [s.start for s in session.project.document.shots] == [0, 19, 50, 60]
    press(qtbot, opened, Qt.Key.Key_X)
    assert "already" in opened.banner.message.text()
    assert opened.pages["cuts"]._title.text().startswith("Cut at")
    qtbot.waitUntil(lambda: opened.pages["cuts"].view.stills.get(50) is not None, timeout=10_000)
    click(qtbot, opened.pages["cuts"].card, "Find the cuts anew")
    rest(qtbot, opened)
    assert [s.start for s in session.project.document.shots] == [0, 19, 40, 50, 60]  # what was settled stays
    assert len(session.project.document.framings) == 10  # new shots are framed at once


def test_one_edit_sends_one_signal_and_each_view_draws_once(opened, qtbot, monkeypatch):
    session, sent, drawn = opened.session, [], []
    at, media, files = session.at, session.media, session.files
    for signal in (
        session.project.changed, session.project.saved, session.project.noted, at.shot_changed, at.master_changed,
        at.pane_changed, at.frame_changed, at.stage_changed, at.chosen_changed, files.opened, files.settled,
        media.changed, media.leaving, media.back, media.analysed,
    ):  # fmt: skip
        signal.connect(lambda *_, name=signal.signal: sent.append(name[1:].partition("(")[0]))
    views = (opened.strip, opened.edit_strip, opened.pages["framing"].well, opened.pages["framing"].sweep)
    rest(qtbot, opened)
    for view in views:
        paint = type(view).paintEvent if "paintEvent" in vars(type(view)) else None
        if paint is not None:
            monkeypatch.setattr(type(view), "paintEvent", _counted(paint, drawn))
    refresh = opened.pages["framing"].refresh
    monkeypatch.setattr(opened.pages["framing"], "refresh", lambda: (drawn.append("card"), refresh()))
    qtbot.wait(50)
    drawn.clear()
    edit = edits.set_verdict(session.project.document, session.at.shot.id, session.at.master_id, "agreed")
    for act in (lambda: session.project.edit("Agree", edit), session.project.undo, session.project.redo):
        rest(qtbot, opened)
        qtbot.wait(20)
        sent.clear()
        drawn.clear()
        act()
        assert sent == ["changed"]
        qtbot.wait(25)  # before what is worked out of the change comes, which is drawn then
        assert {name: drawn.count(name) for name in ("card", "EditStrip", "SweepChart")} == {
            "card": 1, "EditStrip": 1, "SweepChart": 1
        }  # fmt: skip
    removed = edits.remove_master(session.project.document, session.at.master_id)
    sent.clear()
    session.project.edit("Remove", removed)  # the active one: the place changes with it
    assert sent == ["changed"]
    assert session.at.master_id == removed.masters[0].id


def _counted(paint, drawn):
    return lambda self, event: (drawn.append(type(self).__name__), paint(self, event))[1]


def test_the_ledger_sorts_and_filters(opened, qtbot):
    ledger, session = opened.ledger, opened.session
    figures = [doubt(session.project.document.framing(s.id, "tall").reasons) for s in session.project.document.shots]
    qtbot.mouseClick(ledger.order, LEFT)
    assert [session.readings.doubt_of(s) for s in ledger.rows.rows] == sorted(figures, reverse=True)
    qtbot.mouseClick(ledger.filter, LEFT)
    assert len(ledger.rows.rows) == sum(f >= 40 for f in figures)
    qtbot.mouseClick(ledger.filter, LEFT)
    qtbot.mouseClick(ledger.order, LEFT)
    assert [s.start for s in ledger.rows.rows] == [0, 20, 40, 60]


def test_what_somebody_else_saved_is_asked_about_and_taken_in(opened, qtbot, tmp_path, monkeypatch):
    session, asked = opened.session, []

    def answer(number):
        monkeypatch.setattr("ezvar.app.commands.file.ask", lambda *said: asked.append(said[2]) or said[3][number])

    def save(as_=None):
        if as_:
            monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(as_), ""))
        opened.run("file.save_as" if as_ else "file.save")
        rest(qtbot, opened)

    project, first, second = tmp_path / "p.ezvar", *(s.id for s in session.project.document.shots[:2])
    save(project)
    theirs = edits.set_verdict(load_project(project), second, "tall", "change")
    save_project(theirs, project)
    session.project.edit("Agree", edits.set_verdict(session.project.document, first, "tall", "agreed"))
    answer(3)  # not now
    save()
    assert "Somebody else has saved p.ezvar" in asked.pop()
    assert load_project(project) == theirs
    assert session.project.unsaved
    answer(0)  # take theirs in
    save()
    assert [load_project(project).framing(s, "tall").verdict for s in (first, second)] == ["agreed", "change"]
    assert not session.project.unsaved
    save_project(theirs, project)
    session.project.edit("Open", edits.set_verdict(session.project.document, second, "tall", "open"))
    answer(2)  # replace theirs
    save()
    assert load_project(project).framing(second, "tall").verdict == "open"

    other = tmp_path / "other.ezvar"
    save_project(theirs, other)
    asked.clear()
    answer(1)  # keep it
    save(other)
    assert "the project walk with 4 shots, masters: 9:16, 1:1" in asked.pop()
    assert (load_project(other), session.project.path) == (theirs, project)
    answer(0)  # replace it
    save(other)
    assert (load_project(other).framing(second, "tall").verdict, session.project.path) == ("open", other)
    save()
    assert len(asked) == 1


HOLDS = """
import sys, time
from ezvar.core.store import Hold
hold = Hold(sys.argv[1])
while not hold.path.with_name(".p.ezvar.open").exists():
    time.sleep(0.01)
print("held", flush=True)
sys.stdin.read()
"""


def test_a_project_that_somebody_has_open_is_shown_as_a_copy_until_they_are_gone(
    window, qtbot, planned, tmp_path, capfd
):
    path = tmp_path / "p.ezvar"
    save_project(planned, path)
    with subprocess.Popen([sys.executable, "-c", HOLDS, path], stdin=subprocess.PIPE, stdout=subprocess.PIPE) as other:
        assert other.stdout.readline() == b"held\n"
        window.session.files.open(path)
        rest(qtbot, window)
        assert window.session.project.path is None  # so that saving asks for a name
        assert f"p.ezvar is open: process {other.pid} on " in window.banner.message.text()
        (tmp_path / "c.srt").write_text("1\n00:00:00,000 --> 00:00:01,000\nA word.\n")
        assert main(["captions", str(path), "--take", str(tmp_path / "c.srt")]) == 0
        assert f"is open too: process {other.pid} on " in capfd.readouterr().err
        other.kill()
    window.session.files.open(path)  # what the killed one left says nothing any more
    rest(qtbot, window)
    assert window.session.project.path == path
    held = tmp_path / ".p.ezvar.open"
    qtbot.waitUntil(lambda: held.exists() and str(os.getpid()) in held.read_text(), timeout=5000)
    assert holder_of(path) is None  # nobody else
    window.session.files.leave()
    assert not held.exists()


def test_a_returns_files_are_opened_when_somebody_says_yes(opened, qtbot, tmp_path, monkeypatch):
    session = opened.session
    beside = Path(session.project.document.lock.media[0].path).parent / "lamps.png"
    framing = session.at.framing
    backed = replace(framing.panes[0], backdrop=Backdrop(kind="media", media=str(beside)))
    returned = edits.set_framings(session.project.document, [replace(framing, panes=(backed,))])
    exchanged, _ = handed_timelines(session.project.document, tmp_path / "out")
    session.project.edit("Hand off", exchanged)
    _, files = handed_timelines(replace(returned, exchanged=exchanged.exchanged), tmp_path / "back")
    for answer, taken in ((1, False), (0, True)):
        monkeypatch.setattr("ezvar.app.stages.review.commands.ask", lambda *said, n=answer: said[3][n])
        opened.pages["review"].tools.exchange.take(str(next(f for f in files if "9x16" in f.name)))
        rest(qtbot, opened)
        assert (session.at.framing.panes[0].backdrop is not None) == taken
    assert "lamps.png" not in opened.pages["review"].result.text()


def test_review_writes_a_handoff_and_takes_one_in(opened, qtbot, tmp_path, monkeypatch):
    session = opened.session
    press(qtbot, opened, Qt.Key.Key_5, CTRL)
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *a, **k: str(tmp_path / "out"))
    click(qtbot, opened.pages["review"].card, "Write the handoff…")
    dialog = opened.findChild(HandoffDialog)

    def listed():
        return [dialog.files.topLevelItem(k).text(0) for k in range(dialog.files.topLevelItemCount())]

    assert {"walk 9x16.otio", "walk 1x1.edl", "walk decisions.csv", "README.txt"} <= set(listed())
    dialog.masters["tall"].setChecked(False)
    dialog.parts["edl"].setChecked(False)
    assert not {"walk 9x16.otio", "walk 1x1.edl"} & set(listed())
    dialog.masters["tall"].setChecked(True)
    dialog.folder.clear()
    assert not dialog.ok.isEnabled()
    click(qtbot, dialog, "Choose…")
    qtbot.mouseClick(dialog.ok, LEFT)
    rest(qtbot, opened)
    qtbot.waitUntil(lambda: opened.findChild(HandoffDialog) is None)
    opened.activateWindow()
    qtbot.waitUntil(opened.isActiveWindow)
    assert not list((tmp_path / "out").glob("*.edl"))
    assert (tmp_path / "out" / "README.txt").exists()
    assert sorted(p.name for p in (tmp_path / "out").glob("*.otio")) == ["walk 1x1.otio", "walk 9x16.otio"]
    handed = session.project.document
    assert len(session.project.whole.exchanged) == len(handed.framings)
    assert session.project.unsaved
    assert session.project.history.undo_label is None  # what was handed out is kept beside the steps
    press(qtbot, opened, Qt.Key.Key_C)
    assert session.at.framing.verdict == "change"
    assert "1 change" in opened.pages["review"]._counts.text()
    handed_timelines(session.project.whole, tmp_path / "back")  # as the other side would, who had what was handed out
    press(qtbot, opened, Qt.Key.Key_Z, CTRL)
    assert session.project.document is handed
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(tmp_path / "back" / "walk 9x16.otio"), ""))
    click(qtbot, opened.pages["review"].card, "Take decisions in…")
    rest(qtbot, opened)
    assert opened.pages["review"].result.text().startswith("1 taken, 3 the same, 0 in conflict")
    assert session.at.framing.verdict == "change"
    taken = session.project.whole.exchanged
    press(qtbot, opened, Qt.Key.Key_Z, CTRL)
    assert session.at.framing.verdict == "open"
    assert session.project.whole.exchanged == taken != handed.exchanged
    press(qtbot, opened, Qt.Key.Key_A)
    press(qtbot, opened, Qt.Key.Key_O)
    assert session.at.framing.verdict == "open"
    theirs = session.project.document
    for shot in theirs.shots[1:4]:
        framing = theirs.framing(shot.id, "tall")
        moved = replace(framing.panes[0], keys=(Keyframe(0, 0.3, zoom=1.5),))
        theirs = edits.set_framings(theirs, [replace(framing, panes=(moved,))])
    handed_timelines(replace(theirs, exchanged=session.project.whole.exchanged), tmp_path / "theirs")
    for shot in theirs.shots[1:4]:
        session.project.edit("Ours", edits.set_verdict(session.project.document, shot.id, "tall", "agreed"))
    page, exchange = opened.pages["review"], opened.pages["review"].tools.exchange
    exchange.take(str(tmp_path / "theirs" / "walk 9x16.otio"))
    rest(qtbot, opened)
    assert len(exchange.differing) == 3
    assert not page._differs.isVisible()
    for key in (Qt.Key.Key_T, Qt.Key.Key_U, Qt.Key.Key_H):
        click(qtbot, page.card, "The next that differs")
        rest(qtbot, opened)
        assert "windows overlap by" in page._differs.text()
        ours = session.at.framing
        press(qtbot, opened, key)
        rest(qtbot, opened)
        now = session.at.framing
        middle = (ours.panes[0].keys[0].cx + 0.3) / 2
        wanted = {0: 0.3, 1: ours.panes[0].keys[0].cx, 2: middle}[3 - len(exchange.differing) - 1]
        assert now.panes[0].keys[0].cx == pytest.approx(wanted)
        assert not page._differs.isVisible()
    assert (exchange.differing, page._next.isVisible()) == ({}, False)
    press(qtbot, opened, Qt.Key.Key_Z, CTRL)
    assert session.at.framing == ours
    opened.pages["review"].tools.exchange.take(str(tmp_path / "none.otio"))
    rest(qtbot, opened)
    assert "not there" in opened.banner.message.text()


@pytest.mark.parametrize("kind", ["letter.mp4", "broken.ezvar", "gone.mov"])
def test_a_bad_file_is_said_and_what_was_open_stays(opened, qtbot, tmp_path, kind):
    before = opened.session.project.document
    if kind != "gone.mov":
        (tmp_path / kind).write_text("not what it says")
    opened.session.files.open(tmp_path / kind)
    rest(qtbot, opened)
    assert opened.banner.isVisible()
    assert kind in opened.banner.message.text()
    assert opened.session.project.document is before
    qtbot.mouseClick(opened.banner.dismiss, LEFT)
    assert not opened.banner.isVisible()


def test_a_movie_that_is_read_through_shows_its_beginning_and_can_be_stopped(window, qtbot, tmp_path, monkeypatch):
    path = make_movie(tmp_path / "m.mkv", 30, times=np.cumsum([24, 96, 24] * 10).tolist())
    hold = threading.Event()
    packets = index.packets_of
    monkeypatch.setattr(
        index, "packets_of", lambda *a: (p for k, p in enumerate(packets(*a)) if k < 25 or hold.wait(9))
    )
    lock = window.pages["lock"]
    window.session.files.open(path)
    qtbot.waitUntil(lambda: lock.pages.currentIndex() == 1)
    assert lock.well.grab().toImage().pixelColor(lock.well.rect().center()) != theme.WELL
    window.jobs.running[0].cancel()
    hold.set()
    qtbot.waitUntil(lambda: lock.pages.currentIndex() == 0)
    assert window.session.project.doc is None


def test_a_project_whose_movie_is_gone_opens_and_says_so(window, qtbot, planned, tmp_path):
    media = replace(planned.lock.media[0], path=str(tmp_path / "gone.mp4"))
    save_project(replace(planned, lock=replace(planned.lock, media=(media,))), tmp_path / "p.ezvar")
    window.session.files.open(tmp_path / "p.ezvar")
    rest(qtbot, window)
    assert "gone.mp4" in window.banner.message.text()
    assert len(window.session.project.document.shots) == 4
    press(qtbot, window, Qt.Key.Key_Down)
    assert window.session.at.frame == 20
    window.grab()


def test_unsaved_work_is_asked_about(opened, qtbot, monkeypatch):
    qtbot.keyClick(opened, Qt.Key.Key_M)  # and it may still be worked out while the window is closed
    answers = [QMessageBox.StandardButton.Cancel, QMessageBox.StandardButton.Discard]
    monkeypatch.setattr(QMessageBox, "question", lambda *a, **k: answers.pop(0))
    assert not opened.close()
    assert opened.isVisible()
    assert opened.close()


def test_a_mistake_is_told_with_what_was_tried_saving_is_offered_and_its_report_names_nobody(
    opened, qtbot, tmp_path, monkeypatch
):
    monkeypatch.setenv("EZVAR_CACHE", str(tmp_path / "cache"))
    session, saved = opened.session, opened.session.project.path.read_bytes()

    def wrong():
        raise RuntimeError(f"over {tmp_path}/secret take.mov")

    monkeypatch.setattr(opened, "to_next_waiting", wrong)
    bound = opened.menus.catalogue.by_id["go.doubt"]
    opened.run("go.doubt")
    said = opened.banner.message.text()
    opened.mistakes.clear()
    assert said.startswith(f"“{bound.title()}” went wrong. Ezvar made a mistake (RuntimeError: over")
    session.project.edit("Name", edits.remove_master(session.project.document, "square"))
    click(qtbot, opened.banner, "Save now")
    qtbot.waitUntil(lambda: session.project.path.read_bytes() != saved, timeout=10_000)
    rest(qtbot, opened)
    dialog = ReportsDialog(opened)
    qtbot.addWidget(dialog)
    assert dialog.tree.topLevelItem(0).text(1) == "RuntimeError"
    assert "secret" not in dialog.text.toPlainText()
    assert 'File "ezvar/app/' in dialog.text.toPlainText()
    assert str(tmp_path) not in dialog.text.toPlainText()
    dialog.without.click()
    assert "secret take.mov" in dialog.text.toPlainText()


def test_the_finder_finds_and_runs(opened, qtbot):
    finder = Finder(opened, opened.menus.catalogue, opened.menus.available(), opened.menus.keymap)
    finder.show()
    finder.activateWindow()
    qtbot.waitUntil(finder.isActiveWindow)
    qtbot.keyClicks(finder.field, "whole pict backdrop")
    assert finder.list.count() == 1
    qtbot.keyClick(finder.field, Qt.Key.Key_Return)
    assert finder.chosen == "framing.whole"
    other = Finder(opened, opened.menus.catalogue, opened.menus.available(), opened.menus.keymap)
    other.show()
    other.activateWindow()
    qtbot.waitUntil(other.isActiveWindow)
    qtbot.keyClicks(other.field, "keep cut")
    qtbot.keyClick(other.field, Qt.Key.Key_Return)
    assert other.chosen is None  # it belongs to another stage
    other.close()


def test_every_control_has_a_name_and_every_stage_can_be_drawn(opened, qtbot):
    for stage in opened.stages.values():
        click(qtbot, opened.strip, f"Stage {stage.title}")
        qtbot.wait(20)
        assert opened.session.at.stage == stage.name
        for control in opened.findChildren(QAbstractButton):
            if control.isVisible() and control.objectName() != "qt_menubar_ext_button":
                assert control.accessibleName() or control.text(), control
        image = opened.grab().toImage()
        assert (image.width(), image.height()) == (1280, 800)
