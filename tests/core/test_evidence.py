"""What is seen: movement without the camera's own, text, and subjects joined through time; and who is followed."""

import subprocess
import sys
from dataclasses import replace
from fractions import Fraction

import cv2
import numpy as np
import opentimelineio as otio
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ezvar.core import edits
from ezvar.core.cuts import judge
from ezvar.core.evidence import (
    STRETCH,
    Evidence,
    Finders,
    Gatherer,
    Region,
    TextFinder,
    kept_analysis,
    lead,
    look_through,
    looked,
    nothing_seen,
    subjects_of,
)
from ezvar.core.evidence.cadence import Cadence
from ezvar.core.evidence.finders.moving import SIZE, camera_move, moving_map, moving_regions
from ezvar.core.evidence.gather import KINDS, LOOK, ROW
from ezvar.core.framing import NEEDS_A_LOOK, Place, crop_windows, solve_shot
from ezvar.core.framing.paths.optimal import fullest_place
from ezvar.core.lock import LockReader, find_media, proxy_of, runs, take_lock
from ezvar.core.media import Picture, Planes
from ezvar.core.model import Document, Lock, Master, Media, Shot, Source, doubt
from ezvar.core.planning import cuts_between, decidable
from ezvar.core.progress import Cancelled, CancelToken
from ezvar.core.store import Cache, gaps, load_project
from ezvar.core.timing import Rate
from ezvar.demo import DEMO_PROJECT, DEMO_SEEN

from ..media import make_movie
from ..timelines import clip, track


def ground(seed, cells=(9, 40)):
    """A textured place, uint8, twice the size of the pictures that are compared."""
    rng = np.random.default_rng(seed)
    wide, high = SIZE[0] * 2, SIZE[1] * 2
    layers = [cv2.resize(rng.normal(0, 30, (c, c * 2)), (wide, high), interpolation=cv2.INTER_CUBIC) for c in cells]
    return np.clip(120 + sum(layers), 0, 255).astype(np.uint8)


def view(place, pan, patch=None, at=(0, 0)):
    picture = place[20 : 20 + SIZE[1], 40 + pan : 40 + pan + SIZE[0]].copy()
    if patch is not None:
        picture[at[1] : at[1] + patch.shape[0], at[0] : at[0] + patch.shape[1]] = patch
    return picture


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 500), st.integers(-6, 6), st.sampled_from([-4, -3, 3, 4]))
def test_what_moves_by_itself_is_found_whatever_the_camera_does(seed, pan, way):
    place, patch = ground(seed), ground(seed + 1000)[:30, :24]
    pictures = [view(place, pan * k, patch, (70 + way * k, 40)) for k in (-1, 0, 1)]
    found = moving_regions(moving_map(*pictures))
    if abs(pan + way) > 1:  # else it moves as the place does and cannot be told from it
        left, right = found[0].x * SIZE[0], (found[0].x + found[0].width) * SIZE[0]
        assert 70 - 9 < left < right < 94 + 9
        assert found[0].strength > 0.5


@pytest.mark.parametrize("pan", [0, 3, -5])
def test_a_place_alone_does_not_move_nor_does_light(pan):
    place = ground(3)
    same = [view(place, pan * k) for k in (-1, 0, 1)]
    assert moving_regions(moving_map(*same)) == []
    lit = [
        np.clip(p.astype(float) * level, 0, 255).astype(np.uint8)
        for p, level in zip(same, (0.9, 1.0, 1.1), strict=True)
    ]
    assert sum(r.width * r.height for r in moving_regions(moving_map(*lit))) < 0.05
    move = camera_move(same[0], same[1])
    assert move[0, 2] == pytest.approx(-pan, abs=0.2)


def test_a_thing_full_of_corners_on_plain_ground_is_not_the_ground():
    plain, patch = np.full((SIZE[1] * 2, SIZE[0] * 2), 100, np.uint8), ground(5, (20, 90))[:40, :40]
    pictures = [view(plain, 0, patch, (60 + 3 * k, 30)) for k in (-1, 0, 1)]
    (thing,) = moving_regions(moving_map(*pictures))
    assert abs(thing.cx * SIZE[0] - 80) < 6


def _written(text, blur=0.0):
    finder = TextFinder()
    width, height = finder.input_size(1280, 720)
    picture = np.repeat(cv2.resize(ground(8), (width, height))[..., None] // 3, 3, axis=2)
    for line, words in enumerate(text):
        cv2.putText(
            picture, words, (120, 160 + 44 * line), cv2.FONT_HERSHEY_DUPLEX, 1.3, (240, 235, 225), 2, cv2.LINE_AA
        )
    return finder.find(cv2.GaussianBlur(picture, (0, 0), blur) if blur else picture), (width, height)


def test_lines_of_text_make_one_block_where_they_stand():
    (block,), (width, height) = _written(["LANTERN", "NIGHTS"])
    assert 100 < block.x * width < 125
    assert 110 < block.y * height < 140
    assert 200 < (block.y + block.height) * height < 240
    assert _written([])[0] == []
    assert _written(["LANTERN"], blur=9)[0] == []


def evidence(**kinds):
    """Evidence from ``kind={frame: [(x, y, width, height, confidence), ...]}``; every frame named was looked at."""
    rows, looks = [], []
    for kind, sights in kinds.items():
        for frame, boxes in sights.items():
            looks.append((frame, KINDS.index(kind)))
            rows += [(frame, KINDS.index(kind), b[:4], b[4], 1.0, 0.0) for b in boxes]
    made = np.array(rows, ROW), np.array(looks, LOOK)
    rows, looks = (array[np.argsort(array["frame"], kind="stable")] for array in made)
    return Evidence(rows, looks, KINDS[:3])


def test_a_quick_walkers_faces_are_joined_by_the_body_that_carries_them():
    where = {n: 0.05 + 0.02 * n for n in range(0, 41, 4)}
    seen = evidence(
        moving={n: [(x - 0.08, 0.2, 0.16, 0.8, 0.9)] for n, x in where.items()},
        face={n: [(where[n] - 0.03, 0.25, 0.06, 0.1, 0.8)] for n in (0, 16, 32)},
    )
    (walker,) = subjects_of(seen, 0, 45)
    assert walker.kind == "face"
    frames = np.array(sorted(where))[1:-1]
    middles = walker.at(frames)[:, [0, 2]].mean(axis=1)
    assert middles == pytest.approx([where[n] for n in frames], abs=0.02)


def test_specks_that_come_and_go_do_not_take_a_thing_over():
    where = {n: 0.3 + 0.002 * n for n in range(4, 125, 4)}
    moving = {n: [(x - 0.15, 0.3, 0.3, 0.5, 1.0)] for n, x in where.items()}
    for n, place in ((28, (0.36, 0.35)), (56, (0.05, 0.05)), (56, (0.9, 0.9)), (60, (0.6, 0.7))):
        moving[n].append((*place, 0.05, 0.06, 0.3))
    only = subjects_of(evidence(moving=moving), 0, 130)[0]
    assert len(only.frames) == len(where)
    assert only.steady > 0.9
    assert only.at(np.array([40, 80]))[:, [0, 2]].mean(axis=1) == pytest.approx([0.38, 0.46], abs=0.01)


def test_a_subject_goes_on_for_a_moment_and_then_is_gone():
    seen = evidence(face={n: [(0.2 + 0.005 * n, 0.4, 0.1, 0.1, 0.9)] for n in range(0, 61, 12)})
    (only,) = subjects_of(seen, 0, 200)
    after = only.at(np.array([60, 70, 74, 150]))[:, 0]
    assert after == pytest.approx([0.5, 0.55, 0.57, 0.57])
    assert only.there(np.array([0, 30, 74, 75, 150])).tolist() == [True, True, True, False, False]
    assert only.look > 0  # it goes to the right


@pytest.mark.parametrize("looked", [True, False])
def test_who_comes_to_stand_is_there_until_the_shot_ends_unless_looked_for_in_vain(looked):
    faces = {n: [(0.2 + 0.005 * min(n, 48), 0.4, 0.1, 0.1, 0.9)] for n in range(0, 61, 12)}
    (only,) = subjects_of(evidence(face=faces | ({100: []} if looked else {})), 0, 130)
    assert only.there(np.arange(130)).tolist() == [n < 75 or not looked for n in range(130)]
    assert only.at(np.array([129]))[0, 0] == pytest.approx(0.44)


# Who is followed


def lock(frames=250, size=(1920, 1080), master=(1080, 1920)):
    media = Media("m", "", *size, Rate(25), frames)
    doc = Document(
        Lock("l", Rate(25), frames, *size, 0, False, (media,)), (Shot("s", 0, frames, Source("m", Fraction(0))),)
    )
    return edits.add_master(doc, Master("a", "a", *master))


def framed(seen, doc=None):
    doc = doc or lock()
    shot, master = doc.shots[0], doc.masters[0]
    framing = solve_shot(Place(doc, shot, master), subjects_of(seen, 0, shot.frames))
    windows = [w.window for w in crop_windows(edits.set_framings(doc, [framing]), master)]
    return framing, windows


def standing(*places, size=0.06):
    return {n: [(x - size / 2, 0.3, size, size * 1.8, 0.9) for x in places] for n in range(0, 250, 12)}


def test_two_people_near_each_other_are_both_kept_and_two_far_ones_are_asked_about():
    near, windows = framed(evidence(face=standing(0.4, 0.55)))
    assert len(near.panes[0].keys) == 1
    assert windows[0].left < 0.37 * 1920
    assert windows[0].left + windows[0].width > 0.58 * 1920
    assert doubt(near.reasons) < NEEDS_A_LOOK
    far, windows = framed(evidence(face=standing(0.2, 0.8)))
    assert len(far.panes[0].keys) == 1
    assert "two subjects" in [r.name for r in far.reasons]
    assert doubt(far.reasons) >= NEEDS_A_LOOK
    assert min(abs(windows[0].cx / 1920 - x) for x in (0.2, 0.8)) < 0.1


def test_when_one_has_left_the_window_turns_to_the_other_once_and_rests():
    first = {n: [(0.2, 0.3, 0.09, 0.16, 0.95)] for n in range(0, 110, 12)}
    second = {n: [(0.7, 0.3, 0.08, 0.14, 0.9)] for n in range(140, 250, 12)}
    framing, windows = framed(evidence(face={**first, **second}))
    centres = np.array([w.cx / 1920 for w in windows])
    assert len(framing.panes[0].keys) <= 4
    assert (np.diff(centres) >= -1e-4).all()
    assert abs(centres[60] - 0.25) < 0.1
    assert abs(centres[-1] - 0.74) < 0.1


def test_what_flickers_here_and_there_is_not_followed():
    rng = np.random.default_rng(4)
    flicker = {
        n: [(float(x), 0.4, 0.1, 0.1, 0.8)] for n, x in zip(range(4, 246, 4), rng.uniform(0.5, 0.75, 61), strict=True)
    }
    framing, windows = framed(evidence(moving=flicker))
    assert len(framing.panes[0].keys) == 1
    assert 0.5 < windows[0].cx / 1920 < 0.8
    thing = {n: [(0.1 + 0.0025 * n, 0.4, 0.1, 0.1, 0.8)] for n in range(4, 246, 4)}
    framing, windows = framed(evidence(moving=thing))
    assert 1 < len(framing.panes[0].keys) <= 4
    assert all(w.left <= (0.1 + 0.0025 * n) * 1920 for n, w in enumerate(windows))


@pytest.mark.parametrize("sure", [True, False])
def test_a_title_wider_than_the_window_is_shown_whole_if_it_surely_is_one(sure):
    seen = evidence(text={n: [(0.1, 0.4, 0.8, 0.2, 0.99 if sure else 0.8)] for n in range(0, 250, 50)})
    framing, windows = framed(seen)
    left, right = windows[0].left / 1920, (windows[0].left + windows[0].width) / 1920
    assert (left < 0.1 < 0.9 < right) == sure
    assert windows[0].cx == pytest.approx(960, abs=2)
    assert (doubt(framing.reasons) >= NEEDS_A_LOOK) != sure
    assert ("backdrop" if sure else "does not fit") in framing.why


def test_a_wider_master_from_a_taller_picture_moves_up_and_down():
    rising = {n: [(0.45, 0.75 - 0.0024 * n, 0.1, 0.06, 0.9)] for n in range(0, 250, 12)}
    _, windows = framed(evidence(face=rising), lock(size=(1080, 1920), master=(1920, 1080)))
    assert all(w.cx == pytest.approx(540) for w in windows)
    assert windows[0].cy > windows[-1].cy + 400
    assert all(w.top < (0.75 - 0.0024 * n) * 1920 < w.top + w.height for n, w in enumerate(windows))
    assert "already holds all" in framed(evidence(face=rising), lock(master=(1280, 720)))[0].why


@given(st.lists(st.tuples(st.floats(0, 0.9), st.floats(0.01, 0.3)), min_size=1, max_size=12))
def test_the_fullest_place_holds_no_less_than_any_other(stretches):
    left = np.array([a for a, _ in stretches])
    right = np.minimum(1, left + [w for _, w in stretches])

    def held(place):
        inside = np.clip(np.minimum(right, place + 0.2) - np.maximum(left, place - 0.2), 0, None) / (right - left)
        return float(np.where(inside > 0.97, 1.0, 0.5 * inside).sum())

    best, more = fullest_place(left, right, np.ones(len(left)), 0.4, (0.2, 0.8))
    assert 0.2 <= best <= 0.8
    most = max(held(p) for p in np.linspace(0.2, 0.8, 81))
    assert held(best) >= 0.94 * most
    if held(0.5) > 0:
        assert more * held(0.5) == pytest.approx(most, rel=0.03)


_ANALYSE = """
import sys
from ezvar.core.evidence import Finders, looked
from ezvar.core.media import MovieReader
for path in sys.argv[1:]:
    with MovieReader(path) as reader:
        (seen,) = looked(reader.frames(), 0, reader.count, Finders(), 25)
        print(len(seen.evidence.looks) > 0)
"""


def test_movies_that_are_not_plain_are_analysed_to_their_end(tmp_path):
    """Decoding and the finders' thread look at the same pictures; in a process of its own, which a fault would end."""
    paths = [
        make_movie(tmp_path / "a.mov", 40, size=(640, 360), codec="prores_ks", pixels="yuv422p10le", picture=_lively),
        make_movie(tmp_path / "b.mp4", 120, size=(1, 1), pixels="yuv444p", picture=_lively),
    ]
    done = subprocess.run(
        [sys.executable, "-c", _ANALYSE, *paths], capture_output=True, text=True, timeout=120, check=True
    )
    assert done.stdout.split() == ["True"] * 2


def _lively(n, width, height):
    """Another picture each frame, so that the finders are busy throughout."""
    return np.full((height, width, 3), 60 + 40 * (n % 4), np.uint8)


class Brightest:
    """A finder of one region in every picture: its place is told by the picture itself."""

    def input_size(self, width, height):
        return width, height

    def find(self, rgb, turned=False):
        return [Region("face", float(rgb.mean()) / 300, 0.2, 0.1, 0.1, 0.9)]


@pytest.fixture
def some(monkeypatch):
    monkeypatch.setattr("ezvar.core.evidence.gather.FaceFinder", Brightest)
    monkeypatch.setattr("ezvar.core.evidence.gather.TextFinder", Brightest)
    monkeypatch.setattr("ezvar.core.evidence.gather.ThingFinder", Brightest)
    return Finders()


def drift(start, end):
    """A texture that goes its way, with a light change now and then."""
    place = cv2.resize(ground(5), (160 * 3, 90 * 3))
    for n in range(start, end):
        y = np.clip(place[40 : 40 + 90, n % 300 : n % 300 + 160] + (30 if n % 97 > 80 else 0), 0, 255).astype(np.uint8)
        half = np.full((45, 80), 128, np.uint8)
        yield Picture(n, Planes(y, half, half, Planes.of_rgb(np.zeros((2, 2, 3), np.uint8)).tags), 160, 90)


def same(one, other):
    arrays = [
        [*a.signals.arrays().values(), a.evidence.rows, a.evidence.looks, a.evidence.stills, a.evidence.flows]
        for a in (one, other)
    ]
    return all(np.array_equal(a, b) for a, b in zip(*arrays, strict=True))


def test_looking_through_in_parts_changes_nothing(some):
    frames = 2 * STRETCH + 50
    whole = list(looked(drift(0, frames), 0, frames, some, 25))
    parts = [
        *looked(drift(0, STRETCH), 0, STRETCH, some, 25),
        *looked(drift(STRETCH - lead(25), frames), STRETCH, frames, some, 25),
    ]
    assert [s.start for s in whole] == [s.start for s in parts] == [0, STRETCH, 2 * STRETCH]
    alone = looked(drift(2 * STRETCH, frames), 2 * STRETCH, frames, some, 25)
    assert all(same(a, b) for a, b in zip(whole, parts, strict=True))
    assert not same(whole[2], next(alone))


def test_a_stopped_reading_goes_on_where_it_was_and_makes_the_proxy_in_the_same_decoding(tmp_path, some, monkeypatch):
    monkeypatch.setattr("ezvar.core.evidence.tasks._finders", lambda: some)
    path = make_movie(tmp_path / "long.mp4", STRETCH + 60, size=(64, 36), picture=_lively)
    doc, cache, token, read = take_lock(path).doc, Cache(tmp_path / "cache"), CancelToken(), []
    strip = LockReader.strip
    monkeypatch.setattr(LockReader, "strip", lambda self, run, a, b: (read.append(a), strip(self, run, a, b))[1])
    refused = []

    def stop(fraction, _):
        if fraction > 0.95:
            token.cancel()

    with pytest.raises(Cancelled):
        look_through(doc, cache, stop, token, refused.append)
    begun = proxy_of(doc, cache)
    assert (begun.pieces(runs(doc)[0].strip), begun.ready) == ([(0, STRETCH)], False)
    parts = look_through(doc, cache, proxy_told=refused.append)
    assert read == [0, STRETCH - lead(25)]
    assert proxy_of(doc, cache).ready
    assert same(parts, look_through(doc, Cache(tmp_path / "other")))
    assert proxy_of(doc, Cache(tmp_path / "other")).ready is False
    look_through(doc, cache, proxy_told=refused.append)  # all is there
    assert read == [0, STRETCH - lead(25), 0]
    for file in (tmp_path / "cache").glob("*.proxy"):
        file.unlink()
    look_through(doc, cache, proxy_told=refused.append)  # only drawn
    assert proxy_of(doc, cache).ready
    monkeypatch.setattr("ezvar.core.viewing.proxy.write_atomically", _full)
    assert same(parts, look_through(doc, Cache(tmp_path / "full"), proxy_told=refused.append))
    assert [str(e) for e in refused] == ["no room."]


def test_a_changed_lock_reads_the_new_seconds_alone_and_a_linked_clip_itself(tmp_path, some, monkeypatch):
    monkeypatch.setattr("ezvar.core.evidence.tasks._finders", lambda: some)
    read, strip, cache, handle = [], LockReader.strip, Cache(tmp_path / "cache"), Cadence(25).people

    def counted(self, run, start, end):
        for picture in strip(self, run, start, end):
            read.append(picture.index)
            yield picture

    def lock(name, *clips):
        timeline = otio.schema.Timeline(name)
        timeline.tracks.append(track(*clips))
        otio.adapters.write_to_file(timeline, str(tmp_path / f"{name}.otio"))
        return take_lock(tmp_path / f"{name}.otio").doc

    def looked_at(doc):
        read.clear()
        analysis = look_through(doc, cache, proxy_told=lambda error: None)
        assert analysis.known is None
        assert proxy_of(doc, cache).ready
        return analysis, len(read)

    monkeypatch.setattr(LockReader, "strip", counted)
    rush = make_movie(tmp_path / "rush.mp4", 500, size=(64, 36), picture=_lively)
    one = lock("one", clip("a", str(rush), 60, 80), clip("b", "late.mp4", 0, 50), clip("a", str(rush), 200, 40))
    first, count = looked_at(one)
    assert count == 80 + 40 + 4 * handle  # the missing clip costs nothing
    moved = lock("two", clip("a", str(rush), 200, 40), clip("a", str(rush), 50, 100))
    second, count = looked_at(moved)
    assert count == 0  # trimmed within the handles, and in another order
    assert np.array_equal(second.signals.thumbs[:40], first.signals.thumbs[130:])
    new = lock("three", clip("a", str(rush), 60, 80), clip("a", str(rush), 300, 75), clip("a", str(rush), 200, 40))
    third, count = looked_at(new)
    assert count == 75 + 2 * handle
    assert third.evidence.seen("face", 80, 80 + 1)  # a shot begins with what was seen just before it
    make_movie(tmp_path / "late.mp4", 100, size=(64, 36), picture=_lively)
    linked = edits.link_media(one, find_media(one, [tmp_path])[0])
    assert looked_at(linked)[1] == 50 + handle
    again = lock("four", clip("a", str(rush), 60, 90), clip("a", str(rush), 300, 75))
    assert looked_at(again)[1] == 0


def test_what_is_known_so_far_is_told_as_the_reading_goes(tmp_path, some, monkeypatch):
    monkeypatch.setattr("ezvar.core.evidence.tasks._finders", lambda: some)
    monkeypatch.setattr("ezvar.core.evidence.tasks._EACH_PART", 0.0)
    monkeypatch.setattr("ezvar.core.evidence.tasks._PART_COSTS", 0.0)
    path = make_movie(tmp_path / "long.mp4", 2 * STRETCH + 60, size=(64, 36), picture=_lively)
    parts = []
    whole = look_through(take_lock(path).doc, Cache(tmp_path / "cache"), part=parts.append)
    assert [p.known for p in parts] == [((0, STRETCH),), ((0, 2 * STRETCH),)]
    assert whole.known is None
    other = []
    again = look_through(take_lock(path).doc, Cache(tmp_path / "b"), part=other.append, wanted=lambda: STRETCH + 5)
    assert [p.known for p in other] == [((STRETCH, 2 * STRETCH),), ((STRETCH, 2 * STRETCH + 60),)]
    assert same(again, whole)
    for p in parts:
        assert len(p.signals.change) == 2 * STRETCH + 60
        assert np.array_equal(p.signals.change[: p.read], whole.signals.change[: p.read])
        assert not p.signals.change[p.read :].any()
        assert p.evidence.looks["frame"].max() < p.read
        assert (p.knows(0, p.read), p.knows(p.read - 5, p.read + 1)) == (True, False)


@pytest.mark.parametrize("size", [300, 700])
def test_the_demo_brings_what_was_seen_and_its_cuts_are_the_same_bit_by_bit(tmp_path, size):
    doc = load_project(DEMO_PROJECT)
    analysis = kept_analysis(doc, Cache(tmp_path, shipped=DEMO_SEEN))
    assert analysis is not None
    whole, found, decided = judge(analysis.signals), [], []
    for known in (((0, size),), ((0, size), (900, 1400)), ((0, size + 100), (900, 1500)), None):
        for start, end in decidable(replace(analysis, known=known)):
            for new in gaps(start, end, decided):
                found += cuts_between(analysis, *new).cuts
                decided.append(new)
    assert tuple(sorted(found, key=lambda cut: cut.frame)) == whole.cuts


def _full(path, write, family):
    raise family("no room")


@pytest.mark.parametrize("size", [(640, 360), (64, 640), (7680, 4320)])
@pytest.mark.parametrize("kind", ["black", "noise"])
def test_nothing_to_see_is_no_trouble(size, kind):
    rng = np.random.default_rng(1)
    y = np.full(size[::-1], 16, np.uint8) if kind == "black" else rng.integers(16, 235, size[::-1], np.uint8)
    half = np.full((size[1] // 2, size[0] // 2), 128, np.uint8)
    picture = Planes(y, half, half, Planes.of_rgb(np.zeros((2, 2, 3), np.uint8)).tags)
    gatherer = Gatherer(Finders(), 25)
    for n in range(13 if size[0] < 1000 else 2):
        gatherer.add(Picture(n, picture, *size), 0.0)
    seen = gatherer.result()
    for frames in (1, 13):
        framing, windows = framed(seen, lock(frames, size, (1080, 1920)))
        assert len(framing.panes[0].keys) == 1
        assert windows[0].cx == pytest.approx(size[0] / 2, rel=0.2)
    assert framed(nothing_seen(), lock(1))[0].why.endswith("nothing was found to follow.")


def test_work_in_one_place_is_one_subject_and_what_goes_its_way_is_none_of_it():
    """Two restless hands beside each other are one subject; a steady walker elsewhere stays another."""
    looks = range(4, 240, 4)
    rng = np.random.default_rng(4)
    rows = [(n, KINDS.index("person"), (0.46, 0.52, 0.1, 0.12), 0.52, 1, 0) for n in range(0, 250, 16)]
    for n in looks:
        for x in (0.4, 0.5):
            dx, dy = rng.uniform(-0.05, 0.05, 2)
            rows.append((n, 2, (x + dx, 0.5 + dy, 0.12, 0.15), 0.8, 1, 0))
        rows.append((n, 2, (0.02 + 0.0008 * n, 0.2, 0.1, 0.3), 0.8, 1, 0))
    seen = [(n, KINDS.index("person")) for n in range(0, 250, 16)] + [(n, 2) for n in looks]
    made = Evidence(np.array(sorted(rows), ROW), np.array(sorted(seen), LOOK), KINDS[:4])
    subjects = subjects_of(made, 0, 250)
    (work,) = [s for s in subjects if s.kind == "work"]
    left, _, right, _ = work.at(np.array([100]))[0]
    assert 0.34 < left < 0.42
    assert 0.58 < right < 0.68
    assert work.there(np.arange(4, 240)).all()
    assert [s.kind for s in subjects if s.steady > 0.9] == [s.kind for s in subjects][:2]
