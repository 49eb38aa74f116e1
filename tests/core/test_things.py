"""People and things: found whichever way they look, steadied by movement, joined to one subject a being."""

from dataclasses import replace

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ezvar.core import edits
from ezvar.core.evidence import Analysis, Evidence, Finders, Region, looked, subjects_of
from ezvar.core.evidence.finders.flow import FLOW, GRID, UNIT, flow_in_mirror
from ezvar.core.evidence.finders.mirror import in_mirror
from ezvar.core.evidence.finders.moving import SIZE, camera_in_mirror
from ezvar.core.evidence.finders.things import ThingFinder
from ezvar.core.evidence.gather import KINDS, LOOK, ROW
from ezvar.core.evidence.joining.drift import Drift
from ezvar.core.evidence.joining.people import untangled, with_moving_bodies
from ezvar.core.evidence.joining.steadying import steadied
from ezvar.core.evidence.joining.tracks import Track
from ezvar.core.evidence.recent import Recent, gone
from ezvar.core.framing import (
    NEEDS_A_LOOK,
    Place,
    apply_remedy,
    bars_said,
    crop_windows,
    enlarged_by_shape,
    framed,
    remedies,
    solve,
    solve_shot,
    subjects_in,
)
from ezvar.core.framing.doubt.doubts import together
from ezvar.core.media import MovieReader, Picture, Planes
from ezvar.core.model import Choices, Master, Reason, Rect, doubt
from ezvar.core.store import load_project
from ezvar.demo import DEMO_PROJECT

from ..sights import TALL, analysis_with, faces_seen, one_shot, span

STEP = 4


def flows(moved, frames):
    """Flow of a stretch in which all of the picture moves ``moved`` widths from look to look."""
    made = np.zeros(len(range(STEP, frames, STEP)), FLOW)
    made["frame"] = range(STEP, frames, STEP)
    made["moved"][:, 0] = round(moved / UNIT)
    return made


def seen(every=16, frames=250, **kinds):
    """Evidence of things by kind: a function from frame to (x, y, width, height, confidence), or None."""
    rows, looks = [], []
    for kind, at in kinds.items():
        for n in range(0, frames, every):
            looks.append((n, KINDS.index(kind)))
            if (box := at(n)) is not None:
                rows.append((n, KINDS.index(kind), box[:4], box[4], 1.0, 0.0))
    return Evidence(np.array(sorted(rows), ROW), np.array(sorted(looks), LOOK), tuple(kinds))


def with_movement(evidence, at, first=4, last=246):
    """Evidence, and one thing that moves in each look: a function from frame to (box, strength)."""
    moving, frames = KINDS.index("moving"), range(first, last, STEP)
    rows = [(n, moving, box, 0.9, strength, 0.0) for n, (box, strength) in ((n, at(n)) for n in frames)]
    looks = sorted([*evidence.looks.tolist(), *((n, moving) for n in frames)])
    return replace(evidence, rows=np.array(sorted([*evidence.rows.tolist(), *rows]), ROW),
                   looks=np.array(looks, LOOK), finders=KINDS)  # fmt: skip


def person(x, **other):
    return lambda n: (x if isinstance(x, float) else x(n), 0.2, 0.1, 0.6, other.get("sure", 0.8))


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 1000), st.sampled_from([-0.0125, 0.0, 0.00625, 0.0125]))
def test_what_moves_with_the_picture_is_steadier_than_its_sights(seed, moved):
    rng = np.random.default_rng(seed)
    frames = list(range(0, 241, 16))
    true = 0.5 - moved * 30 + moved * np.array(frames) / STEP
    rough = true + rng.normal(0, 0.02, len(frames))
    track = Track(frames, [Region("thing", float(x) - 0.1, 0.3, 0.2, 0.4, 0.6) for x in rough])
    looks, boxes, _ = steadied(track, Drift(flows(moved, 245), STEP), 90, 25)
    middles = (boxes[:, 0] + boxes[:, 2]) / 2
    wanted = 0.5 - moved * 30 + moved * looks / STEP
    inside = (wanted > 0.12) & (wanted < 0.88)  # elsewhere the picture's edge cuts its box
    assert list(looks) == list(range(0, 241, STEP))
    assert np.abs(middles - wanted)[inside].max() < max(0.015, np.abs(rough - true).max())


@given(st.sampled_from([-0.05, -0.025, 0.025, 0.05]), st.integers(1, 6))
def test_a_box_is_carried_there_and_back(moved, steps):
    drift, box = Drift(flows(moved, 100), STEP), np.array([0.4, 0.3, 0.6, 0.7])
    there = drift.carried(box, 20, 20 + STEP * steps)
    assert there[20 + STEP * steps][0] == pytest.approx(0.4 + moved * steps, abs=0.01)
    back = drift.carried(there[20 + STEP * steps], 20 + STEP * steps, 20)
    assert back[20] == pytest.approx(box, abs=1e-6)
    assert drift.carried(np.array([0.5, 0.5, 0.5 + 1 / GRID[0], 0.9]), 20, 40) == {}  # too small to read it off


def test_a_hand_and_what_it_holds_are_one_and_the_thing_is_kept():
    cup = {"thing": lambda n: (0.4, 0.2, 0.16, 0.6, 0.55), "person": lambda n: (0.5, 0.3, 0.5, 0.4, 0.5)}
    (one,) = subjects_of(seen(**cup), 0, 250)
    assert one.kind == "thing"
    assert one.box_at(100) == pytest.approx((0.4, 0.2, 0.56, 0.8), abs=0.02)
    assert one.around_at(np.array([100]))[0, 2] > 0.6  # with some of the hand


@settings(max_examples=20, deadline=None)
@given(st.integers(0, 1000), st.booleans())
def test_what_a_hand_swings_is_followed_whatever_each_look_takes_it_for(seed, mirrored):
    """An arm reaches in from a side and swings a cup; each look takes either of them for something else."""
    rng = np.random.default_rng(seed)

    def swung(n):
        return 0.45 - 0.0012 * n

    rows, looks = [], []
    for n in range(0, 250, 16):
        wide = {"cup": (swung(n), 0.3, 0.16, 0.6), "arm": (swung(n) + 0.05, 0.35, 0.95 - swung(n), 0.4)}
        looks += [(n, KINDS.index(kind)) for kind in ("person", "vehicle", "thing")]
        for what, (x, y, w, h) in wide.items():
            kind = str(
                rng.choice(["person", "vehicle", "thing"], p=[0.3, 0.2, 0.5] if what == "cup" else [0.8, 0.2, 0])
            )
            left = 1 - x - w if mirrored else x
            rows.append((n, KINDS.index(kind), (left, y, w, h), rng.uniform(0.42, 0.65), 1.0, 0.0))
    found = subjects_of(Evidence(np.array(rows, ROW), np.array(looks, LOOK), ("person", "vehicle", "thing")), 0, 250)
    assert found[0].kind == "thing"
    at = [found[0].box_at(n)[0] for n in (0, 64, 128, 192)]
    wanted = [swung(n) for n in (0, 64, 128, 192)]
    assert at == pytest.approx([1 - x - 0.16 for x in wanted] if mirrored else wanted, abs=0.03)
    assert all(other.importance < 0.5 * found[0].importance for other in found[1:])


@given(st.integers(4, 10), st.integers(0, 2))
def test_two_who_pass_each_other_keep_their_own_figures(turn, unsure):
    """One comes from the left, one from the right; where they meet, each figure's track goes on with the other."""
    frames = list(range(0, 240, 16))
    ways = [np.linspace(0.1, 0.7, 15), np.linspace(0.7, 0.1, 15)]
    faces = [Track(frames, [Region("face", x + 0.08, 0.25, 0.04, 0.08, 0.8) for x in way]) for way in ways]
    mixed = []
    for k in (0, 1):
        way = [ways[k if j < turn else 1 - k][j] for j in range(15) if not turn <= j < turn + unsure]
        at = [n for j, n in enumerate(frames) if not turn <= j < turn + unsure]
        mixed.append(Track(at, [Region("person", x, 0.2, 0.2, 0.7, 0.6) for x in way]))
    apart = untangled(mixed, faces)
    assert len(apart) == 2
    for figure, way in zip(apart, ways, strict=True):
        assert [r.x for r in figure.regions] == [way[frames.index(n)] for n in figure.frames]
    assert untangled([Track(frames, [Region("person", x, 0.2, 0.2, 0.7, 0.6) for x in ways[0]])], faces[:1])


def test_what_is_seen_now_and_then_counts_less_than_what_is_seen_in_each_look():
    now_and_then, always = (
        subjects_of(seen(person=lambda n, each=each: (0.4, 0.2, 0.1, 0.6, 0.7) if n % each == 0 else None), 0, 250)
        for each in (64, 16)
    )
    assert now_and_then[0].importance < 0.5 * always[0].importance


@pytest.mark.parametrize(("sure", "kind"), [(0.4, "person"), (0.8, "face")])
def test_who_is_far_away_counts_as_a_figure_however_little_is_seen_of_the_face(sure, kind):
    """A face of a few pixels that is guessed at, on somebody who is seen surely, must not make them count less."""
    walks = {
        "face": lambda n: (0.13 + 0.002 * n, 0.22, 0.02, 0.04, sure), "person": person(lambda n: 0.1 + 0.002 * n)
    }  # fmt: skip
    alone, (one,) = subjects_of(seen(person=walks["person"]), 0, 250)[0], subjects_of(seen(**walks), 0, 250)
    assert one.kind == kind
    if kind == "person":
        assert one.importance == pytest.approx(alone.importance)


def test_who_turns_away_stays_the_same_and_a_rider_is_one_with_what_carries_them():
    face = {"face": lambda n: (0.43, 0.22, 0.05, 0.1, 0.9) if n < 120 else None, "person": person(0.4)}
    (one,) = subjects_of(seen(**face), 0, 250)
    assert one.kind == "face"
    assert one.there(np.arange(0, 240)).all()
    assert one.around_at(np.array([200]))[0] == pytest.approx((0.4, 0.2, 0.5, 0.8), abs=0.02)
    ridden = {
        "person": person(lambda n: 0.1 + 0.002 * n),
        "vehicle": lambda n: (0.06 + 0.002 * n, 0.45, 0.18, 0.4, 0.7),
    }
    (rider,) = subjects_of(seen(**ridden), 0, 250)
    assert rider.kind == "person"
    left, _, right, foot = rider.around_at(np.array([100]))[0]
    assert (left, right, foot) == pytest.approx((0.26, 0.44, 0.85), abs=0.02)


@settings(max_examples=20, deadline=None)
@given(st.integers(0, 1000))
def test_a_mirrored_shot_has_the_mirrored_subjects_and_window(seed):
    rng = np.random.default_rng(seed)
    starts, speeds = rng.uniform(0.05, 0.85, 3), rng.uniform(-0.001, 0.001, 3)
    sure = rng.uniform(0.35, 0.9, (3, 250))
    rows, looks = [], [(n, KINDS.index("person")) for n in range(0, 250, 16)]
    for n, _ in looks:
        for k in range(3):
            x = float(np.clip(starts[k] + speeds[k] * n, 0, 0.9))
            rows.append((n, KINDS.index("person"), (x, 0.2, 0.06 + 0.02 * k, 0.5), sure[k, n], 1.0, 0.0))
    plain = Evidence(np.array(rows, ROW), np.array(looks, LOOK), KINDS)
    turned = plain.rows.copy()
    turned["box"][:, 0] = 1 - turned["box"][:, 0] - turned["box"][:, 2]
    doc, shot = one_shot()
    middles = []
    for evidence in (plain, replace(plain, rows=turned)):
        subjects = subjects_in(doc, shot, analysis_with(evidence))
        made = edits.set_framings(doc, [solve_shot(Place(doc, shot, TALL), subjects)])
        middles.append(np.array([w.window.cx / 1920 for w in crop_windows(made, TALL)]))
    assert np.abs(middles[0] - (1 - middles[1])).max() < 0.03


def test_a_crowd_of_whom_no_window_keeps_all_is_shown_where_most_are_and_not_followed():
    people = {n: [0.0, 0.07, 0.15, 0.23, 0.3, 0.85] for n in range(0, 250, 16)}
    number = KINDS.index("person")
    rows = [(n, number, (x, 0.2, 0.1, 0.6), 0.8, 1.0, 0.0) for n, xs in people.items() for x in xs]
    crowd = Evidence(np.array(rows, ROW), np.array([(n, number) for n in people], LOOK), KINDS)
    doc, shot = one_shot()
    framing = solve_shot(Place(doc, shot, TALL), subjects_in(doc, shot, analysis_with(crowd)))
    assert "most people are" in framing.why
    assert 0.15 < framing.panes[0].keys[0].cx < 0.3


def test_movement_gives_the_outline_of_what_the_finder_doubts():
    """An arm is half seen, and sometimes, of hands that work; someone surely seen keeps the outline that was found."""
    hands, arm, found = (0.35, 0.55, 0.5, 0.35), (0.36, 0.56, 0.3, 0.34), {}
    for sure in (0.51, 0.8):
        both = with_movement(seen(person=lambda n, sure=sure: (*arm, sure)), lambda n: (hands, 1.0))
        found[sure] = subjects_of(both, 0, 250)
    assert [s.kind for s in found[0.51]] == ["work"]
    left, _, right, _ = found[0.51][0].box_at(120)
    assert abs((left + right) / 2 - 0.6) < 0.02
    assert [s.kind for s in found[0.8]] == ["person"]


@given(st.sampled_from(["animal", "vehicle", "thing"]), st.floats(0.4, 0.8), st.sampled_from([1, -1]))
@settings(max_examples=15, deadline=None)
def test_who_goes_before_a_place_that_is_taken_for_a_thing_is_followed(kind, sure, side):
    def walks(n):
        x = 0.1 + 0.003 * n
        return ((x if side > 0 else 1 - x - 0.08), 0.4, 0.08, 0.35), 1.0

    doc, shot = one_shot()
    analysis = analysis_with(with_movement(seen(**{kind: lambda n: (0.03, 0.05, 0.9, 0.9, sure)}), walks))
    made = edits.set_framings(doc, [solve_shot(Place(doc, shot, TALL), subjects_in(doc, shot, analysis))])
    for w in list(crop_windows(made, TALL))[8:240:8]:
        (left, _, wide, _), _ = walks(w.frame)
        assert abs(1920 * (left + wide / 2) - w.window.cx) < (w.window.width - 1920 * wide) / 2 + 20


@pytest.mark.parametrize("x", [0.1, 0.75])
def test_what_moves_while_all_else_rests_decides_however_small_it_is(x):
    shake = np.random.default_rng(7)
    hands = with_movement(
        seen(sport=lambda n: (x, 0.5, 0.12, 0.15, 0.45)),
        lambda n: (tuple(shake.uniform((x, 0.5, 0.05, 0.06), (x + 0.05, 0.55, 0.1, 0.12))), 1.0),
    )
    doc, shot = one_shot()
    subjects = subjects_in(doc, shot, analysis_with(hands))
    key = solve_shot(Place(doc, shot, TALL), subjects, contrast=(0.5, 0.5)).panes[0].keys[0]
    assert abs(key.cx - (x + 0.06)) < 0.12
    elsewhere = with_movement(seen(), lambda n: ((0.1 + 0.7 * shake.random(), 0.4, 0.1, 0.1), 0.3))
    assert all(s.importance < 0.14 for s in subjects_of(elsewhere, 0, 250))


@pytest.mark.parametrize("side", [1, -1])
@pytest.mark.parametrize("sights", [0, 1, 2])
def test_what_comes_in_and_alone_moves_is_followed_however_little_else_is_known_of_it(side, sights):
    """Leaves move all through; a hand comes in at the end, which the finder sees seldom or never."""

    def turned(x, y, width, height):
        return (x if side > 0 else 1 - x - width, y, width, height)

    moving, shake = KINDS.index("moving"), np.random.default_rng(3)
    rows = [(n, moving, turned(*shake.uniform((0.1, 0.0, 0.2, 0.3), (0.5, 0.2, 0.4, 0.5))), 0.9, 0.6, 0.0)
            for n in range(4, 200, 4)]  # fmt: skip
    ways = {n: turned(1.2 - n / 400, 0.0, min(0.4, n / 400 - 0.2), 0.7) for n in range(200, 244, 4)}
    rows += [(n, moving, box, 1.0, 0.97, 0.0) for n, box in ways.items()]
    being = seen(animal=lambda n: (*ways[n], 0.52) if n in (208, 224)[:sights] else None)
    looks = [*being.looks.tolist(), *((n, moving) for n in range(4, 244, 4))]
    both = replace(being, rows=np.array(sorted([*being.rows.tolist(), *rows]), ROW), finders=KINDS,
                   looks=np.array(sorted(looks), LOOK))  # fmt: skip
    first = subjects_of(both, 0, 250)[0]
    assert (first.kind, first.frames[0]) == ("moving", 200)
    doc, shot = one_shot()
    framing = solve_shot(Place(doc, shot, TALL), subjects_in(doc, shot, analysis_with(both)))
    assert "what moves" in framing.why
    assert side * (framing.panes[0].keys[0].cx - 0.5) > 0.2


@pytest.mark.parametrize("side", [1, -1])
def test_what_crosses_swiftly_is_gone_after_or_doubted(side):
    """It goes half its width from look to look, its feet below the picture; nothing else moves."""
    moving = KINDS.index("moving")

    def crossing(first, step):
        ways = {n: -0.15 + step * (n - first) / STEP for n in range(first, 250 - STEP, STEP)}
        ways = {n: max(0.0, x) for n, x in ways.items() if -0.15 < x < 0.9}
        rows = [(n, moving, (x if side > 0 else 0.85 - x, 0.35, 0.15, 0.65), 1.0, 0.97, 0.0) for n, x in ways.items()]
        looks = [(n, moving) for n in range(STEP, 250 - STEP, STEP)]
        return Evidence(np.array(rows, ROW), np.array(looks, LOOK), KINDS), max(ways)

    doc, shot = one_shot()
    for first, step in ((40, 0.07), (200, 0.1)):  # the second is gone before a window could turn to it
        made, last = crossing(first, step)
        subjects = subjects_in(doc, shot, analysis_with(made))
        assert subjects[0].way_at(np.array([last]))[0][0] == pytest.approx(made.rows["box"][-1][0], abs=0.01)
        framing = solve_shot(Place(doc, shot, TALL), subjects)
        keys = framing.panes[0].keys
        assert (len(keys) == 1) == (subjects[0].way is not None) == (first == 200)
        assert first == 200 or side * (keys[-1].cx - keys[0].cx) > 0.5
        assert "subject leaves" in [r.name for r in framing.reasons]


@pytest.mark.parametrize(("begins", "pace", "sees"), [(24, 240, 48), (60, 125, 112)])
def test_movement_shows_where_somebody_goes_before_the_finder_sees_them(begins, pace, sees):
    """Somebody comes in from the left; or runs, from the middle on seen by the finder as well."""

    def left(n):
        return min(0.5, (n - begins - 6) / pace) if sees < 100 else 0.1 + (n - begins) / pace

    ends = 152 if sees < 100 else begins + 100
    both = with_movement(
        seen(person=lambda n: (left(n), 0.2, 0.1, 0.6, 0.8) if sees <= n < ends else None),
        lambda n: ((max(0.0, left(n)), 0.3, 0.1 + min(0.0, left(n)), 0.5), 0.5), first=begins, last=ends,
    )  # fmt: skip
    (one,) = subjects_of(both, 0, 250)
    assert (one.kind, one.frames[0]) == ("person", begins)
    assert one.box_at(begins + 12)[0] == pytest.approx(left(begins + 12), abs=0.03)


@given(st.floats(0.08, 0.82), st.floats(0.26, 0.39), st.booleans())
def test_who_is_seen_slightly_is_kept_and_told_where_nobody_is_seen_better(x, sure, somebody):
    doc, shot = one_shot()
    slight = seen(person=lambda n: (x, 0.3, 0.1, 0.6, sure) if n % 48 else None)
    if somebody:
        face = seen(face=lambda n: (0.47, 0.3, 0.06, 0.12, 0.9))
        rows, looks = ([*a.tolist(), *b.tolist()] for a, b in ((slight.rows, face.rows), (slight.looks, face.looks)))
        slight = Evidence(np.array(sorted(rows), ROW), np.array(sorted(looks), LOOK), KINDS)
    framing = solve_shot(Place(doc, shot, TALL), subjects_in(doc, shot, analysis_with(slight)))
    (key,) = framing.panes[0].keys
    half = 9 / 16 / (16 / 9) / 2
    kept = 0.5 if somebody else min(max(x + 0.05, half), 1 - half)
    assert key.cx == pytest.approx(kept, abs=0.02)
    assert ("nothing found" in [r.name for r in framing.reasons]) == (not somebody)


@pytest.mark.parametrize("count", [3, 9])
def test_many_who_are_seen_slightly_are_a_pattern(count):
    each = [seen(person=lambda n, k=k: (0.05 + 0.1 * k, 0.3, 0.07, 0.4, 0.32)) for k in range(count)]
    rows = np.concatenate([e.rows for e in each])
    gables = replace(each[0], rows=rows[np.argsort(rows["frame"], kind="stable")])
    assert len(subjects_of(gables, 0, 250)) == (3 if count == 3 else 0)


def test_of_two_who_matter_as_much_the_larger_is_followed_whoever_is_seen_more_surely():
    for sure in ((0.8, 0.76), (0.76, 0.8)):
        one = seen(person=lambda n, sure=sure: (0.1, 0.2, 0.11, 0.6, sure[0]))
        other = seen(person=lambda n, sure=sure: (0.8, 0.2, 0.1, 0.56, sure[1]))
        rows = np.concatenate([one.rows, other.rows])
        both = replace(one, rows=rows[np.argsort(rows["frame"], kind="stable")])
        doc, shot = one_shot()
        framing = solve_shot(Place(doc, shot, TALL), subjects_in(doc, shot, analysis_with(both)))
        assert framing.panes[0].keys[0].cx < 0.3


def test_what_is_found_does_not_depend_on_which_way_it_looks():
    doc = load_project(DEMO_PROJECT)
    finder = ThingFinder()
    with MovieReader(doc.lock.media[0].path) as reader:
        picture = next(p for p in reader.frames(1000) if p.index == 1000)
    image = picture.glance(*finder.input_size(picture.width, picture.height))
    plain, turned = finder.find(image), finder.find(np.ascontiguousarray(image[:, ::-1]))
    assert plain
    assert len(plain) == len(turned)
    for one in plain:
        assert any(abs(1 - other.cx - one.cx) < 0.01 and other.kind == one.kind for other in turned)
    assert finder.find(image, "plain") != plain


@given(st.integers(0, 99), st.integers(-3, 3))
def test_a_mirrored_picture_moves_as_its_mirror_image(seed, pan):
    place = np.random.default_rng(seed).integers(0, 255, (12, 24), np.uint8)
    wide = cv2.resize(place, (SIZE[0] + 20, SIZE[1]), interpolation=cv2.INTER_CUBIC)
    pictures = [np.ascontiguousarray(wide[:, 10 + d : 10 + d + SIZE[0]]) for d in (0, pan)]
    assert in_mirror(pictures[1]) != in_mirror(pictures[1][:, ::-1])
    (flow, move), (other, its_move) = gone(*pictures), gone(*(np.ascontiguousarray(p[:, ::-1]) for p in pictures))
    assert np.array_equal(flow_in_mirror(other), flow)
    assert camera_in_mirror(its_move) == pytest.approx(move, abs=1e-6)


def test_writing_that_is_cut_is_a_reason_and_can_be_shown_whole_while_it_shows():
    title = {"text": lambda n: (0.05, 0.8, 0.3, 0.1, 0.99) if 80 <= n < 160 else None,
             "face": lambda n: (0.45, 0.2, 0.1, 0.2, 0.9)}  # fmt: skip
    analysis = analysis_with(seen(**title))
    doc, shot = one_shot()
    doc = edits.set_framings(doc, [solve_shot(Place(doc, shot, TALL), subjects_in(doc, shot, analysis))])
    framing = doc.framing(shot.id, TALL.id)
    assert "text cut" in [r.name for r in framing.reasons]
    assert doubt(framing.reasons) >= NEEDS_A_LOOK
    place = Place(doc, shot, TALL)
    (remedy,) = [r for r in remedies(place, analysis) if r.kind == "while text"]
    made = apply_remedy(place, remedy, analysis)
    assert "text cut" not in [r.name for r in made.reasons]
    put = edits.set_framings(doc, [made])
    spans = [(w.window.cx - w.window.width / 2, w.window.cx + w.window.width / 2) for w in crop_windows(put, TALL)]
    assert spans[120][0] <= 0.05 * 1920
    assert spans[120][1] >= 0.35 * 1920
    assert spans[0] == pytest.approx(spans[249], abs=2)
    assert spans[0][1] - spans[0][0] == pytest.approx(1080 * 9 / 16, abs=2)


def test_enlargement_that_the_shape_brings_is_said_once_and_is_no_reason():
    doc, shot = one_shot(width=176, height=144)
    face = analysis_with(seen(face=lambda n: (0.4, 0.2, 0.1, 0.2, 0.9)))
    framing = solve_shot(Place(doc, shot, TALL), subjects_in(doc, shot, face))
    assert "enlarged" not in [r.name for r in framing.reasons]
    assert "1333" in enlarged_by_shape(doc, TALL)
    assert enlarged_by_shape(one_shot()[0], Master("small", "9:16", 540, 960)) == ""
    tight = replace(framed(doc, shot, TALL), panes=(replace(framing.panes[0], choices=replace(
        framing.panes[0].choices, tightest=2.0, loosest=2.0)),))  # fmt: skip
    again = solve_shot(Place(edits.set_framings(doc, [tight]), shot, TALL), subjects_in(doc, shot, face))
    assert "enlarged" in [r.name for r in again.reasons]


def test_writing_that_comes_is_noticed_and_a_light_that_changes_is_not():
    ground = cv2.GaussianBlur(np.random.default_rng(3).integers(60, 190, SIZE[::-1]).astype(np.uint8), (0, 0), 6)
    written = ground.copy()
    for x in range(40, 110, 4):
        written[60:70, x : x + 2] = 235
    for after, noticed in ((written, True), (np.clip(ground.astype(int) + 40, 0, 255).astype(np.uint8), False)):
        recent = Recent(STEP)
        for n in range(0, 30, STEP):
            y = np.ascontiguousarray(ground if n < 16 else after)
            half = np.full((SIZE[1] // 2, SIZE[0] // 2), 128, np.uint8)
            tags = Planes.of_rgb(np.zeros((2, 2, 3), np.uint8)).tags
            recent.add(Picture(n, Planes(y, half, half, tags), *SIZE), 1.0)
            if n == 20:
                assert recent.written() is noticed


def barred(frames, top, side=0, dark=False):
    """Pictures with black bars above and below, or at the sides; of a dark place with none."""
    rng = np.random.default_rng(5)
    place = cv2.resize(rng.integers(50, 200, (9, 16)).astype(np.uint8), (320, 180), interpolation=cv2.INTER_CUBIC)
    if dark:  # a sky that fades from black
        place = (place * np.linspace(0, 1, 180)[:, None] ** 3).astype(np.uint8)
    tags = Planes.of_rgb(np.zeros((2, 2, 3), np.uint8)).tags
    for n in range(frames):
        y = np.roll(place, n // 4, axis=1)
        if not dark:
            y[: round(180 * top)] = y[180 - round(180 * top) :] = 16
            if side:
                y[:, : round(320 * side)] = y[:, 320 - round(320 * side) :] = 16
        yield Picture(n, Planes(y, *(np.full((90, 160), 128, np.uint8) for _ in range(2)), tags), 320, 180)


@pytest.mark.parametrize(
    ("top", "side", "dark"), [(0.125, 0, False), (0.0, 0.1, False), (0.0, 0, False), (0.0, 0, True)]
)
def test_windows_stay_inside_what_black_bars_leave_unless_they_are_wanted(top, side, dark):
    seen = next(looked(barred(150, top, side, dark), 0, 150, Finders(), 25))
    analysis = Analysis.of(seen.signals, seen.evidence)
    doc, shot = one_shot(150, 320, 180)
    doc = edits.set_framings(doc, solve(doc, TALL, analysis, [shot]))
    (pane,) = doc.framing(shot.id, TALL.id).panes
    said = bars_said(doc, analysis)
    if not top and not side:
        assert (pane.trim, said) == (Rect(), "")
        return
    assert (pane.trim.x, pane.trim.y) == pytest.approx((side, top), abs=0.007)
    assert ("above and below" if top else "at the sides") in said
    for w in crop_windows(doc, TALL):
        assert w.window.top >= 180 * top - 1.5
        assert w.window.top + w.window.height <= 180 * (1 - top) + 1.5
    wanted = replace(doc.framing(shot.id, TALL.id), panes=(replace(pane, choices=Choices(with_bars=True)),))
    (shown,) = solve(edits.set_framings(doc, [wanted]), TALL, analysis, [shot])
    assert shown.panes[0].trim == Rect()


def test_somebody_with_a_small_face_counts_no_less_than_who_shows_none():
    """A cyclist at the left, whose face is small; at the right something that is taken for a person, and rests."""
    both = seen(
        face=lambda n: (0.24, 0.1, 0.03, 0.1, 0.75),
        person=lambda n: (0.15, 0.03, 0.21, 0.95, 0.78) if n % 32 else (0.8, 0.5, 0.18, 0.45, 0.68),
    )
    first, second = subjects_of(both, 0, 250)
    assert (first.kind, second.kind) == ("face", "person")
    assert second.importance < 0.6 * first.importance


@pytest.mark.parametrize("side", [1, -1])
def test_a_face_is_where_its_body_is_also_while_that_is_half_in_the_picture(side):
    def region(left, wide, sure):
        a, b = max(0.0, left), min(1.0, left + wide)
        return Region("face", a if side > 0 else 1 - b, 0.3, b - a, 0.1, sure)

    frames = list(range(0, 120, 4))
    lefts = [-0.18 + 0.004 * n for n in frames]
    body = Track(frames, [region(x, 0.2, 1.0) for x in lefts])
    face = Track(frames[20::4], [region(x + 0.08, 0.04, 0.8) for x in lefts[20::4]])
    (filled,) = with_moving_bodies([face], [body], 16)
    assert filled.frames[0] == 20  # from where half of it shows
    for n, r in zip(filled.frames, filled.regions, strict=True):
        wanted = region(lefts[n // 4] + 0.08, 0.04, 1.0)
        assert (r.x, r.width) == pytest.approx((wanted.x, wanted.width), abs=0.002)


@given(st.floats(0.3, 0.5), st.floats(0.25, 0.35), st.sampled_from(["animal", "vehicle", "thing", "person"]))
@settings(max_examples=15, deadline=None)
def test_what_passes_something_that_rests_is_neither_its_body_nor_a_part_of_it(x, wide, kind):
    rests = seen(**{kind: lambda n: (x, 0.1, wide, 0.6, 0.52)})
    passing = with_movement(rests, lambda n: ((0.06 + 0.0032 * n, 0.3, 0.08, 0.3), 1.0))
    subjects = subjects_of(passing, 0, 250)
    assert subjects[0].kind == "moving"
    assert subjects[0].box_at(200)[0] == pytest.approx(0.7, abs=0.03)
    assert all(s.still for s in subjects if s.kind == kind)


@pytest.mark.parametrize("side", [1, -1])
def test_what_comes_in_and_stops_is_still_there(side):
    """Nobody is seen but by movement, while something else rests at the other side; it goes off again, or not."""
    moving = KINDS.index("moving")

    def at(n):
        left = 1 - 0.005 * min(n - 60, 76)
        wide = min(0.14, 1 - left)
        return (left if side > 0 else 1 - left - wide, 0.3, wide, 0.6)

    rests = seen(animal=lambda n: (0.1 if side > 0 else 0.8, 0.4, 0.1, 0.12, 0.8))
    for again in (250, 200):
        moves = [n for n in range(64, 244, 4) if n < 136 or n >= again]
        rows = [(n, moving, at(n), 1.0, 1.0, 0.0) for n in moves]
        looks = sorted([*rests.looks.tolist(), *((n, moving) for n in range(4, 246, 4))])
        first = subjects_of(replace(rests, rows=np.array(sorted([*rests.rows.tolist(), *rows]), ROW),
                                    looks=np.array(looks, LOOK), finders=KINDS), 0, 250)[0]  # fmt: skip
        assert (first.kind, first.frames[0]) == ("moving", 64)
        assert 0 <= again - first.frames[-1] <= 8
        assert first.box_at(180) == pytest.approx((at(132)[0], 0.3, at(132)[0] + 0.14, 0.9), abs=0.03)


@pytest.mark.parametrize(("mostly", "told"), [(0.3, True), (0.5, False)])
def test_a_face_that_is_hardly_ever_seen_surely_is_little_to_go_by(mostly, told):
    doc, shot = one_shot()
    face = seen(face=lambda n: (0.1, 0.2, 0.04, 0.07, 0.6 if n == 48 else mostly))
    framing = solve_shot(Place(doc, shot, TALL), subjects_in(doc, shot, analysis_with(face)))
    assert framing.panes[0].keys[0].cx < 0.2
    assert (doubt(framing.reasons) > 20, "nothing found" in [r.name for r in framing.reasons]) == (told, told)


@given(st.floats(0.05, 0.85), st.floats(0.42, 0.9))
@settings(max_examples=30, deadline=None)
def test_who_is_seen_by_looks_alone_and_not_surely_is_a_slight_doubt(x, sure):
    doc, shot = one_shot()
    still = seen(person=lambda n: (x, 0.3, 0.1, 0.6, sure))
    told = {}
    for evidence in (still, with_movement(still, lambda n: ((x, 0.4, 0.1, 0.3), 1.0))):
        framing = solve_shot(Place(doc, shot, TALL), subjects_in(doc, shot, analysis_with(evidence)))
        told[evidence is still] = {r.name: r.weight for r in framing.reasons}.get("nothing found", 0.0)
        assert doubt(framing.reasons) < NEEDS_A_LOOK
    assert told[False] == 0
    assert told[True] == pytest.approx(0.28 * np.interp(sure, (0.6, 0.7), (1, 0)), abs=0.025)


@given(st.booleans(), st.floats(0.06, 0.09), st.floats(-0.06, 0.06), st.floats(-0.05, 0.05))
@settings(max_examples=40, deadline=None)
def test_of_two_who_matter_the_same_the_nearer_to_the_middle_is_kept(mirrored, nearer, larger, surer):
    """However a hair of size or confidence differs, as it does where the same shot is coded worse."""
    doc, shot = one_shot()
    places = (0.5 - 0.3 - 0.03, 0.06, 0.8), (0.5 + 0.3 - nearer - 0.03, 0.06 * (1 + larger), 0.8 * (1 + surer))
    boxes = [(1 - x - wide if mirrored else x, 0.3, wide, 2 * wide, sure) for x, wide, sure in places]
    looks = range(0, 250, 12)
    subjects = subjects_in(doc, shot, analysis_with(faces_seen(dict.fromkeys(looks, boxes), looks)))
    left, _, right = span(solve_shot(Place(doc, shot, TALL), subjects), 0, doc)
    assert left < boxes[1][0] < boxes[1][0] + boxes[1][2] < right


@pytest.mark.parametrize("wide", [0.0, 0.05, 0.4])
def test_where_hardly_anything_is_found_it_is_told_as_where_nothing_is(wide):
    doc, shot = one_shot()
    evidence = seen(sport=lambda n: (0.25, 0.3, wide, 1.6 * wide, 0.5 + wide)) if wide else seen()
    framing = solve_shot(Place(doc, shot, TALL), subjects_in(doc, shot, analysis_with(evidence)))
    weighs = {r.name: r.weight for r in framing.reasons}.get("nothing found", 0.0)
    assert (weighs > 0.25) == (wide < 0.4)
    assert doubt(framing.reasons) < NEEDS_A_LOOK


@given(st.sampled_from(["person", "vehicle", "face"]), st.floats(0.1, 0.5), st.floats(0.06, 0.45))
@settings(max_examples=25, deadline=None)
def test_slight_doubts_say_what_is_at_the_edge_or_does_not_fit(kind, x, wide):
    """One of them is told at most, and none beside anything that weighs more; none asks for a look."""
    doc, shot = one_shot()
    tall = 1.6 * wide if kind == "face" else 0.5
    still = seen(**{kind: lambda n: (x, 0.2, wide, min(0.7, tall), 0.9)})
    moves = with_movement(still, lambda n: ((x, 0.4, wide, 0.3), 1.0))
    framing = solve_shot(Place(doc, shot, TALL), subjects_in(doc, shot, analysis_with(moves)))
    told = {r.name: r.weight for r in framing.reasons}
    left, _, right = span(framing, 0, doc)
    nearest = min(n for n in (x - left if left > 0.001 else 1, right - x - wide if right < 0.999 else 1))
    slight = told.keys() & {"close to the edge", "does not fit", "only a thing"}
    assert len(slight) <= 1
    if told.keys() - slight:
        assert not slight
        return
    assert doubt(framing.reasons) < NEEDS_A_LOOK
    if abs(wide - (right - left)) > 0.002:  # boxes are kept to a ten-thousandth
        assert ("does not fit" in told) == (kind != "face" and wide > right - left)
    if kind == "vehicle":
        assert "only a thing" in told or 0.25 <= max(told.values()) <= 0.28
    if kind == "person" and nearest > 0.085:
        assert not told


@given(st.lists(st.tuples(st.floats(0.02, 0.15), st.sampled_from(["person cut", "does not fit"]), st.floats(0, 0.28)),
                min_size=1, max_size=4))  # fmt: skip
def test_slight_doubts_of_several_panes_do_not_add_up(panes):
    """Of each a reason that weighs little, and a slight one, maybe of the same name."""
    said = together([((Reason("person cut", weight),), Reason(name, slight)) for weight, name, slight in panes])
    assert len({r.name for r in said}) == len(said) <= 2
    assert max(slight for *_, slight in panes) - 0.01 <= max(r.weight for r in said)
    assert doubt(said) < NEEDS_A_LOOK


@pytest.mark.parametrize("x", [0.05, 0.7])
@pytest.mark.parametrize("every", [4, 7])
def test_the_only_place_where_something_moves_now_and_then_is_kept(x, every):
    """Hands of which movement shows a part in every fourth look, or every seventh, which is told; not where something
    moves anywhere else as well, nor a clock that runs."""
    shake = np.random.default_rng(5)
    clock = with_movement(seen(text=lambda n: (x - 0.02, 0.45, 0.26, 0.25, 0.9)), lambda n: ((x, 0.5, 0.1, 0.06), 1.0))
    assert "moving" not in [s.kind for s in subjects_of(clock, 0, 250) if s.importance >= 0.14]
    moves = with_movement(seen(), lambda n: ((*shake.uniform((x, 0.5), (x + 0.15, 0.6)), 0.05, 0.06), 1.0))
    kept = np.isin(moves.rows["frame"], range(4, 246, every * STEP))
    doc, shot = one_shot()
    for elsewhere in (False, True):
        rows = moves.rows[kept].copy()
        if elsewhere:
            rows["box"][-1, 0] = 0.85 - x
        subjects = subjects_in(doc, shot, analysis_with(replace(moves, rows=rows)))
        framing = solve_shot(Place(doc, shot, TALL), subjects, contrast=(0.5, 0.5))
        key = framing.panes[0].keys[0]
        assert elsewhere or (doubt(framing.reasons) > 20) == (every == 7)
        assert (abs(key.cx - 0.5) < 0.05) == elsewhere
        assert elsewhere or abs(key.cx - x - 0.1) < 0.12


@pytest.mark.parametrize("often", [2, 3])
def test_both_edges_of_a_plain_thing_are_one_that_moves(often):
    def at(n):
        return 0.05 + 0.0028 * n

    moving = KINDS.index("moving")
    rows = [(n, moving, box, 0.6, strength, 0.0) for n in range(4, 246, 4) for box, strength in (
        [((at(n), 0.5, 0.18, 0.2), 1.0)] if n // 4 % often else
        [((at(n), 0.5, 0.05, 0.2), 0.6), ((at(n) + 0.13, 0.5, 0.05, 0.2), 0.4)]
    )]  # fmt: skip
    looks = [(n, moving) for n in range(4, 246, 4)]
    (one,) = subjects_of(Evidence(np.array(rows, ROW), np.array(looks, LOOK), KINDS), 0, 250)
    for n in (20, 120, 230):
        left, _, right, _ = one.box_at(n)
        assert ((left + right) / 2, right - left) == pytest.approx((at(n) + 0.09, 0.2), abs=0.03)
