"""Framings given to others, to other shapes, taken back; panes; offers; gentle moves; set-ups."""

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest

from benchmarks.setups import sequence
from ezvar.core import edits
from ezvar.core.errors import ProjectError
from ezvar.core.framing import (
    ARRANGEMENTS,
    ARRANGEMENTS_KEPT,
    Place,
    Remedy,
    Size,
    carried,
    fit_zoom,
    key_at,
    pane_window,
    rects_of,
    remedies,
    resting,
    setups,
    shifted,
    solve_shot,
    subjects_in,
)
from ezvar.core.model import Arrangement, Choices, Keyframe, Pane, Rect, doubt
from ezvar.core.planning import following_the_window
from ezvar.core.timing import FrameRange

from ..deciding import (
    apply_remedy,
    arranged,
    give,
    heard,
    in_one_pane,
    in_two_panes,
    keep_both,
    put_by_hand,
    reset,
    shows,
    swapped,
    trim_to,
)
from ..sights import SQUARE, TALL, chosen, follow, one_shot, several_shots

PICTURE = Size(1920, 1080)
ALONE, PAIR, WALK = ((0.3, 0.3),), ((0.25, 0.25), (0.75, 0.75)), ((0.15, 0.85),)


def centre(doc, shot, frame=0, master=TALL):
    return pane_window(doc.framing(shot, master.id).panes[0], master, PICTURE, frame).cx / 1920


@pytest.mark.parametrize("part", ["position", "zoom", "everything"])
def test_a_framing_goes_to_its_set_up_and_agreed_ones_are_skipped(part):
    doc, analysis = several_shots(ALONE, ((0.4, 0.4),), ((0.5, 0.5),))
    tight = Pane((Keyframe(0, 0.6, 0.45, 1.5),))
    doc = put_by_hand(doc, doc.shots[0], TALL, tight, analysis)
    doc = edits.set_verdict(doc, "s2", "t", "agreed")
    before = doc.framing("s1", "t").panes[0].keys[0]
    given = give(doc, "s0", TALL, ["s0", "s1", "s2"], part, analysis)
    assert given.skipped == ("s2",)
    assert given.doc.framing("s2", "t") == doc.framing("s2", "t")
    got = given.doc.framing("s1", "t")
    assert got.decided == "from a set-up"
    key = got.panes[0].keys[0]
    assert (key.zoom == 1.5) == (part != "position")
    assert (abs(key.cx - 0.6) < 0.01) == (part != "zoom")
    if part == "zoom":
        assert abs(key.cx - before.cx) < 0.1
    assert doubt(got.reasons) > 0 or part == "zoom"  # judged anew where it now is
    assert solve_shot(Place(given.doc, doc.shots[1], TALL), subjects_in(doc, doc.shots[1], analysis)).panes == got.panes


def test_choices_given_to_a_set_up_solve_each_shot_for_itself():
    doc, analysis = several_shots(PAIR, PAIR, ((0.2, 0.2), (0.7, 0.7)))
    _, two = sorted(subjects_in(doc, doc.shots[0], analysis), key=lambda s: s.boxes[0, 0])
    asked = chosen(doc, doc.shots[0], TALL, subjects_in(doc, doc.shots[0], analysis), follow(doc.shots[0], (0, two)))
    given = give(edits.set_framings(doc, [asked]), "s0", TALL, ["s1", "s2"], "choices", analysis)
    assert centre(given.doc, "s1", 50) == pytest.approx(0.75, abs=0.05)
    assert centre(given.doc, "s2", 50) == pytest.approx(0.7, abs=0.05)


def test_a_framing_is_carried_to_another_shape():
    doc, analysis = several_shots(WALK)
    shot = doc.shots[0]
    made = carried(Place(doc, shot, TALL), SQUARE, analysis)
    for n in (0, 50, 99):
        here, there = key_at(doc.framing("s0", "t").panes[0], n).cx, key_at(made.panes[0], n).cx
        assert there == pytest.approx(np.clip(here, 0.28125, 0.71875), abs=0.03)
    whole = put_by_hand(doc, shot, TALL, resting(doc.framings[0].panes[0], TALL, PICTURE), analysis)
    assert carried(Place(whole, shot, TALL), SQUARE).panes[0].keys[0].zoom == pytest.approx(fit_zoom(PICTURE, 1.0))


@pytest.mark.parametrize("way", ["centre", "static", "solved"])
def test_many_shots_go_back_at_once(way):
    doc, analysis = several_shots(WALK, ALONE, WALK)
    solved = doc
    for shot in doc.shots:
        away = shifted(doc.framing(shot.id, "t").panes[0], TALL, PICTURE, -1, 0)
        doc = put_by_hand(doc, shot, TALL, away, analysis)
    doc = edits.set_verdict(doc, "s2", "t", "agreed")
    back = reset(doc, doc.shots, [TALL], way, analysis)
    assert back.skipped == ("s2",)
    for shot in doc.shots[:2]:
        framing = back.doc.framing(shot.id, "t")
        if way == "solved":
            assert framing == solved.framing(shot.id, "t")
        else:
            assert len(framing.panes[0].keys) == 1
            assert framing.decided == "by hand"
    assert way != "centre" or centre(back.doc, "s1") == 0.5
    assert way != "static" or abs(centre(back.doc, "s1") - 0.3) < 0.05
    assert reset(doc, doc.shots, [TALL], "solved", None).doc == doc


def test_a_stretch_goes_back_and_the_rest_stays_by_hand():
    doc, analysis = several_shots(WALK)
    shot = doc.shots[0]
    by_hand = Pane((Keyframe(0, 0.3), Keyframe(99, 0.4)))
    doc = put_by_hand(doc, shot, TALL, by_hand, analysis)
    back = reset(doc, [shot], [TALL], "solved", analysis, FrameRange(60, 100)).doc.framing("s0", "t").panes[0]
    still = reset(doc, [shot], [TALL], "static", analysis, FrameRange(60, 100)).doc.framing("s0", "t").panes[0]
    assert key_at(back, 99).cx > 0.7  # the walker again
    for pane in (back, still):
        assert key_at(pane, 0).cx == pytest.approx(0.3)
    assert len({key_at(still, n).cx for n in range(60, 100)}) == 1


def test_two_subjects_show_in_two_panes_and_go_back_to_one():
    doc, analysis = several_shots(PAIR)
    shot = doc.shots[0]
    pair = subjects_in(doc, shot, analysis)
    made = in_two_panes(doc, shot, TALL, pair, analysis)
    framing = made.framing("s0", "t")
    assert framing.arrangement == ARRANGEMENTS[0]
    for pane, at in zip(framing.panes, (0.25, 0.75), strict=True):
        w = pane_window(pane, TALL, PICTURE, 50)
        assert w.left / 1920 < at - 0.04 < at + 0.04 < (w.left + w.width) / 1920
        assert w.width / w.height == pytest.approx(1080 / (1920 * pane.rect.height))
    assert doubt(framing.reasons) < 40
    assert in_one_pane(made, shot, TALL, analysis).framing("s0", "t").panes == doc.framing("s0", "t").panes


def test_a_pane_can_show_another_shot():
    doc, analysis = several_shots(PAIR, ((0.6, 0.6),))
    made = in_two_panes(doc, doc.shots[0], TALL, subjects_in(doc, doc.shots[0], analysis), analysis)
    made = shows(made, doc.shots[0], TALL, 1, "s1", analysis)
    pane = made.framing("s0", "t").panes[1]
    assert pane.shot == "s1"
    assert pane_window(pane, TALL, PICTURE, 0).cx / 1920 == pytest.approx(0.6, abs=0.05)
    back = shows(made, doc.shots[0], TALL, 1, "", analysis).framing("s0", "t").panes[1]
    assert back.shot == ""
    with pytest.raises(KeyError):
        shows(made, doc.shots[0], TALL, 1, "nothing", analysis)


def test_another_arrangement_keeps_what_the_panes_show_and_new_ones_take_whom_nobody_follows():
    doc, analysis = several_shots(PAIR, ((0.6, 0.6),))
    shot = doc.shots[0]
    two = arranged(doc, shot, TALL, ARRANGEMENTS[1], analysis)
    places = [pane_window(p, TALL, PICTURE, 50).cx / 1920 for p in two.framing("s0", "t").panes]
    assert places == pytest.approx([0.25, 0.75], abs=0.06)
    shown = shows(heard(two, shot, TALL, 1), shot, TALL, 1, "s1", analysis)
    three = arranged(shown, shot, TALL, ARRANGEMENTS[3], analysis).framing("s0", "t")
    assert [p.shot for p in three.panes] == ["", "s1", ""]
    assert three.sound == 1
    assert pane_window(three.panes[2], TALL, PICTURE, 50).bounds().width > 0
    (other,) = three.panes[2].choices.follow
    assert other.subjects[0].box.x > 0.6
    back = swapped(shown, shot, TALL, 0, 1, analysis).framing("s0", "t")
    assert ([p.shot for p in back.panes], back.sound) == (["s1", ""], 0)
    assert [p.rect for p in back.panes] == [p.rect for p in two.framing("s0", "t").panes]
    by_hand = put_by_hand(two, shot, TALL, Pane((Keyframe(0, 0.4),), two.framing("s0", "t").panes[0].rect), analysis)
    wider = arranged(by_hand, shot, TALL, replace(ARRANGEMENTS[1], gap=0.1, border=0.05), analysis)
    assert [k.cx for k in wider.framing("s0", "t").panes[0].keys] == [0.4]
    assert wider.framing("s0", "t").panes[0].rect.width < by_hand.framing("s0", "t").panes[0].rect.width
    for missing in (
        lambda: swapped(two, shot, TALL, 1, 2, analysis),
        lambda: shows(doc, shot, TALL, 1, "s1", analysis),
    ):
        with pytest.raises(ValueError, match="no pane"):  # of several shots, some may have fewer
            missing()
    cut = trim_to(doc, shot, TALL, 0, Rect(0, 0.1, 1, 0.8), analysis).framing("s0", "t").panes[0]
    assert pane_window(cut, TALL, PICTURE, 0).height == pytest.approx(0.8 * 1080)


@pytest.mark.parametrize("arrangement", ARRANGEMENTS, ids=lambda a: a.name)
def test_panes_with_gaps_fill_the_frame_without_touching(arrangement):
    rects = rects_of(replace(arrangement, gap=0.02), TALL)
    for a, b in pairwise(rects):
        assert a.x + a.width < b.x or a.y + a.height < b.y
    assert min(r.x for r in rects) == min(r.y for r in rects) == 0
    assert max(r.x + r.width for r in rects) == pytest.approx(1)
    assert max(r.y + r.height for r in rects) == pytest.approx(1)


def test_arrangements_are_exchanged_as_json(tmp_path):
    file = tmp_path / "deep" / "mine.json"
    assert ARRANGEMENTS_KEPT.load(file) == ()
    mine = Arrangement("mine", (Rect(0, 0, 0.3, 1), Rect(0.3, 0, 0.7, 1)), 0.01, 0.002, "#ff8800")
    ARRANGEMENTS_KEPT.save([*ARRANGEMENTS, replace(mine, gap=0.0), mine], file)
    assert ARRANGEMENTS_KEPT.load(file) == (*ARRANGEMENTS, mine)
    file.write_text(file.read_text().replace('"width": 0.7', '"width": 1.7'))
    with pytest.raises(ProjectError, match="inside the frame"):
        ARRANGEMENTS_KEPT.load(file)


def test_every_offer_can_be_taken_and_does_what_it_says():
    doc, analysis = several_shots(PAIR, WALK)
    two = doc.shots[0]
    offers = {r.title: r for r in remedies(Place(doc, two, TALL), analysis)}
    kept = 1 if centre(doc, "s0") < 0.5 else 2
    assert any(t.startswith("Follow") for t in offers)
    assert {"Follow 1 and 2", "1 and 2, in two panes", "The whole picture on its backdrop"} <= set(offers)
    before = doubt(doc.framing("s0", "t").reasons)
    for offer in offers.values():
        taken = apply_remedy(Place(doc, two, TALL), offer, analysis)
        assert doubt(taken.framing("s0", "t").reasons) < before, offer
    (other,) = [r for r in offers.values() if r.kind == "follow" and len(r.subjects) == 1]
    assert (centre(apply_remedy(Place(doc, two, TALL), other, analysis), "s0") > 0.5) == (kept == 1)
    slow = edits.change_master(doc, replace(TALL, pace=0.2))
    solved = edits.set_framings(slow, [solve_shot(Place(slow, doc.shots[1], slow.masters[0]), subjects_in(
        doc, doc.shots[1], analysis))])  # fmt: skip
    named = {r.kind: r for r in remedies(Place(solved, doc.shots[1], solved.masters[0]), analysis)}
    assert {"pace", "whole"} <= set(named)
    quicker = apply_remedy(Place(solved, doc.shots[1], solved.masters[0]), named["pace"], analysis).framing("s1", "t")
    assert quicker.panes[0].choices.pace == pytest.approx(0.35)
    assert remedies(Place(doc, doc.shots[1], SQUARE), analysis) == [] or doubt(doc.framing("s1", "s").reasons) > 0


def test_a_window_that_holds_all_is_offered_room_to_move():
    doc, analysis = several_shots(((0.2, 0.2),))
    doc = edits.change_master(doc, wide := replace(TALL, width=1920, height=1080))
    doc = edits.set_framings(
        doc, [solve_shot(Place(doc, doc.shots[0], wide), subjects_in(doc, doc.shots[0], analysis))]
    )
    (offer,) = remedies(Place(doc, doc.shots[0], wide), analysis)
    taken = apply_remedy(Place(doc, doc.shots[0], wide), offer, analysis).framing("s0", "t")
    assert taken.panes[0].keys[0].zoom == 1.2
    assert taken.panes[0].keys[0].cx < 0.45


def test_a_still_is_given_a_gentle_move_that_suits_what_is_in_it():
    doc, shot = one_shot()
    gentle = Choices(move="gentle")
    pair = several_shots(PAIR, frames=250)
    for subjects, said in ((subjects_in(pair[0], pair[0].shots[0], pair[1]), "second subject"), ((), "most contrast")):
        framing = chosen(doc, shot, TALL, subjects, gentle)
        first, last = framing.panes[0].keys
        assert said in framing.why
        speed = abs(last.cx - first.cx) / (last.frame - first.frame) * 25
        assert speed <= 0.051
        for n in range(0, 250, 10):
            assert pane_window(framing.panes[0], TALL, PICTURE, n).covers(PICTURE, 1e-3)
    (one,) = subjects_in(pair[0], pair[0].shots[0], pair[1])[:1]
    closer = chosen(doc, shot, TALL, (one,), gentle).panes[0].keys
    assert 1 == closer[0].zoom < closer[1].zoom <= 1.12


def test_set_ups_of_dialogues_are_found():
    right = wrong = missed = 0
    for seed in (100, 101):
        analysis, shots, truth = sequence(seed)
        found = setups(analysis, shots)
        group = {s: k for k, members in enumerate(found) for s in members}
        for a, one in enumerate(shots):
            for b, other in enumerate(shots[:a]):
                said = group.get(one.id, -1) == group.get(other.id, -2)
                right += said and truth[a] == truth[b]
                wrong += said and truth[a] != truth[b]
                missed += not said and truth[a] == truth[b]
    assert right / (right + wrong) >= 0.98
    assert right / (right + missed) >= 0.9
    assert setups(analysis, shots[:1]) == []


def test_what_is_offered_and_done_is_of_the_pane_that_is_worked_on():
    """In two panes, one above the other: the second is the one that an offer, or its window's subject, is for."""
    analysis, doc, shot = _several_in_panes()
    place = Place(doc, shot, TALL, 1)
    assert place.pane is place.framing.panes[1]
    assert Place(doc, shot, TALL, 7).at == 1  # the last one there
    before = place.framing.panes
    for kind in ("looser", "whole", "pace", "text"):
        changed = apply_remedy(place, Remedy(kind, ""), analysis).framing(shot.id, TALL.id)
        assert changed.panes[0] == before[0], kind
        assert changed.panes[1] != before[1], kind
    followed = following_the_window(place, shot.start + 5, analysis).framing(shot.id, TALL.id)
    assert followed.panes[0] == before[0]
    assert followed.panes[1].choices.follow


def _several_in_panes():
    doc, analysis = several_shots(((0.2, 0.2), (0.8, 0.8)))
    doc = edits.set_framings(
        doc, [solve_shot(Place(doc, doc.shots[0], TALL), subjects_in(doc, doc.shots[0], analysis))]
    )
    return analysis, keep_both(doc, doc.shots[0], TALL, analysis, panes=True), doc.shots[0]
