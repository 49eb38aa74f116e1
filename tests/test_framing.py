"""Paths from keyframes, the first solver against ground truth, and doubt."""

import json
from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ezvar.core.evidence import Analysis, Face, FaceFinder, cached_analysis, shot_faces, shot_motion, slit_scan
from ezvar.core.framing import (
    NEEDS_A_LOOK,
    Size,
    crop_windows,
    doubt,
    fit_zoom,
    framed,
    key_at,
    pane_window,
    picture_size,
    put_by_hand,
    resting,
    sentences,
    shifted,
    solve,
)
from ezvar.core.lock import take_lock
from ezvar.core.media import MovieReader
from ezvar.core.model import EASES, Keyframe, Master, Pane, Reason
from ezvar.core.planning import analysis_of, plan, with_framings
from ezvar.core.store import load_project

from .conftest import DEMO
from .strategies import panes


@pytest.fixture(scope="module")
def demo(cache):
    """The demo planned afresh, its analysis and its ground truth."""
    masters = [Master("9", "9:16", 1080, 1920), Master("4", "4:5", 1080, 1350), Master("1", "1:1", 1080, 1080)]
    doc = plan(DEMO / "lantern-night.mp4", masters, cache).doc
    return doc, analysis_of(doc, cache), json.loads((DEMO / "lantern-night.truth.json").read_text())


def test_every_cut_of_the_demo_is_found_and_no_other(demo):
    doc, _, truth = demo
    assert len(doc.shots) == len(truth["cuts"]) + 1
    for shot, true in zip(doc.shots[1:], truth["cuts"], strict=True):
        assert shot.cut.kind == true["kind"]
        near = 0 if true["kind"] == "cut" else 1  # where a mix begins and ends shows to a frame or so
        ends = (shot.start, shot.cut.start, shot.cut.end)
        assert ends == pytest.approx((true["frame"], true["start"], true["end"]), abs=near)


def _kept(doc, master, truth, kind):
    """For each shot with one subject of a kind: the share of frames whose box lies wholly in the window, if it fits."""
    for shot, known in zip(doc.shots, truth["shots"], strict=True):
        names = {name for frame in known["subjects"] for name, s in frame.items() if s["kind"] == kind}
        if len(names) != 1 or known["size"] != [1920, 1080]:
            continue
        inside = []
        for frame, row in _rows(doc, master, shot):
            if not known["start"] <= frame < known["end"]:
                continue
            subjects = known["subjects"][frame - known["start"]]
            for subject in (s for s in subjects.values() if s["kind"] == kind):
                x, _, width, _ = subject["box"]
                if width < row.width:
                    inside.append(row.left - 1 <= x and x + width <= row.left + row.width + 1)
        yield known["name"], sum(inside) / max(1, len(inside))


def _rows(doc, master, shot):
    return [(r.frame, r.window) for r in crop_windows(doc, master, shot.start, shot.end) if r.layer == 0]


def test_the_only_face_of_a_shot_is_kept_where_a_still_window_can(demo):
    doc, _, truth = demo
    for master in doc.masters:
        kept = dict(_kept(doc, master, truth, "face"))
        assert {name for name, share in kept.items() if share == 1.0} >= {
            "Ilma, lower third",
            "Ilma again",
            "Ilma, third",
            "drummer at the edge",
        }
        assert kept["crossing"] < 0.5  # someone who crosses the whole frame leaves any still window


def test_what_a_still_window_cannot_do_is_doubted(demo):
    doc, _, truth = demo
    tall = doc.masters[0]
    figures = {
        known["name"]: doubt(doc.framing(s.id, tall.id).reasons)
        for s, known in zip(doc.shots, truth["shots"], strict=True)
    }
    assert min(figures[n] for n in ("Dunn and Meira", "Dunn and Meira again", "crossing")) >= NEEDS_A_LOOK
    assert (
        max(figures[n] for n in ("Ilma, lower third", "Ilma again", "Ilma, third", "drummer at the edge"))
        < NEEDS_A_LOOK
    )


def test_the_shipped_plan_is_what_is_planned_now(demo):
    doc, _, _ = demo
    shipped = load_project(DEMO / "lantern-night.ezvar")
    assert [(s.start, s.end) for s in shipped.shots] == [(s.start, s.end) for s in doc.shots]
    assert shipped.lock == doc.lock
    for master, old in zip(doc.masters, shipped.masters, strict=True):
        for now, then in zip(crop_windows(doc, master), crop_windows(shipped, old), strict=True):
            assert (now.window.cx, now.window.cy) == pytest.approx((then.window.cx, then.window.cy), abs=12)


def test_an_analysis_is_kept_and_taken_up_again(demo, cache):
    doc, analysis, _ = demo
    again = cached_analysis(doc.lock.media[0].content, doc.lock.frames, cache)
    assert again.faces == analysis.faces
    assert np.array_equal(again.signals.thumbs, analysis.signals.thumbs)
    assert cached_analysis(doc.lock.media[0].content, 3, cache) is None
    assert cached_analysis("other", doc.lock.frames, cache) is None


def test_faces_lie_where_the_demo_drew_them(demo):
    _, analysis, truth = demo
    known = {
        frame: shot["subjects"][frame - shot["start"]]
        for shot in truth["shots"]
        if shot["size"] == [1920, 1080]
        for frame in range(shot["start"], shot["end"])
    }
    found = missed = 0
    for frame, faces in analysis.faces.items():
        for subject in (s for s in known.get(frame, {}).values() if s["kind"] == "face" and s["box"][2] > 80):
            x, y, width, height = subject["box"]
            centre = ((x + width / 2) / 1920, (y + height / 2) / 1080)
            hit = any(
                abs(f.x + f.width / 2 - centre[0]) < width / 3840
                and abs(f.y + f.height / 2 - centre[1]) < height / 2160
                for f in faces
            )
            found, missed = found + hit, missed + (not hit)
    assert found >= 0.95 * (found + missed)


def test_without_the_face_model_it_works_and_says_so(tmp_path):
    with pytest.raises(FileNotFoundError):
        FaceFinder(tmp_path / "none.onnx")


def test_motion_is_found_without_the_cameras_own(demo):
    """On the crossing the most moves where the bearer walks; while the whole picture is panned little does."""
    _, analysis, truth = demo
    crossing = next(s for s in truth["shots"] if s["name"] == "crossing")
    middle = (crossing["start"] + crossing["end"]) // 2
    motion = shot_motion(analysis, middle - 2, middle + 2)
    box = crossing["subjects"][middle - crossing["start"]]["bearer"]["box"]
    at = motion.sum(axis=0).argmax() / motion.shape[1] * 1920
    assert box[0] - 120 <= at <= box[0] + box[2] + 120
    assert motion.shape == (36, 64)
    assert shot_faces(analysis, 10**6, 10**6 + 5) == []


@given(panes, st.integers(-100, 500))
def test_between_keyframes_values_stay_between(pane, frame):
    key = key_at(pane, frame)
    for name in ("cx", "cy", "zoom", "angle"):
        values = [getattr(k, name) for k in pane.keys]
        assert min(values) - 1e-9 <= getattr(key, name) <= max(values) + 1e-9
    for k in pane.keys:
        assert key_at(pane, k.frame) == k


@pytest.mark.parametrize("ease", EASES)
def test_eases_begin_and_end_where_they_say_and_never_turn_back(ease):
    pane = Pane((Keyframe(0, 0.2, zoom=1, ease=ease), Keyframe(20, 0.8, zoom=4)))
    along = [key_at(pane, f).cx for f in range(21)]
    assert (along[0], along[20]) == (0.2, 0.8)
    assert all(a <= b + 1e-12 for a, b in pairwise(along))
    first, last = along[1] - along[0], along[19] - along[18]
    said = {
        "linear": first == pytest.approx(last),
        "hold": first == last == 0,
        "both": first == pytest.approx(along[20] - along[19]),
        "ease in": first < last,
        "ease out": first > last,
    }
    assert said[ease]
    if ease == "linear":
        assert key_at(pane, 10).zoom == pytest.approx(2)  # in equal ratios


@given(panes, st.floats(-2, 2), st.floats(-2, 2))
def test_a_shifted_path_is_where_it_says(pane, dx, dy):
    master, size = Master("a", "a", 108, 192), Size(1920, 1080)
    moved = shifted(pane, master, size, dx, dy)
    for key in moved.keys:
        w = pane_window(moved, master, size, key.frame)
        assert (key.cx * size.width, key.cy * size.height) == pytest.approx((w.cx, w.cy), abs=1e-6)
    assert [k.frame for k in moved.keys] == [k.frame for k in pane.keys]


def test_by_hand_is_noted_and_doubted_anew(planned, cache):
    analysis = analysis_of(planned, cache)
    shot, master = planned.shots[0], planned.masters[0]
    size = picture_size(planned, shot)
    away = shifted(framed(planned, shot, master).panes[0], master, size, 1.0, 0.0)
    doc = put_by_hand(planned, shot, master, away, analysis)
    framing = doc.framing(shot.id, master.id)
    assert framing.decided == "by hand"
    assert doubt(framing.reasons) > doubt(planned.framing(shot.id, master.id).reasons)
    assert all(s.endswith(".") for s in sentences(framing.reasons))
    whole = resting(away, master, size)
    assert whole.keys[0].zoom == fit_zoom(size, 180 / 320)
    assert put_by_hand(replace(planned, framings=()), shot, master, whole, None).framing(shot.id, master.id).panes == (
        whole,
    )


def test_solving_again_leaves_agreed_and_hand_made_framings(planned, cache):
    analysis = analysis_of(planned, cache)
    framings = list(planned.framings)
    framings[0] = replace(framings[0], verdict="agreed", why="kept")
    framings[1] = replace(framings[1], decided="by hand", why="kept")
    framings[2] = replace(framings[2], why="old")
    again = with_framings(replace(planned, framings=tuple(framings)), analysis)
    assert [f.why for f in again.framings[:2]] == ["kept", "kept"]
    assert again.framings[2].why != "old"


def test_a_master_that_starts_whole_shows_all(planned, cache):
    master = Master("w", "w", 180, 320, "whole")
    (framing,) = solve(planned, master, analysis_of(planned, cache), planned.shots[:1])
    w = pane_window(framing.panes[0], master, picture_size(planned, planned.shots[0]), 0)
    assert w.width >= planned.lock.width
    assert "whole" in framing.why.lower()
    assert framed(planned, planned.shots[0], master).panes == framing.panes


def test_doubt_adds_up_as_the_formula_says():
    assert doubt([]) == 0
    assert doubt([Reason("face cut", 1.0), Reason("enlarged", 0.1)]) == 100
    assert doubt([Reason("face cut", 0.3), Reason("enlarged", 0.1)]) == round(100 * (1 - 0.7 * 0.9))


def test_an_unsure_face_needs_another_beside_it(demo):
    signals = demo[1].signals
    here, there = Face(0.4, 0.4, 0.1, 0.1, 0.45), Face(0.8, 0.4, 0.1, 0.1, 0.45)
    looks = {6: [here], 18: [replace(here, x=0.43), there], 30: [], 42: [replace(there, confidence=0.9)], 54: [there]}
    assert [len(found) for found in shot_faces(Analysis(signals, looks, True), 0, 60)] == [1, 1, 0, 1, 1]


def test_parts_of_faces(edit, cache):
    face = Face(0.4, 0.4, 0.2, 0.2, 0.9)
    assert face.part_inside(0, 0, 1, 1) == 1
    assert face.part_inside(0, 0, 0.5, 1) == pytest.approx(0.5)
    assert face.part_inside(0.7, 0, 0.3, 1) == 0
    assert face.part_inside(0.35, 0, 0.3, 1, room=0.5) == pytest.approx(0.75)
    assert isinstance(analysis_of(take_lock(edit).doc, cache), Analysis)


def test_a_slit_scan_shows_movers_as_streaks():
    frames = [np.full((30, 60, 3), 90, np.uint8) for _ in range(40)]
    for n, frame in enumerate(frames):
        frame[10:14, n : n + 4] = 255
    chart = slit_scan(frames)
    assert chart.shape == (60, 40, 3)
    for n in range(2, 38):
        assert abs((59 - int(chart[:, n, 0].argmax())) - n) <= 3
    assert slit_scan(frames, along_y=True).shape == (30, 40, 3)


def test_the_demo_movie_opens_with_its_facts():
    with MovieReader(DEMO / "lantern-night.mp4") as reader:
        assert (reader.facts.width, reader.facts.height, reader.facts.frames, reader.facts.start) == (
            1920,
            1080,
            1735,
            90_000,
        )
