"""What an editor asks of the solver."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ezvar.core import edits
from ezvar.core.framing import NEEDS_A_LOOK, Place, Size, Tally, fit_zoom, pane_window, solve_shot, subjects_in
from ezvar.core.model import Choices, Drawn, Rect, doubt

from ..sights import SQUARE, TALL, chosen, follow, one_shot, people, span
from ..strategies import documents

PICTURE = Size(1920, 1080)


def test_the_chosen_subject_is_followed_and_known_again_in_other_masters():
    doc, shot = one_shot()
    one, two = people((0.2, 0.2), (0.8, 0.8))
    assert abs(span(solve_shot(Place(doc, shot, TALL), (one, two)), 100, doc)[1] - 0.2) < 0.05
    for master in (TALL, SQUARE):
        framing = chosen(doc, shot, master, (one, two), follow(shot, (0, two)))
        left, _, right = span(framing, 100, doc, master)
        assert left < 0.75 < 0.84 < right
        assert doubt(framing.reasons) < NEEDS_A_LOOK  # the other one is left out on purpose


def test_a_chosen_subject_that_is_no_longer_found_is_said():
    doc, shot = one_shot()
    one, two = people((0.2, 0.2), (0.8, 0.8))
    framing = chosen(doc, shot, TALL, (one,), follow(shot, (0, two)))
    assert doubt(framing.reasons) >= NEEDS_A_LOOK
    assert abs(span(framing, 100, doc)[1] - 0.2) < 0.05  # the solver chooses by itself meanwhile


def test_both_are_kept_by_loosening_unless_the_zoom_is_bounded():
    doc, shot = one_shot()
    pair = people((0.25, 0.25), (0.75, 0.75))
    both = follow(shot, (0, *pair))
    framing = chosen(doc, shot, TALL, pair, both)
    assert fit_zoom(PICTURE, 9 / 16) < framing.panes[0].keys[0].zoom < 1
    left, _, right = span(framing, 0, doc)
    assert left < 0.21 < 0.79 < right
    assert "backdrop" in framing.why
    bounded = chosen(doc, shot, TALL, pair, replace(both, loosest=1.0))
    assert bounded.panes[0].keys[0].zoom == 1.0
    assert doubt(bounded.reasons) >= NEEDS_A_LOOK


def test_first_this_then_that_moves_at_the_frame_of_change():
    doc, shot = one_shot()
    one, two = people((0.2, 0.2), (0.8, 0.8))
    framing = chosen(doc, shot, TALL, (one, two), follow(shot, (0, one), (120, two)))
    assert abs(span(framing, 20, doc)[1] - 0.2) < 0.08
    assert abs(span(framing, 230, doc)[1] - 0.8) < 0.08
    assert 2 <= len(framing.panes[0].keys) <= 4
    assert 0.3 < span(framing, 120, doc)[1] < 0.7


@pytest.mark.parametrize("place", [1 / 3, 2 / 3])
def test_a_place_in_the_window_and_headroom_are_given_where_there_is_room(place):
    doc, shot = one_shot()
    (one,) = people((0.5, 0.5))
    left, _, right = span(chosen(doc, shot, SQUARE, (one,), Choices(place=place)), 0, doc, SQUARE)
    assert (0.5 - left) / (right - left) == pytest.approx(place, abs=0.02)
    tight = chosen(doc, shot, SQUARE, (one,), Choices(headroom=0.2, loosest=1.5, tightest=1.5))
    w = pane_window(tight.panes[0], SQUARE, PICTURE, 0)
    assert w.height == pytest.approx(1080 / 1.5)
    face = one.boxes[0, [1, 3]].mean() * 1080
    assert 0.1 < (w.cy - face) / w.height <= 0.3
    with pytest.raises(ValueError, match="within the window"):
        Choices(place=1.4)


def test_look_room_can_be_left_out():
    doc, shot = one_shot()
    looking = (replace(people((0.5, 0.5))[0], look=1.0),)
    with_room, without = (
        span(chosen(doc, shot, SQUARE, looking, Choices(look_room=room)), 0, doc, SQUARE)[1] for room in (True, False)
    )
    assert with_room > without + 0.01


def test_the_zoom_tightens_and_loosens_within_its_bounds_only():
    doc, shot = one_shot()
    alone, pair = people((0.5, 0.5)), people((0.3, 0.3), (0.7, 0.7))
    zooms = [
        chosen(doc, shot, master, group, choices).panes[0].keys[0].zoom
        for master, group, choices in (
            (SQUARE, alone, Choices(tightest=1.6)), (TALL, alone, Choices()), (TALL, alone, Choices(loosest=0.2)),
            (TALL, pair, Choices(loosest=0.2)),
        )
    ]  # fmt: skip
    assert zooms[:3] == [pytest.approx(1.6), 1.0, 1.0]
    assert 0.2 < zooms[3] < 1
    with pytest.raises(ValueError, match="loosest below"):
        Choices(loosest=2.0, tightest=1.0)


def test_pace_of_a_shot_takes_the_place_of_the_masters():
    doc, shot = one_shot()
    walker = people((0.15, 0.85))
    doc = edits.change_master(doc, still := replace(TALL, pace=0.0))
    assert len(chosen(doc, shot, still, walker, Choices()).panes[0].keys) == 1
    assert len(chosen(doc, shot, still, walker, Choices(pace=0.6)).panes[0].keys) > 1
    with pytest.raises(ValueError, match="pace"):
        replace(TALL, pace=1.1)


def test_a_window_that_holds_all_says_so_and_what_would_change_it():
    doc, shot = one_shot()
    doc = edits.change_master(doc, wide := replace(TALL, width=1920, height=1080))
    assert "already holds all there is; trim" in solve_shot(Place(doc, shot, wide), people((0.2, 0.2))).why


def test_a_drawn_subject_is_followed_and_numbered_after_the_found_ones():
    doc, shot = one_shot()
    found = people((0.2, 0.2))
    boxes = tuple(Rect(0.6 + 0.001 * n, 0.5, 0.1, 0.1) for n in range(0, 200, 4))
    doc = edits.draw_subject(doc, Drawn("d", "shot", 100, tuple(range(0, 200, 4)), boxes, after="It leaves."))

    class Seen:
        def subjects(self, start, end, shape):
            return found

    subjects = subjects_in(doc, shot, Seen())
    assert [(s.kind, s.number) for s in subjects] == [("drawn", 2), ("face", 1)]
    framing = solve_shot(Place(doc, shot, TALL), subjects)
    assert "drawn" in framing.why
    for n in (0, 100, 190, 249):
        box = boxes[min(n // 4, len(boxes) - 1)]
        left, _, right = span(framing, n, doc)
        assert left - 0.002 <= box.x
        assert box.x + box.width <= right + 0.002


def test_what_was_chosen_and_drawn_stays_where_it_is_in_time_when_cuts_change():
    doc, shot = one_shot()
    walker = people((0.15, 0.85))
    choices = follow(shot, (50, walker[0]))
    framing = chosen(doc, shot, TALL, walker, choices)
    doc = edits.draw_subject(edits.set_framings(doc, [framing]), Drawn("d", "shot", 50, (50,), (Rect(),)))
    split = edits.add_cut(doc, 40)
    later = split.shots[1]
    assert split.framing(later.id, "t").panes[0].choices.follow[0].frame == 10
    assert [d.frames for d in split.drawn if d.shot == later.id] == [(10,)]
    back = edits.remove_cut(split, later.id)
    assert back.framing("shot", "t").panes[0].choices == choices
    assert {d.shot for d in back.drawn} == {"shot"}


@given(documents(), st.data())
def test_a_tally_counted_on_is_as_one_counted_anew(doc, data):
    tally = Tally()
    for _ in range(4):
        framings = tally.count(doc.framings)
        asks = tuple(f for f in doc.framings if f.doubt >= NEEDS_A_LOOK and f.verdict != "agreed")
        assert framings.waiting == asks
        assert framings.changes == sum(f.verdict == "change" for f in doc.framings)
        assert framings.all_agreed == (bool(doc.framings) and all(f.verdict == "agreed" for f in doc.framings))
        if doc.framings:
            one = data.draw(st.sampled_from(doc.framings))
            doc = edits.set_verdict(doc, one.shot, one.master, data.draw(st.sampled_from(["open", "agreed", "change"])))
        if len(doc.masters) > 1 and data.draw(st.booleans()):
            doc = edits.remove_master(doc, doc.masters[0].id)
