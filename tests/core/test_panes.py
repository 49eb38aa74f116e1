"""Choosing by one command each, keyframes changed together, curves bent, and windows taken by their handles."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ezvar.core import edits
from ezvar.core.framing import (
    Place,
    Size,
    band,
    bent,
    copied_keys,
    eased_keys,
    followed,
    handle_at,
    key_at,
    moved_keys,
    not_kept,
    pane_window,
    size_factor,
    subjects_in,
    turn_handle,
    turned,
    turned_by,
    way_come,
    with_values,
    worth_showing,
    zoomed,
)
from ezvar.core.framing.windows.path import eased
from ezvar.core.model import EASES, Document, Keyframe, Pane, look_of, noted

from ..deciding import ask, follow, follow_from, follow_too, keep_both, put_by_hand, solved_with
from ..sights import TALL, several_shots, span
from ..sights import follow as follow_choices
from ..strategies import keyframes, panes

PICTURE = Size(1920, 1080)


def two_people():
    doc, analysis = several_shots(((0.2, 0.2), (0.8, 0.8)), frames=250)
    return doc, doc.shots[0], analysis


def middle(doc: Document, frame: int) -> float:
    return span(doc.framing("s0", TALL.id), frame, doc)[1]


def test_a_number_follows_another_and_with_shift_both():
    doc, shot, analysis = two_people()
    doc = follow(doc, shot, TALL, [2], analysis)
    assert abs(middle(doc, 100) - 0.8) < 0.06
    both = follow_too(doc, shot, TALL, 1, 0, analysis)
    left, _, right = span(both.framing("s0", TALL.id), 100, both)
    assert left < 0.17 < 0.83 < right
    assert len(followed(Place(both, shot, TALL), subjects_in(both, shot, analysis), 50)) == 2
    assert (
        follow_too(both, shot, TALL, 1, 0, analysis).framing("s0", TALL.id).panes == doc.framing("s0", TALL.id).panes
    )  # once more leaves it out again
    assert keep_both(doc, shot, TALL, analysis).framing("s0", TALL.id).panes[0].keys[0].zoom < 1
    assert len(keep_both(doc, shot, TALL, analysis, panes=True).framing("s0", TALL.id).panes) == 2
    with pytest.raises(KeyError):
        follow(doc, shot, TALL, [7], analysis)


def test_then_that_from_a_frame_on_keeps_who_was_followed_until_then():
    doc, shot, analysis = two_people()
    doc = follow_from(doc, shot, TALL, 2, 120, analysis)
    assert [t.frame for t in doc.framing("s0", TALL.id).panes[0].choices.follow] == [0, 120]
    assert middle(doc, 20) < 0.35
    assert middle(doc, 230) > 0.65
    doc = follow_from(doc, shot, TALL, 2, 0, analysis)
    assert middle(doc, 20) > 0.65


def test_asking_keeps_stretches_by_hand_but_takes_a_whole_path_back():
    doc, shot, analysis = two_people()
    whole = put_by_hand(doc, shot, TALL, Pane((Keyframe(0, 0.5),)), analysis)
    assert not ask(whole, shot, TALL, analysis, pace=0.3).framing("s0", TALL.id).panes[0].by_hand
    part = put_by_hand(doc, shot, TALL, replace(Pane((Keyframe(0, 0.5), Keyframe(30, 0.5))), by_hand=()), analysis)
    framing = part.framing("s0", TALL.id)
    pane = replace(framing.panes[0], by_hand=(type(framing.panes[0].by_hand[0])(0, 31),))
    part = solved_with(part, replace(framing, panes=(pane,)), analysis)
    asked = ask(part, shot, TALL, analysis, place=0.4)
    assert asked.framing("s0", TALL.id).panes[0].by_hand
    assert abs(middle(asked, 10) - 0.5) < 0.02


def test_stretches_that_are_not_kept_are_told():
    doc, shot, analysis = two_people()
    subjects = subjects_in(doc, shot, analysis)
    doc = follow(doc, shot, TALL, [1], analysis)
    assert not_kept(Place(doc, shot, TALL), subjects) == ()
    pane = Pane((Keyframe(0, 0.2, ease="hold"), Keyframe(100, 0.7, ease="hold"), Keyframe(200, 0.2)))
    asked = replace(pane, choices=doc.framing("s0", TALL.id).panes[0].choices)
    (stretch,) = not_kept(Place(put_by_hand(doc, shot, TALL, asked, analysis), shot, TALL), subjects)
    assert abs(stretch.start - 100) <= 4
    assert abs(stretch.end - 200) <= 4


@given(keyframes(), st.data(), st.integers(-600, 600), st.floats(-0.5, 0.5))
def test_moved_keyframes_never_pass_those_that_stay(keys, data, by, dx):
    pane = Pane(keys)
    frames = data.draw(st.sets(st.sampled_from([k.frame for k in keys]), min_size=1))
    moved, went = moved_keys(pane, TALL, PICTURE, frames, by, dx)
    assert len(moved.keys) == len(keys)
    assert abs(went) <= abs(by) + 0
    assert [k.frame in frames for k in keys] == [(k.frame - went) in frames for k in moved.keys] or went == 0
    assert {k for k in keys if k.frame not in frames} <= set(moved.keys)
    low = min(frames)
    assert any(s.start <= min(low, low + went) for s in moved.by_hand)


@given(keyframes(), st.integers(-50, 500))
def test_copies_land_where_they_are_put(keys, at):
    pane = copied_keys(Pane((Keyframe(0), Keyframe(300))), TALL, PICTURE, keys, at)
    there = [k.frame - at for k in pane.keys if at <= k.frame <= at + keys[-1].frame - keys[0].frame]
    assert there == [k.frame - keys[0].frame for k in keys]


@given(st.sampled_from([e for e in EASES if e != "hold"]), st.floats(0.1, 0.9), st.floats(0.02, 0.98))
def test_a_bent_curve_goes_through_the_place_it_was_dragged_to(ease, t, wanted):
    frame = round(t * 1000)
    pane = bent(Pane((Keyframe(0, 0.2, ease=ease), Keyframe(1000, 0.8))), frame, wanted)
    bend = pane.keys[0].bend
    come = [eased(k / 50, ease, bend) for k in range(51)]
    assert come[0] == 0
    assert come[-1] == pytest.approx(1)
    assert come == sorted(come)
    if 0.1 < bend < 0.9:
        assert way_come(pane, frame, key_at(pane, frame).cx, 0.5) == pytest.approx(wanted, abs=1e-6)
    assert eased_keys(pane, {0}, "linear").keys[0] == Keyframe(0, 0.2, ease="linear")


@given(st.floats(-60, 60), st.floats(0.4, 3), st.floats(0.3, 0.7))
def test_a_dragged_corner_sizes_and_the_turning_handle_turns(angle, factor, cx):
    pane = Pane((Keyframe(0, cx, zoom=1.4, angle=angle),))
    window = pane_window(pane, TALL, PICTURE, 0)
    for corner in window.corners():
        assert handle_at(window, *corner, 10, 40) == "size"
    assert handle_at(window, *turn_handle(window, 40), 10, 40) == "turn"
    assert handle_at(window, window.cx, window.cy, 10, 40) == "inside"
    assert handle_at(window, window.cx + 2000, window.cy, 10, 40) == ""
    corner = window.corners()[0]
    to = (window.cx + (corner[0] - window.cx) / factor, window.cy + (corner[1] - window.cy) / factor)
    tighter = zoomed(pane, TALL, PICTURE, size_factor(window, tuple(corner), to))
    assert tighter.keys[0].zoom == pytest.approx(1.4 * factor)
    by = turned_by(window, (window.cx + 100, window.cy), (window.cx, window.cy + 100))
    assert by == pytest.approx(90)
    assert turned(pane, TALL, PICTURE, 15).keys[0].angle == pytest.approx(angle + 15)
    exact = with_values(pane.keys[0], pane, TALL, PICTURE, x=960, y=540, zoom=2.0, angle=0.0)
    assert (exact.cx, exact.cy, exact.zoom) == (0.5, 0.5, 2.0)


def test_what_was_played_counts_until_it_changes_and_after_undo_again():
    doc, shot, analysis = two_people()
    doc = follow(doc, shot, TALL, [1], analysis)
    played = edits.set_played(doc, {("s0", TALL.id): look_of(doc, "s0", TALL.id), ("gone", TALL.id): "x"})
    assert noted(played) == {("s0", TALL.id): look_of(doc, "s0", TALL.id)}
    assert look_of(edits.set_verdict(doc, "s0", TALL.id, "agreed"), "s0", TALL.id) == look_of(doc, "s0", TALL.id)
    changed = follow(doc, shot, TALL, [2], analysis)
    assert look_of(changed, "s0", TALL.id) != look_of(doc, "s0", TALL.id)


@given(panes, st.integers(-50, 420))
def test_a_path_in_arrays_is_the_path_frame_by_frame(pane, frame):
    window = pane_window(pane, TALL, PICTURE, frame)
    box = window.bounds()
    left, top, right, foot = band(pane, TALL, PICTURE, np.array([frame]))[0]
    assert (left + right) / 2 * 1920 == pytest.approx(window.cx, abs=1e-4)
    assert (top + foot) / 2 * 1080 == pytest.approx(window.cy, abs=1e-4)
    assert ((right - left) * 1920, (foot - top) * 1080) == pytest.approx((box.width, box.height))


def test_slight_subjects_are_not_shown_unless_someone_has_chosen_them():
    doc, shot, analysis = two_people()
    first, second = subjects_in(doc, shot, analysis)
    slight = replace(second, importance=0.01 * first.importance)
    drawn = replace(slight, number=3, kind="drawn", boxes=slight.boxes * 0.5)
    assert worth_showing(Place(doc, shot, TALL), (first, second)) == (first, second)
    assert worth_showing(Place(doc, shot, TALL), (first, slight, drawn)) == (first, drawn)
    framing = doc.framing(shot.id, "t")
    pane = replace(framing.panes[0], choices=follow_choices(shot, (0, first), (100, slight)))
    chosen = edits.set_framings(doc, [replace(framing, panes=(pane,))])
    assert worth_showing(Place(chosen, shot, TALL), (first, slight)) == (first, slight)
    assert worth_showing(Place(chosen, shot, TALL), ()) == ()
