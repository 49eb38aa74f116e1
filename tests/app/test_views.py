"""Where things stand in the well and the chart, keys, preferences, and that every view fits its window."""

import json

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from PyQt6.QtCore import QEvent, QPointF, QRectF, Qt, QUrl
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QAbstractButton, QDialog, QFileDialog, QInputDialog, QLabel

from ezvar.app.kit import theme
from ezvar.app.kit.digit_keys import pressed_digit
from ezvar.app.kit.keymap import Keymap, digit_of, shown
from ezvar.app.stages.framing.chart_places import Chart, Span
from ezvar.app.viewer.well_places import Look, lay_out
from ezvar.app.window.guide_dialog import GuideDialog
from ezvar.app.window.main_window import MainWindow
from ezvar.app.window.walk import STEPS
from ezvar.core import edits
from ezvar.core.errors import ProjectError
from ezvar.core.framing import bend_through, eased, snapped
from ezvar.core.model import EASES, Keyframe, Pane
from ezvar.core.store import Preferences, load_preferences, save_preferences, save_project
from ezvar.core.waiting import framings_waiting

from ..driving import known, rest

shapes = st.lists(st.floats(0.3, 3), min_size=1, max_size=5)
wells = st.builds(QRectF, st.just(0.0), st.just(0.0), st.floats(360, 2600), st.floats(220, 1500))


def apart(boxes):
    return all(not a.intersects(b) for k, a in enumerate(boxes) for b in boxes[k + 1 :])


@given(wells, st.floats(0.5, 2.4), shapes, st.booleans())
def test_the_picture_and_all_results_stand_apart_inside_the_well(within, aspect, results, alike):
    places = lay_out(within, aspect, results, Look(), None, alike)
    boxes = [places.picture, *places.results]
    assert all(within.adjusted(-1, -1, 1, 1).contains(b) for b in boxes if b.width() > 41)
    assert apart([b.adjusted(1, 1, -1, -1) for b in boxes])
    assert places.picture.width() / places.picture.height() == pytest.approx(aspect, rel=1e-6)
    for box, shape in zip(places.results, results, strict=True):
        assert box.width() / box.height() == pytest.approx(shape, rel=1e-6)
    if alike:
        assert len({round(b.height(), 3) for b in boxes}) == 1


@given(wells, shapes, st.data())
def test_an_enlarged_result_takes_the_well_and_a_picture_alone_too(within, results, data):
    number = data.draw(st.integers(0, len(results) - 1))
    places = lay_out(within, 16 / 9, results, Look(), number)
    assert [b.isEmpty() for b in places.results] == [k != number for k in range(len(results))]
    assert places.picture.isEmpty()
    alone = lay_out(within, 16 / 9, (), Look(), None)
    assert alone.area.contains(alone.picture.adjusted(1, 1, -1, -1))


@given(wells, st.floats(0, 1), st.floats(0, 1), st.lists(st.floats(0.5, 2), min_size=1, max_size=5))
def test_zooming_keeps_what_is_under_the_pointer_and_places_go_there_and_back(within, u, v, factors):
    size, look = (1920, 1080), Look()
    first = lay_out(within, 16 / 9, (0.5625,), look, None)
    point = QPointF(first.area.left() + u * first.area.width(), first.area.top() + v * first.area.height())
    before = first.in_picture(point, size)
    for factor in factors:
        look = look.closer(factor, first.home, point)
    places = lay_out(within, 16 / 9, (0.5625,), look, None)
    assert places.in_picture(point, size) == pytest.approx(before, abs=0.5)
    back = places.on_screen([before], size)[0]
    assert (back.x(), back.y()) == pytest.approx((point.x(), point.y()), abs=0.5)
    moved = lay_out(within, 16 / 9, (0.5625,), look.moved(QPointF(10, -5), places.home), None)
    by = moved.picture.topLeft() - places.picture.topLeft()
    assert (by.x(), by.y()) == pytest.approx((10, -5))


@given(
    st.integers(1, 5000), st.booleans(), st.floats(100, 2000), st.floats(60, 600),
    st.lists(st.tuples(st.floats(0.5, 4), st.floats(0, 1)), max_size=6), st.data(),
)  # fmt: skip
def test_frames_and_places_of_the_chart_go_there_and_back(frames, along_y, width, height, zooms, data):
    span = Span()
    for factor, at in zooms:
        span = span.closer(factor, at)
    assert 0 <= span.first <= 1 - span.length + 1e-9
    chart = Chart(QRectF(58, 24, width, height), frames, along_y, span)
    frame, place = data.draw(st.integers(0, frames - 1)), data.draw(st.floats(0, 1))
    assert abs(chart.frame(chart.x(frame)) - frame) <= 1
    assert chart.place(chart.y(place)) == pytest.approx(place)
    dx, dy = chart.shift(chart.y(place) - chart.y(0.0))
    assert (dy if along_y else dx) == pytest.approx(place)
    samples = chart.samples()
    assert (samples >= 0).all()
    assert (samples <= frames - 1).all()
    assert (samples[1:] > samples[:-1]).all()
    line = chart.line(samples, samples * 0.0)
    assert line.count() >= len(samples)


@given(st.sampled_from(EASES), st.floats(0, 1), st.floats(0, 1))
def test_a_bend_never_leaves_its_bounds(ease, t, wanted):
    bend = bend_through(t, wanted, ease)
    assert 0.1 <= bend <= 0.9
    assert 0 <= eased(t, ease, bend) <= 1


@given(st.integers(0, 1000), st.sets(st.integers(0, 1000), max_size=6), st.integers(0, 30))
def test_snapping_goes_to_the_nearest_mark_within_reach_or_nowhere(frame, marks, reach):
    at = snapped(frame, marks, reach)
    near = [m for m in marks if abs(m - frame) <= reach]
    if near:
        assert at in near
        assert abs(at - frame) == min(abs(m - frame) for m in near)
    else:
        assert at == frame


def test_every_key_is_written_as_on_a_keyboard_and_digits_are_known(qtbot):
    assert digit_of("Alt+9") == ("Alt", "9")
    assert [digit_of(k) for k in ("Ctrl+1", "F6", "Alt+Left", "0", "")] == [None] * 5
    assert shown("Shift+Return") == "Shift+Enter"
    keymap = Keymap(MainWindow().menus.catalogue, {"go.doubt": "Ctrl+N", "no.such": "X"})
    assert keymap.key("go.doubt") == "Ctrl+N"
    assert keymap.changed == {"go.doubt": "Ctrl+N"}
    told = dict(row for _, rows in keymap.sheet() for row in rows)
    assert told["Next that needs a look"] == "Ctrl+N"
    for step in STEPS:
        said = step.said(keymap)
        assert "{" not in said
        assert "no key" not in said


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("{", "not whole"), ('{"ezvar preferences": 9}', "newer"),
        ('{"ezvar preferences": 1, "theme": "loud"}', "should be 'light'"),
        ('{"ezvar preferences": 1, "text": 90}', "size"), ("[]", "no preferences"),
    ],
)  # fmt: skip
def test_preferences_that_cannot_be_read_are_said_and_left_alone(tmp_path, text, said, monkeypatch, qtbot):
    file = tmp_path / "preferences.json"
    file.write_text(text)
    with pytest.raises(ProjectError, match=said):
        load_preferences(file)
    monkeypatch.setenv("EZVAR_CONFIG", str(tmp_path))
    made = MainWindow()
    assert said.lower() in made.banner.message.text().lower()
    assert made.menus.keymap.changed == {}
    assert file.read_text() == text
    made.close()


def test_preferences_are_kept_and_a_folder_that_cannot_be_written_is_said(tmp_path, monkeypatch, qtbot):
    kept = Preferences({"go.doubt": "Ctrl+N"}, "dim", 125)
    save_preferences(kept, tmp_path / "sub" / "preferences.json")
    assert load_preferences(tmp_path / "sub" / "preferences.json") == kept
    assert load_preferences(tmp_path / "none.json") == Preferences()
    monkeypatch.setenv("EZVAR_CONFIG", str(tmp_path / "sub" / "preferences.json"))  # a file where a folder should be
    made = MainWindow()
    made.turn_text_size()
    assert "preferences" in made.banner.message.text()
    made.close()


def test_every_command_of_the_stage_can_be_run_and_undone(stage, qtbot, monkeypatch):
    """Whatever is pressed, nothing breaks, and undo leads back to where it began."""
    monkeypatch.setattr(QInputDialog, "getItem", lambda *a, **k: ("", False))
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: ("", ""))
    monkeypatch.setattr(QDialog, "exec", lambda self: 0)
    session = stage.session
    before = session.project.document
    for command in stage.menus.catalogue.commands:
        group = command.id.partition(".")[0]
        if group in ("framing", "view", "go", "help") and command.id not in ("help.walk", "view.text"):
            if not stage.desk.of_shot.subjects:
                known(qtbot, stage)
            stage.run(command.id)
            qtbot.waitUntil(lambda: not stage.desk.framing_work.busy, timeout=20_000)
    stage.player.stop()
    stage.pages["framing"].well.box = None
    rest(qtbot, stage)
    known(qtbot, stage)
    while session.project.history.undo_label not in (None, "Frame"):
        session.project.undo()
    assert session.project.document == before
    if theme.PAPER.lightness() < 128:
        stage.run("view.theme")


def _all_cut(window):
    parts = (*window.findChildren(QAbstractButton), *window.findChildren(QLabel))
    return [part.text() for part in parts if part.isVisible() and part.text() and _is_cut(part)]


@pytest.mark.parametrize(("size", "text"), [((1280, 800), 100), ((1280, 800), 150), ((2560, 1440), 125)])
def test_nothing_is_cut_off_at_any_size_of_window_and_text(planned, qtbot, tmp_path, monkeypatch, size, text):
    config = tmp_path / "config"
    config.mkdir()
    (config / "preferences.json").write_text(json.dumps({"ezvar preferences": 1, "text": text}))
    monkeypatch.setenv("EZVAR_CONFIG", str(config))
    made = MainWindow()
    try:
        made.resize(*size)
        made.show()
        save_project(planned, tmp_path / "p.ezvar")
        made.session.files.open(tmp_path / "p.ezvar")
        rest(qtbot, made)
        for name in made.stages:
            made.session.at.set_stage(name)
            if name == "framing":
                made.run("framing.share")
            qtbot.wait(60)
            qtbot.waitUntil(lambda: _all_cut(made) == [], timeout=5_000)  # it is laid out anew as things arrive
            assert (made.width(), made.height()) == size, name
    finally:
        theme.set_text_size(100)
        theme.dress()
        qtbot.waitUntil(lambda: not made.desk.of_shot.busy, timeout=20_000)
        made.close()
        made.deleteLater()


def _is_cut(part) -> bool:
    """Whether a button's or a label's words are wider or higher than it is."""
    metrics = part.fontMetrics()
    if isinstance(part, QLabel):
        return part.wordWrap() and part.heightForWidth(part.width()) > part.height() + 1
    return metrics.horizontalAdvance(part.text()) > part.width() or metrics.height() > part.height() + 1


def test_a_changed_path_is_drawn_over_what_stays(stage, qtbot):
    """The chart draws again just what has changed: the playhead, the path, or what lies behind it."""
    sweep, session = stage.pages["framing"].sweep, stage.session
    rest(qtbot, stage)

    def layers():
        sweep.grab()
        return sweep._behind._made[0][1], sweep._drawn._made[0][1]

    first = layers()
    session.at.go(15)
    assert layers() == first
    stage.desk.framing_work.put("Path", Pane((Keyframe(0, 0.4), Keyframe(30, 0.6))))
    moved = layers()
    assert moved[1] is not first[1]
    session.at.set_master("square")
    assert layers()[0] is not moved[0]
    session.at.set_master("tall")
    assert layers() == moved
    for frame in range(1, 25):
        stage.desk.framing_work.put("Path", Pane((Keyframe(0, 0.4), Keyframe(frame, 0.6))))
        layers()
    assert len(sweep._drawn._made) == sweep._drawn._MOST


def test_a_verdict_and_doubts_are_counted_by_master(stage):
    session = stage.session
    doubtful = [f for f in session.readings.framings_waiting if f.master == "tall"]
    assert session.readings.waiting_here == len(doubtful)
    assert framings_waiting(session.project.document, True) == len(session.readings.framings_waiting)
    if doubtful:
        agreed = edits.set_verdict(session.project.document, doubtful[0].shot, "tall", "agreed")
        session.project.edit("Agree", agreed)
        assert session.readings.waiting_here == len(doubtful) - 1


@given(st.integers(0, 400))
def test_other_keys_are_no_digits(code):
    assume(not 10 <= code <= 18)
    event = QKeyEvent(QEvent.Type.KeyPress, Qt.Key.Key_A, Qt.KeyboardModifier.NoModifier, code, 0, 0, "a")
    assert pressed_digit(event) is None


def test_the_guide_is_in_the_help_menu_with_its_pictures(opened):
    opened.run("help.guide")
    dialog = opened.findChild(GuideDialog)
    page = dialog.pages
    assert page.toPlainText().startswith("From the lock to the checked masters")
    picture = page.loadResource(2, QUrl("screenshots/output.png"))
    assert (picture.isNull(), picture.width()) == (False, 860)
    dialog.close()
