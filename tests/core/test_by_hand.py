"""Paths that an editor takes over, in whole or in part."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ezvar.core import edits
from ezvar.core.framing import (
    Place,
    Size,
    key_at,
    pane_window,
    resting,
    solve_shot,
    standing,
    stands,
    with_key,
    without_keys,
    zoomed,
)
from ezvar.core.framing import trimmed as trim_pane
from ezvar.core.framing.paths.hand_stretches import fixed_at, whole_stretches
from ezvar.core.model import MOST_HELD, Keyframe, Pane, Rect
from ezvar.core.timing import FrameRange

from ..deciding import put_by_hand
from ..sights import TALL, one_shot, people
from ..strategies import panes

PICTURE = Size(1920, 1080)


@pytest.fixture
def walked():
    """A walker's solved framing in a tall master: the document, the shot, the subjects."""
    doc, shot = one_shot()
    walker = people((0.15, 0.85))
    return edits.set_framings(doc, [solve_shot(Place(doc, shot, TALL), walker)]), shot, walker


@pytest.mark.parametrize("end", [0, -1])
def test_an_edited_stretch_stays_and_the_rest_is_solved_to_meet_it(walked, end):
    doc, shot, walker = walked
    pane = doc.framings[0].panes[0]
    key = pane.keys[end]
    edited = with_key(pane, TALL, PICTURE, replace(key, cx=key.cx - 0.08, frame=key.frame + 3))
    doc = put_by_hand(doc, shot, TALL, edited, None)
    again = solve_shot(Place(doc, shot, TALL), walker)
    (stretch,) = whole_stretches(again.panes[0])
    for n in range(stretch.start, stretch.end):
        assert key_at(again.panes[0], n).cx == pytest.approx(key_at(edited, n).cx, abs=1e-6)
    path = np.array([key_at(again.panes[0], n).cx for n in range(250)])
    assert np.abs(np.diff(path)).max() < 0.02  # it meets, nothing jumps
    assert again.decided == "by hand"
    assert solve_shot(Place(edits.set_framings(doc, [again]), shot, TALL), walker) == again


def test_a_window_put_at_two_moments_is_joined_by_what_is_solved_between(walked):
    doc, shot, walker = walked
    still = Pane((Keyframe(0, 0.5),))
    for frame, at in ((10, 0.3), (240, 0.4)):
        still = with_key(replace(still, by_hand=still.by_hand), TALL, PICTURE, Keyframe(frame, at))
    ends = replace(still, by_hand=(FrameRange(0, 11), FrameRange(240, 241)))
    again = solve_shot(Place(put_by_hand(doc, shot, TALL, ends, None), shot, TALL), walker).panes[0]
    assert (key_at(again, 10).cx, key_at(again, 240).cx) == pytest.approx((0.3, 0.4))
    assert key_at(again, 200).cx > 0.5  # the walker is followed in between


@given(panes)
def test_stretches_by_hand_are_held_fixed_where_their_path_is(pane):
    frames = np.arange(0, 405, 5)
    fixed = fixed_at(pane, frames)
    for stretch in whole_stretches(pane):
        for k in np.flatnonzero((frames >= stretch.start) & (frames < stretch.end)):
            key = key_at(pane, int(frames[k]))
            assert tuple(fixed[k]) == (key.cx, key.cy)
    if not pane.by_hand:
        assert np.isnan(fixed).all()


@given(panes, st.floats(-0.2, 1.2), st.floats(1, 3), st.floats(1, 2))
def test_set_zoomed_and_deleted_keyframes_show_no_edge(pane, at, zoom, factor):
    pane = replace(pane, keys=tuple(replace(k, zoom=max(k.zoom, 1.0)) for k in pane.keys), trim=Rect())
    frame = pane.keys[0].frame + 3
    put = with_key(pane, TALL, PICTURE, Keyframe(frame, at, at, zoom))
    for changed in (put, zoomed(pane, TALL, PICTURE, factor), without_keys(pane, frame - 10, frame)):
        for key in changed.keys:
            assert pane_window(changed, TALL, PICTURE, key.frame).covers(PICTURE, 1e-3)
    assert any(frame in s for s in put.by_hand)


def test_deleting_every_keyframe_leaves_a_window_that_rests():
    pane = Pane((Keyframe(0, 0.3), Keyframe(100, 0.6)))
    left = without_keys(pane, 0, 100)
    assert [(k.frame, k.cx) for k in left.keys] == [(0, 0.3)]
    assert left.by_hand == (FrameRange(0, 101),)
    assert without_keys(pane, 20, 30) == pane


def test_a_trimmed_picture_stands_larger_and_where_it_is_put():
    pane = resting(Pane((Keyframe(0),)), TALL, PICTURE)
    trimmed = resting(replace(pane, trim=Rect(0.1, 0, 0.8, 1)), TALL, PICTURE)
    whole, part = (pane_window(p, TALL, PICTURE, 0) for p in (pane, trimmed))
    assert part.width == pytest.approx(0.8 * whole.width)
    assert part.cx == pytest.approx(960)
    high, low = (pane_window(standing(trimmed, TALL, PICTURE, h), TALL, PICTURE, 0) for h in (1.0, -1.0))
    assert high.top == pytest.approx(0, abs=1e-6)
    assert low.top + low.height == pytest.approx(1080)
    assert standing(Pane((Keyframe(0),)), TALL, PICTURE, 1.0) == Pane((Keyframe(0),))
    assert stands(Pane((Keyframe(0),)), TALL, PICTURE, 0) is None


@given(st.floats(-1, 1), st.floats(0, 0.45), st.floats(0, 0.45), st.floats(0, 0.45), st.floats(0, 0.45))
def test_a_trimmed_whole_picture_shows_all_that_is_left_and_stands_where_it_is_put(height, left, right, top, foot):
    whole = resting(Pane((Keyframe(0),)), TALL, PICTURE)
    trim = Rect(left, top, 1 - left - right, 1 - top - foot)
    pane = trim_pane(whole, TALL, PICTURE, trim)
    window = pane_window(pane, TALL, PICTURE, 0)
    assert max(window.width / (1920 * trim.width), window.height / (1080 * trim.height)) >= 1 - 1e-6
    assert min(window.width / (1920 * trim.width), window.height / (1080 * trim.height)) == pytest.approx(1)
    at = stands(standing(pane, TALL, PICTURE, height), TALL, PICTURE, 0)
    assert at is None or at == pytest.approx(height, abs=1e-3)
    filling = Pane((Keyframe(0, 0.3), Keyframe(20, 0.6)))
    assert [k.zoom for k in trim_pane(filling, TALL, PICTURE, trim).keys] == [1, 1]


def test_up_to_three_alternatives_are_held_swapped_and_let_go(walked):
    doc, shot, _ = walked
    first = doc.framings[0]
    doc = edits.hold(doc, "shot", "t")
    doc = put_by_hand(doc, shot, TALL, resting(first.panes[0], TALL, PICTURE), None)
    swapped = edits.swap_held(doc, "shot", "t", 0)
    assert swapped.framings[0].panes == first.panes
    assert swapped.framings[0].held[0].panes == doc.framings[0].panes
    for _ in range(MOST_HELD - 1):
        doc = edits.hold(doc, "shot", "t")
    with pytest.raises(ValueError, match="at most 3"):
        edits.hold(doc, "shot", "t")
    assert edits.keep_present(doc, "shot", "t").framings[0].held == ()
