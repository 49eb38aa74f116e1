"""Paths from keyframes, the first solver against ground truth, and doubt."""

import json
from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ezvar.core import edits
from ezvar.core.evidence import FaceFinder, Finders, TextFinder, look_through, looked, subjects_of
from ezvar.core.evidence.finders.things import GROUPS
from ezvar.core.framing import (
    NEEDS_A_LOOK,
    Place,
    Size,
    crop_windows,
    enlargements,
    fit_zoom,
    framed,
    key_at,
    pane_window,
    picture_size,
    remedies,
    resting,
    sentences,
    shifted,
    solve,
    solve_shot,
    subjects_in,
    words,
)
from ezvar.core.framing.paths.fitting import fewest_keys
from ezvar.core.framing.paths.optimal import calm_path
from ezvar.core.framing.paths.pace import pace_of
from ezvar.core.media import MovieReader
from ezvar.core.model import EASES, Keyframe, Master, Pane, Reason, doubt
from ezvar.core.planning import following_the_window, plan, with_framings
from ezvar.core.store import load_project
from ezvar.core.timing import FrameRange
from ezvar.core.viewing import slit_scan

from ..conftest import DEMO
from ..deciding import apply_remedy, put_by_hand
from ..sights import TALL, analysis_with, faces_seen, one_shot
from ..strategies import panes


@pytest.fixture(scope="module")
def demo(cache):
    """The demo planned afresh, its analysis and its ground truth."""
    masters = [Master("9", "9:16", 1080, 1920), Master("4", "4:5", 1080, 1350), Master("1", "1:1", 1080, 1080)]
    doc = plan(DEMO / "lantern-night.mp4", masters, cache).doc
    return doc, look_through(doc, cache), json.loads((DEMO / "lantern-night.truth.json").read_text())


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
    return [(r.frame, r.window) for r in crop_windows(doc, master, shot.start, shot.end) if r.part == 0]


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
        assert kept["crossing"] > 0.9  # someone who crosses the whole frame is followed


def test_what_a_still_window_cannot_do_is_doubted(demo):
    doc, _, truth = demo
    tall = doc.masters[0]
    figures = {
        known["name"]: doubt(doc.framing(s.id, tall.id).reasons)
        for s, known in zip(doc.shots, truth["shots"], strict=True)
    }
    cut = ("Dunn and Meira", "Dunn and Meira again", "Ilma, lower third")  # the last by its lower third alone
    assert min(figures[n] for n in cut) >= NEEDS_A_LOOK
    assert max(figures[n] for n in ("Ilma again", "Ilma, third", "drummer at the edge")) < NEEDS_A_LOOK
    card = next(s for s, known in zip(doc.shots, truth["shots"], strict=True) if known["name"] == "title")
    framing = doc.framing(card.id, tall.id)
    assert framing.panes[0].keys[0].zoom < 1  # no filling window holds it
    assert "backdrop" in framing.why
    assert figures["title"] < NEEDS_A_LOOK


def test_the_shipped_plan_is_what_is_planned_now(demo):
    doc, _, _ = demo
    shipped = load_project(DEMO / "lantern-night.ezvar")
    assert [(s.start, s.end) for s in shipped.shots] == [(s.start, s.end) for s in doc.shots]
    assert shipped.lock == doc.lock
    for master, old in zip(doc.masters, shipped.masters, strict=True):
        for now, then in zip(crop_windows(doc, master), crop_windows(shipped, old), strict=True):
            assert (now.window.cx, now.window.cy) == pytest.approx((then.window.cx, then.window.cy), abs=12)


def test_an_analysis_is_kept_and_taken_up_again(demo, cache, monkeypatch):
    doc, analysis, _ = demo
    monkeypatch.setattr("ezvar.core.evidence.tasks.looked", None)  # nothing is looked at again
    again = look_through(doc, cache)
    assert np.array_equal(again.evidence.rows, analysis.evidence.rows)
    assert again.evidence.finders == ("face", "text", "moving", *GROUPS)
    assert np.array_equal(again.signals.thumbs, analysis.signals.thumbs)


def test_faces_lie_where_the_demo_drew_them(demo):
    _, analysis, truth = demo
    known = {
        frame: shot["subjects"][frame - shot["start"]]
        for shot in truth["shots"]
        if shot["size"] == [1920, 1080]
        for frame in range(shot["start"], shot["end"])
    }
    found = missed = 0
    for frame, faces in analysis.evidence.seen("face", 0, 10**6):
        for subject in (s for s in known.get(frame, {}).values() if s["kind"] == "face" and s["box"][2] > 80):
            x, y, width, height = subject["box"]
            centre = ((x + width / 2) / 1920, (y + height / 2) / 1080)
            hit = any(abs(f.cx - centre[0]) < width / 3840 and abs(f.cy - centre[1]) < height / 2160 for f in faces)
            found, missed = found + hit, missed + (not hit)
    assert found >= 0.95 * (found + missed)


def test_without_a_model_the_rest_is_looked_for(tmp_path, edit, monkeypatch):
    for finder in (FaceFinder, TextFinder):
        with pytest.raises(FileNotFoundError):
            finder(tmp_path / "none.onnx")
    monkeypatch.setattr("ezvar.core.evidence.gather.FaceFinder", lambda: FaceFinder(tmp_path / "none.onnx"))
    with MovieReader(edit) as reader:
        seen = next(looked(reader.frames(), 0, 80, Finders(), 25)).evidence
    assert seen.finders == ("text", "moving", *GROUPS)
    assert seen.seen("face", 0, 100) == []


def test_text_and_movement_lie_where_the_demo_drew_them(demo):
    """Titles are found, and on the crossing what moves by itself is the bearer."""
    _, analysis, truth = demo
    shots = {s["name"]: s for s in truth["shots"]}
    title = shots["title"]["subjects"][40]["title"]["box"]
    words = [s for s in subjects_of(analysis.evidence, *_span(shots["title"])) if s.kind == "text"]
    highest = min(words, key=lambda s: s.boxes[:, 1].mean())
    left, top, right, foot = highest.boxes.mean(axis=0) * (1920, 1080, 1920, 1080)
    assert title[0] - 60 < left < right < title[0] + title[2] + 60
    assert title[1] - 60 < top < foot < title[1] + title[3] + 60
    start, end = _span(shots["crossing"])
    bearer = subjects_of(analysis.evidence, start, end)[0]
    for n in range(start + 20, end - 20, 10):
        box = shots["crossing"]["subjects"][n - start]["bearer"]["box"]
        middle = bearer.at(np.array([n]))[0, [0, 2]].mean() * 1920
        assert box[0] - 20 < middle < box[0] + box[2] + 20


def _span(shot):
    return shot["start"], shot["end"]


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
    analysis = look_through(planned, cache)
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
    put = put_by_hand(replace(planned, framings=()), shot, master, whole, None).framing(shot.id, master.id).panes
    assert put == (replace(whole, by_hand=(FrameRange(0, shot.frames),)),)


def test_solving_again_leaves_agreed_and_hand_made_framings(planned, cache):
    analysis = look_through(planned, cache)
    framings = list(planned.framings)
    framings[0] = replace(framings[0], verdict="agreed", why="kept")
    framings[1] = replace(framings[1], decided="by hand", why="kept")
    framings[2] = replace(framings[2], why="old")
    again = with_framings(replace(planned, framings=tuple(framings)), analysis)
    assert [f.why for f in again.framings[:2]] == ["kept", "kept"]
    assert again.framings[2].why != "old"


def test_a_master_that_starts_whole_shows_all(planned, cache):
    master = Master("w", "w", 180, 320, "whole")
    (framing,) = solve(planned, master, look_through(planned, cache), planned.shots[:1])
    w = pane_window(framing.panes[0], master, picture_size(planned, planned.shots[0]), 0)
    assert w.width >= planned.lock.width
    assert "whole" in framing.why.lower()
    assert framed(planned, planned.shots[0], master).panes == framing.panes


def test_doubt_adds_up_as_the_formula_says():
    assert doubt([]) == 0
    assert doubt([Reason("face cut", 1.0), Reason("enlarged", 0.1)]) == 100
    assert doubt([Reason("face cut", 0.3), Reason("enlarged", 0.1)]) == round(100 * (1 - 0.7 * 0.9))


def test_a_face_needs_another_sight_and_one_sure_one():
    here, there = (0.4, 0.4, 0.1, 0.1, 0.45), (0.8, 0.4, 0.1, 0.1, 0.9)
    looks = range(6, 60, 12)
    sights = {6: [here], 18: [(0.41, 0.4, 0.1, 0.1, 0.3)], 30: [], 42: [there]}
    (only,) = subjects_of(faces_seen(sights, looks), 0, 60)
    assert only.frames.tolist() == [6, 18]
    assert subjects_of(faces_seen({6: [(*here[:4], 0.3)], 18: [(*here[:4], 0.35)]}, looks), 0, 60) == ()
    assert len(subjects_of(faces_seen({6: [there]}, [6]), 0, 20)) == 1


def test_people_who_pass_each_other_stay_who_they_are():
    looks = range(0, 250, 12)
    sights = {n: [(0.1 + 0.003 * n, 0.4, 0.08, 0.12, 0.9), (0.8 - 0.003 * n, 0.41, 0.07, 0.1, 0.8)] for n in looks}
    one, two = subjects_of(faces_seen(sights, looks), 0, 250)
    for subject, speed in ((one, 0.003), (two, -0.003)):
        steps = np.diff(subject.boxes[:, 0]) / np.diff(subject.frames)
        assert len(subject.frames) == len(looks)
        assert np.allclose(steps, speed)
        assert not subject.there(np.array([-30, 290])).any()


corridors = st.lists(st.tuples(st.floats(0.1, 0.9), st.floats(0.02, 0.3)), min_size=4, max_size=40)


@given(st.integers(20, 40), st.floats(0.2, 0.35), st.floats(0.25, 0.4), st.integers(0, 1000))
def test_a_calm_path_hardly_changes_with_what_it_is_made_from(knots, start, way, seed):
    """A subject that crosses is followed alike for longer and for shorter shots, and where it is seen a hair beside."""
    rng = np.random.default_rng(seed)
    wanted = start + way * np.linspace(0, 1, knots)
    made = []
    for off in (np.zeros(knots), rng.uniform(-0.003, 0.003, knots)):
        low, high = wanted + off - 0.12, wanted + off + 0.12
        made.append(calm_path(low, high, wanted + off, np.ones(knots), (0.15, 0.85), 0.05))
    assert np.abs(made[0] - made[1]).max() < 0.025


@given(corridors, st.floats(0.005, 0.2))
def test_a_calm_path_keeps_to_its_limits_and_to_its_corridor_where_it_can(said, step):
    low, high = (np.array([c + sign * w for c, w in said]) for sign in (-1, 1))
    path = calm_path(low, high, (low + high) / 2, np.ones(len(said)), (0.2, 0.8), step)
    assert ((path >= 0.2 - 1e-7) & (path <= 0.8 + 1e-7)).all()
    assert np.abs(np.diff(path)).max() <= step + 1e-7
    ends = np.clip(low, 0.2, 0.8).max(), np.clip(high, 0.2, 0.8).min()
    if ends[0] <= ends[1]:  # one place serves all: it rests
        assert np.ptp(path) < 0.01  # of the picture, which nobody sees
        assert ends[0] - 1e-6 <= path[0] <= ends[1] + 1e-6


@given(corridors, st.booleans())
def test_the_fewest_keys_stay_in_the_corridor_and_under_the_speed(said, free):
    low, high = (np.array([c + sign * w for c, w in said]) for sign in (-1, 1))
    frames = np.arange(len(said)) * 5
    path = calm_path(low, high, (low + high) / 2, np.ones(len(said)), (0.1, 0.9), 0.05)
    both = [np.stack([v, np.full(len(v), c)], axis=1) for v, c in ((path, 0.5), (low, -1), (high, 2))]
    keys = fewest_keys(frames, *both, (0.016, 0.016), [(0.1, 0.9)] * 2 if free else None)
    pane = Pane(tuple(Keyframe(n, c[0], c[1], ease=ease) for n, c, ease in keys))
    curve = np.array([key_at(pane, int(n)).cx for n in frames])
    inside = (path >= low - 1e-6) & (path <= high + 1e-6)
    near = np.array([not inside[max(0, k - 3) : k + 4].all() for k in range(len(path))])
    off = np.where(near, 0.0105, 0.0031)  # a hair more beside frames in which the path has left it
    assert (curve >= np.minimum(low, path) - off)[inside].all()
    assert (curve <= np.maximum(high, path) + off)[inside].all()
    assert np.abs(curve - path).max() <= 0.0501
    assert free or (curve[0], curve[-1]) == pytest.approx((path[0], path[-1]), abs=2.1e-3)
    smooth = np.array([key_at(pane, n).cx for n in range(int(frames[-1]) + 1)])
    assert np.abs(np.diff(smooth)).max(initial=0) <= 0.016 + 1e-6


@given(st.floats(0.3, 0.8), st.floats(0.85, 0.95), st.booleans())
def test_a_path_that_never_rests_is_one_even_move_and_one_that_does_is_not(where, slower, rests):
    """A walker comes near the picture's edge, where the window goes a little slower, or has to stop."""
    at = round(60 * where)
    speed = np.where(np.arange(60) < at, 1.0, 0.0 if rests else slower)
    path = 0.2 + 0.5 * np.concatenate([[0.0], np.cumsum(speed)]) / speed.sum()
    both = np.stack([path, np.full(61, 0.5)], axis=1)
    keys = fewest_keys(np.arange(61) * 4, both, both - 0.1, both + 0.1, (0.01, 0.01), [(0.2, 0.7), (0.5, 0.5)])
    frames = [n for n, _, _ in keys]
    assert frames[-1] < 240 if rests else frames == [0, 240]


@given(st.integers(12, 50), st.integers(2, 12), st.floats(0.6, 1.0), st.floats(1.03, 1.4), st.sampled_from([-1, 1]))
def test_a_window_does_not_stop_amid_a_move(lasts, soft, slower, spare, way):
    """Somebody sets out, goes on more slowly, and comes to stand; the pace allows hardly more than that."""
    speed = np.minimum(1, np.minimum(np.arange(1, lasts + 1), np.arange(lasts, 0, -1)) / soft)
    speed = np.concatenate([np.zeros(10), speed[: lasts // 2], slower * speed[lasts // 2 :], np.zeros(10)])
    path = 0.5 + way * (0.45 * np.concatenate([[0.0], np.cumsum(speed)]) / speed.sum() - 0.225)
    frames, both = np.arange(len(path)) * 4, np.stack([path, np.full(len(path), 0.5)], axis=1)
    fastest = (spare * np.abs(np.diff(path)).max() / 4,) * 2
    pane = Pane(tuple(Keyframe(n, c[0], c[1], ease=ease) for n, c, ease in
                      fewest_keys(frames, both, both - 0.1, both + 0.1, fastest)))  # fmt: skip
    curve = np.array([key_at(pane, n).cx for n in range(int(frames[-1]) + 1)])
    amid = np.abs(np.diff(curve))[(np.abs(curve - 0.5) < 0.13)[:-1]]
    assert amid.min() > 0.3 * amid.mean()


@given(st.floats(0.0002, 0.0018), st.integers(10, 20), st.booleans())
def test_a_hair_on_the_way_to_where_a_window_rests_is_no_keyframe_of_its_own(hair, moves, at_first):
    path = np.concatenate([np.full(10, 0.3), np.linspace(0.3, 0.7 - hair, moves), np.linspace(0.7 - hair, 0.7, 30)])
    path = 1 - path[::-1] if at_first else path
    frames, both = np.arange(len(path)) * 4, np.stack([path, np.full(len(path), 0.5)], axis=1)
    keys = fewest_keys(frames, both, both - 0.1, both + 0.1, (0.02, 0.02))
    assert [round(float(c[0]), 4) for _, c, _ in keys] == [0.3, 0.7]


@pytest.mark.parametrize(("pace", "moves"), [(0.0, False), (0.5, True), (1.0, True)])
def test_pace_says_whether_a_walker_is_followed(planned, pace, moves):
    shot, master = replace(planned.shots[0], end=planned.lock.frames), planned.masters[0]
    doc = replace(planned, framings=(), shots=(shot,))
    looks = range(shot.start, shot.end, 5)
    way = 0.6 / shot.frames
    sights = {n: [(0.15 + way * (n - shot.start), 0.4, 0.06, 0.1, 0.9)] for n in looks}
    subjects = subjects_of(faces_seen(sights, looks), shot.start, shot.end)
    doc = edits.change_master(doc, master := replace(master, pace=pace))
    framing = solve_shot(Place(doc, shot, master), subjects)
    assert (len(framing.panes[0].keys) > 1) == moves
    assert words(pace)
    assert framing.why.endswith(".")
    if pace == 0:
        assert doubt(framing.reasons) >= NEEDS_A_LOOK
    with pytest.raises(ValueError, match="between 0 and 1"):
        pace_of(1.5)


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


def test_a_window_put_right_by_hand_can_say_who_the_subject_is(demo):
    """On the pair the other face is meant; on the lanterns, where nothing was found, what was shown is tracked."""
    doc, analysis, truth = demo
    tall = doc.masters[0]
    shots = {known["name"]: s for s, known in zip(doc.shots, truth["shots"], strict=True)}
    pair = shots["Dunn and Meira"]
    size = picture_size(doc, pair)
    left, right = sorted(s.boxes[:, 0].mean() for s in subjects_in(doc, pair, analysis)[:2])
    before = pane_window(doc.framing(pair.id, tall.id).panes[0], tall, size, 10).cx / size.width
    other = left if abs(before - right) < abs(before - left) else right
    put = put_by_hand(doc, pair, tall, Pane((Keyframe(0, other + 0.05),)), analysis)
    solved = following_the_window(Place(put, pair, tall), pair.start + 10, analysis).framing(pair.id, tall.id)
    w = pane_window(solved.panes[0], tall, size, 100)
    assert w.left / size.width < other < other + 0.1 < (w.left + w.width) / size.width
    assert solved.decided == "solved"
    lone = shots["Ilma, lower third"]
    away = put_by_hand(doc, lone, tall, Pane((Keyframe(0, 0.8, 0.3, 3.0),)), analysis)
    followed = following_the_window(Place(away, lone, tall), lone.start + 20, analysis)
    (drawn,) = followed.drawn
    assert (drawn.shot, drawn.drawn) == (lone.id, 20)
    assert drawn.frames[0] <= 20 < drawn.frames[-1]
    assert "drawn" in followed.framing(lone.id, tall.id).why


def test_enlargement_counts_the_sources_own_pixels(demo):
    doc, analysis, _ = demo
    tall = doc.masters[0]
    found = {e.shot: e.factor for e in enlargements(doc, [tall])}
    assert found[doc.shots[2].id] == pytest.approx(1920 / 1080)
    assert enlargements(doc, [tall], above=2.0) == []
    four_k = replace(doc.lock.media[0], width=3840, height=2160)
    larger = replace(doc, lock=replace(doc.lock, media=(four_k,)))
    assert {e.shot: e.factor for e in enlargements(larger, [tall], above=0.5)}[doc.shots[2].id] == pytest.approx(
        1920 / 2160
    )
    tight = put_by_hand(doc, doc.shots[2], tall, Pane((Keyframe(0, zoom=1.3),)), analysis)
    assert doubt(tight.framing(doc.shots[2].id, tall.id).reasons) >= NEEDS_A_LOOK


@pytest.mark.parametrize(("wide", "said"), [(0.06, False), (0.121, True), (0.22, False)])
def test_shoulders_that_only_just_do_not_fit_are_doubted_and_a_looser_window_is_offered(wide, said):
    doc, shot = one_shot()
    looks = range(0, 250, 5)
    faces = faces_seen({n: [(0.5 - wide / 2, 0.3, wide, 1.6 * wide, 0.9)] for n in looks}, looks)
    analysis = analysis_with(faces)
    (framing,) = solve(doc, TALL, analysis, [shot])
    assert ("shoulders cut" in {r.name for r in framing.reasons}) == said
    assert (doubt(framing.reasons) >= NEEDS_A_LOOK) == said
    if said:
        doc = edits.set_framings(doc, [framing])
        offer = next(r for r in remedies(Place(doc, shot, TALL), analysis) if r.kind == "looser")
        mended = apply_remedy(Place(doc, shot, TALL), offer, analysis).framing("shot", TALL.id)
        assert mended.panes[0].keys[0].zoom == pytest.approx(0.87)
        assert "shoulders cut" not in {r.name for r in mended.reasons}
