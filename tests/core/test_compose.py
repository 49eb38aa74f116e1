"""Drawing: windows where they should be, antialiased, with backdrops and panes."""

from dataclasses import replace
from itertools import pairwise

import cv2
import numpy as np
import opentimelineio as otio
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import QSize

from ezvar.app.viewer.pictures import Result, View, Viewer
from ezvar.core import compose, edits
from ezvar.core.compose import LockPictures, master_sound
from ezvar.core.compose.draw import draw_framing
from ezvar.core.compose.sampling import sample
from ezvar.core.compose.wipes import covered
from ezvar.core.framing import Window, fit_zoom, pane_window, rects_of
from ezvar.core.framing.windows.geometry import Size
from ezvar.core.lock import LockReader, lock_sound, mix_at, mix_of, take_lock
from ezvar.core.media import ColourTags, Planes
from ezvar.core.memory import Memory
from ezvar.core.model import (
    DESIGNS,
    WIPES,
    Arrangement,
    Backdrop,
    Framing,
    Keyframe,
    Master,
    Pane,
    Rect,
    Report,
    Title,
    Wipe,
)
from ezvar.core.review import edl_texts, timeline_of
from ezvar.core.store import load_project
from ezvar.core.text import shown_at
from ezvar.core.timing import FrameRange
from ezvar.core.viewing import Proxy, Span

from ..conftest import DEMO
from ..making import make_one
from ..media import make_movie
from ..timelines import Time, clip, track

HD = ColourTags(1, 1, 1, 1)


def ramp(width=320, height=180):
    """A picture whose luminance tells the place across and whose chrominance tells it too: v = x scaled to 16..235."""
    across = np.linspace(16, 235, width * 2 + 1)[1::2]
    y = np.tile(np.round(across).astype(np.uint8), (height, 1))
    half = np.tile(np.round(across.reshape(-1, 2).mean(1)).astype(np.uint8), (height // 2, 1))
    return Planes(y, half, half[:, ::-1].copy(), HD)


def grain(seed=0, width=640, height=360):
    rng = np.random.default_rng(seed)
    return cv2.GaussianBlur(rng.integers(0, 256, (height, width)).astype(np.uint8), (0, 0), 2.0)


def framing_of(*keys, **pane):
    return Framing("s", "m", (Pane(tuple(keys), **pane),))


def test_a_window_of_the_pictures_own_size_is_the_picture():
    plane = grain()
    assert np.array_equal(sample(plane, Window(320, 180, 640, 360), 640, 360), plane)
    assert np.array_equal(sample(plane, Window(220, 130, 200, 100), 200, 100), plane[80:180, 120:320])


@given(st.floats(80, 240), st.floats(60, 120), st.floats(90, 300), st.sampled_from([0.0, 0.0, 90.0, 7.5, -30.0]))
def test_every_sample_comes_from_its_place(cx, cy, height, angle):
    """On pictures of their own coordinates each sample tells where it was taken, to a third of a pixel."""
    x = np.tile(np.linspace(0, 255, 320, dtype=np.float32), (180, 1)).astype(np.uint8)
    window = Window(cx, cy, height / 3, height / 2, angle)
    drawn = sample(x, window, 60, 90).astype(float)
    matrix = window.matrix(60, 90)
    columns, rows = np.meshgrid(np.arange(60) + 0.5, np.arange(90) + 0.5)
    px = matrix[0, 0] * columns + matrix[0, 1] * rows + matrix[0, 2]
    py = matrix[1, 0] * columns + matrix[1, 1] * rows + matrix[1, 2]
    inside = (px > 6) & (px < 314) & (py > 6) & (py < 174)
    if inside.any():
        assert np.abs(drawn - (px - 0.5) * 255 / 319)[inside].max() < 2


def test_shrinking_is_antialiased():
    """A pattern finer than the result's samples becomes its mean, not stripes."""
    stripes = np.tile(np.array([0, 255], np.uint8), (360, 320))
    for window in (Window(320, 180, 640, 360), Window(320.4, 180, 600, 300, 5.0)):
        drawn = sample(stripes, window, 100, 56)[4:-4, 4:-4]
        assert abs(float(drawn.mean()) - 127.5) < 4
        assert float(drawn.std()) < 16


def test_a_slow_move_does_not_jitter():
    """Shifted by a tenth of a pixel a frame, the picture's centre of gravity moves evenly."""
    plane = np.zeros((180, 320), np.uint8)
    plane[60:120, 150:170] = 200
    places = []
    for k in range(40):
        drawn = sample(plane, Window(160 + k * 0.1, 90, 101.25, 180), 180, 320).astype(float)
        places.append((drawn.sum(0) * np.arange(180)).sum() / drawn.sum())
    assert np.abs(np.diff(places) + 0.1 * 180 / 101.25).max() < 0.08


@pytest.mark.parametrize("cx", [0.0, 0.3, 0.5, 1.0])
def test_a_masters_frame_shows_the_window_in_luminance_and_chrominance(cx):
    picture, master = ramp(), Master("m", "m", 180, 320)
    drawn = draw_framing(framing_of(Keyframe(0, cx)), master, 0, picture)
    window = pane_window(Pane((Keyframe(0, cx),)), master, Size(320, 180), 0)
    assert (drawn.width, drawn.height, drawn.u.shape, drawn.tags) == (180, 320, (160, 90), HD)
    wanted = 16 + 219 * (window.left + (np.arange(180) + 0.5) * window.width / 180) / 320
    assert np.abs(drawn.y[100].astype(float) - wanted)[4:-4].max() < 2
    assert np.abs(drawn.u[50].astype(float) - wanted.reshape(-1, 2).mean(1))[4:-4].max() < 3
    small = draw_framing(framing_of(Keyframe(0, cx)), master, 0, picture, scale=0.25)
    assert (small.width, small.height) == (46, 80) or (small.width, small.height) == (44, 80)


def test_no_edge_shows_while_the_window_fills():
    picture = Planes(np.full((180, 320), 200, np.uint8), *(np.full((90, 160), 90, np.uint8) for _ in range(2)), HD)
    for keys in ((Keyframe(0, 0.0),), (Keyframe(0, 1.0, angle=20), Keyframe(10, 0.0, angle=-20))):
        drawn = draw_framing(framing_of(*keys), Master("m", "m", 180, 320), 5, picture)
        assert (drawn.y.min(), drawn.y.max()) == (200, 200)


@pytest.mark.parametrize(
    ("colour", "y", "u", "v"), [("#ff0000", 63, 102, 240), ("#000000", 16, 128, 128), ("#ffffff", 235, 128, 128)]
)
def test_a_coloured_backdrop_has_exactly_its_colour(colour, y, u, v):
    master = Master("m", "m", 180, 320, backdrop=Backdrop("colour", colour))
    zoom = fit_zoom(Size(320, 180), 180 / 320)
    drawn = draw_framing(framing_of(Keyframe(0, zoom=zoom)), master, 0, ramp())
    assert (drawn.y[5, 90], drawn.u[5, 45], drawn.v[5, 45]) == (y, u, v)
    middle = drawn.y[160].astype(float)  # the whole picture stands across the middle
    assert np.abs(middle - np.linspace(16, 235, 361)[1::2]).max() < 3


def test_the_blurred_backdrop_is_dark_soft_and_of_the_picture():
    picture = Planes(grain(3, 320, 180), *(np.full((90, 160), 60, np.uint8) for _ in range(2)), HD)
    master = Master("m", "m", 180, 320, backdrop=Backdrop("picture", darken=0.5))
    zoom = fit_zoom(Size(320, 180), 180 / 320)
    drawn = draw_framing(framing_of(Keyframe(0, zoom=zoom)), master, 0, picture)
    behind, front = drawn.y[:100].astype(float), drawn.y[115:205].astype(float)
    assert behind.mean() - 16 == pytest.approx((picture.y.mean() - 16) / 2, rel=0.15)
    assert np.abs(np.diff(behind)).mean() < np.abs(np.diff(front)).mean() / 3
    assert abs(int(drawn.u[20, 20]) - (128 - 34)) <= 2


def test_panes_stand_where_they_say():
    master = Master("m", "m", 180, 320, backdrop=Backdrop("colour", "#000000"))
    top = Pane((Keyframe(0, 0.0, zoom=4),), Rect(0, 0, 1, 0.5))
    foot = Pane((Keyframe(0, 1.0, zoom=4),), Rect(0, 0.5, 1, 0.4))
    drawn = draw_framing(Framing("s", "m", (top, foot)), master, 0, ramp())
    assert drawn.y[80].max() < drawn.y[220].min()
    assert (drawn.y[300:] == 16).all()
    assert (drawn.u[150:] == 128).all()


def test_full_range_pictures_keep_their_black():
    picture = replace(ramp(), tags=replace(HD, range=2))
    master = Master("m", "m", 180, 320, backdrop=Backdrop("colour", "#000000"))
    assert draw_framing(framing_of(Keyframe(0, zoom=0.2)), master, 0, picture).y[0, 0] == 0


WHOLE = fit_zoom(Size(320, 180), 180 / 320)


def behind_of(backdrop, picture=None, pictures=None, shot=None, **pane):
    master = Master("m", "m", 180, 320, backdrop=backdrop)
    picture = picture or Planes(grain(3, 320, 180), *(np.full((90, 160), 60, np.uint8) for _ in range(2)), HD)
    return draw_framing(framing_of(Keyframe(0, zoom=WHOLE), **pane), master, 0, picture, 1.0, shot, pictures)


def test_a_backdrop_is_tinted_weakened_enlarged_and_shaded_as_asked():
    plain = behind_of(Backdrop("picture", darken=0.0, blur=0.0))
    tinted = behind_of(Backdrop("picture", "#0000ff", darken=0.0, blur=0.0, tint=1.0))
    assert np.array_equal(tinted.y, plain.y)
    assert tinted.u[20, 20] == pytest.approx(240, abs=1)
    weak = behind_of(Backdrop("picture", "#ffffff", darken=0.0, blur=0.0, strength=0.25))
    assert weak.y[20, 20] == pytest.approx(235 + 0.25 * (int(plain.y[20, 20]) - 235), abs=2)
    larger = behind_of(Backdrop("picture", darken=0.0, blur=0.0, zoom=3.0))
    rough = [float(np.abs(np.diff(p.y[:90].astype(float))).mean()) for p in (larger, plain)]
    assert rough[0] < 0.8 * rough[1]
    shaded = behind_of(Backdrop("colour", "#ffffff", shadow=0.6))
    column = shaded.y[:, 90].astype(int)
    assert column[5] == 235
    assert column[108] < 200  # close above the picture, which stands from 109 to 211
    assert column[214] < column[106]  # it falls downwards
    for wrong in ({"darken": 1.5}, {"zoom": 0.5}, {"kind": "media"}, {"media": "x.png"}):
        with pytest.raises(ValueError, match="backdrop"):
            Backdrop(**wrong)


def test_what_is_trimmed_off_does_not_show():
    trim = Rect(0.25, 0.1, 0.5, 0.8)
    bright = Planes(np.full((180, 320), 30, np.uint8), *(np.full((90, 160), 128, np.uint8) for _ in range(2)), HD)
    bright.y[18:162, 80:240] = 200
    master = Master("m", "m", 180, 320, backdrop=Backdrop("colour", "#000000"))
    zoom = fit_zoom(Size(160, 144), 180 / 320)
    drawn = draw_framing(framing_of(Keyframe(0, zoom=zoom), trim=trim), master, 0, bright)
    assert sorted(np.unique(drawn.y[:, 90]))[0] == 16
    rows = np.flatnonzero(drawn.y[:, 90] > 190)
    assert rows[-1] - rows[0] + 1 == pytest.approx(144 * 180 / 160, abs=2)
    assert (drawn.y[160] > 190).all()  # its trimmed sides lie outside the frame
    filling = draw_framing(framing_of(Keyframe(0, 0.0), trim=trim), master, 0, bright)
    assert filling.y.min() > 190


def test_an_arrangement_draws_its_border_and_its_gap():
    arrangement = Arrangement("two", (Rect(0, 0, 1, 0.5), Rect(0, 0.5, 1, 0.5)), 0.1, 0.05, "#ffffff")
    master = Master("m", "m", 180, 320)
    panes = tuple(Pane((Keyframe(0, zoom=2),), r) for r in rects_of(arrangement, master))
    grey = Planes(np.full((180, 320), 90, np.uint8), *(np.full((90, 160), 128, np.uint8) for _ in range(2)), HD)
    drawn = draw_framing(Framing("s", "m", panes, arrangement=arrangement), master, 0, grey)
    assert {int(v) for v in drawn.y[[2, 160, 317], 90]} == {235}
    assert {int(v) for v in drawn.y[[80, 240], 90]} == {90}
    assert drawn.y[80, 3] == 235


@pytest.fixture
def paper(tmp_path):
    path = tmp_path / "paper.png"
    cv2.imwrite(str(path), np.full((60, 80, 3), 255, np.uint8))
    return str(path)


def test_panes_show_other_shots_and_backdrops_their_own_media(planned, edit, paper):
    shot, other = planned.shots[0], planned.shots[-1]
    with LockReader(planned) as own, LockPictures(own) as pictures:
        got = pictures.of_pane(shot, Pane((Keyframe(0),), shot=other.id), shot.start + 2)
        with LockReader(planned) as reader:
            assert np.array_equal(got.y, reader.picture(other, other.start + 2).planes().y)
            last = pictures.of_pane(shot, Pane((Keyframe(0),), shot=other.id), shot.start + 9999)
            assert np.array_equal(last.y, reader.picture(other, other.end - 1).planes().y)
        assert pictures.of_pane(shot, Pane((Keyframe(0),)), 0) is None
        on_paper = behind_of(Backdrop("media", darken=0.0, media=paper), pictures=pictures, shot=shot)
        assert on_paper.y[20, 90] == pytest.approx(235, abs=1)
        moving = pictures.of_backdrop(str(edit), planned.lock.frames + 3)  # it begins again
        assert np.array_equal(moving.y, pictures.of_backdrop(str(edit), 3).y)
        assert pictures.of_backdrop("/nowhere/x.png", 0) is None
        assert pictures.of_backdrop("/nowhere/x.png", 1) is None
        assert len(pictures.problems) == 1
        assert (
            behind_of(Backdrop("media", "#ff0000", media="/nowhere/x.png"), pictures=pictures, shot=shot).y[5, 90] == 63
        )


def test_the_sound_of_another_panes_shot_takes_the_locks_place(planned):
    master = planned.masters[0]
    shot, other = planned.shots[0], planned.shots[-1]
    panes = (Pane((Keyframe(0),), Rect(0, 0, 1, 0.5)), Pane((Keyframe(0),), Rect(0, 0.5, 1, 0.5), shot=other.id))
    doc = edits.set_framings(planned, [Framing(shot.id, master.id, panes, sound=1)])
    own, there = (np.concatenate(list(lock_sound(planned, *span)), axis=1) for span in (
        (0, planned.lock.frames), (other.start, other.end)))  # fmt: skip
    made = np.concatenate(list(master_sound(doc, master)), axis=1)
    assert made.shape == own.shape
    change = round(doc.lock.rate.seconds(shot.end) * 48_000)
    both = min(change, there.shape[1])
    assert np.allclose(made[:, :both], there[:, :both], atol=1e-4)
    assert (made[:, both:change] == 0).all()
    assert np.allclose(made[:, change:], own[:, change:], atol=1e-4)
    assert np.array_equal(np.concatenate(list(master_sound(planned, master)), axis=1), own)


PATTERNS = sorted(WIPES)


@given(st.sampled_from(PATTERNS), st.booleans(), st.floats(0, 1), st.integers(8, 200), st.integers(8, 200))
def test_a_wipe_begins_with_nothing_and_ends_with_all(pattern, backwards, soft, width, height):
    wipe = Wipe(pattern, backwards, soft)
    shares = [covered(wipe, share, width, height) for share in (0, 0.2, 0.5, 0.8, 1)]
    assert shares[0].max() == 0
    assert shares[-1].min() == pytest.approx(1, abs=1e-5)
    for before, after in pairwise(shares):
        assert (after - before).min() > -1e-5  # what is covered stays so
    if soft == 0 and width == height >= 64 and pattern != 201:
        assert ((shares[2] > 0.01) & (shares[2] < 0.99)).mean() < 0.1  # a sharp edge
    opposite = covered(Wipe(pattern, not backwards, soft), 0.3, width, height)
    assert np.allclose(opposite, 1 - covered(wipe, 0.7, width, height), atol=1e-3)


def test_a_wipe_of_a_timeline_is_one_with_each_side_in_its_own_window(tmp_path):
    """By its number where one is stated, else a straight edge from left to right; and so in the lists handed out."""
    for name, level in (("a", 60), ("b", 180)):
        make_movie(tmp_path / f"{name}.mp4", 60, size=(320, 180), picture=lambda n, w, h, v=level: _plain(v, w, h))
    made = {}
    for number, name in ((1, "wipe"), (2, "wipe W002")):
        mix = otio.schema.Transition(name, otio.schema.TransitionTypes.Custom, Time(5, 25), Time(5, 25))
        timeline = otio.schema.Timeline("t")
        timeline.tracks.append(track(clip("a", "a.mp4", 0, 30), mix, clip("b", "b.mp4", 20, 30)))
        otio.adapters.write_to_file(timeline, str(tmp_path / "t.otio"))
        doc = take_lock(tmp_path / "t.otio").doc
        assert doc.shots[1].cut.wipe == Wipe(number)
        master = Master("m", "m", 90, 160)
        doc = edits.add_master(doc, master)
        with LockReader(doc) as reader, LockPictures(reader) as pictures:
            drawn = compose.frame(doc, master, 29, pictures)
            alone = [compose.frame(doc, master, n, pictures).y for n in (0, 50)]
        share = mix_at(doc, 29).share
        made[number] = np.moveaxis(drawn.y, 1 if number == 1 else 0, 0)
        edge = share * len(made[number])
        assert np.abs(made[number][: int(edge) - 1].astype(int) - int(alone[1][0, 0])).max() <= 1
        assert np.abs(made[number][int(edge) + 2 :].astype(int) - int(alone[0][0, 0])).max() <= 1
        assert f"W{number:03d} 010" in edl_texts(doc)[0]
        handed = timeline_of(doc, master)
        otio.adapters.write_to_file(handed, str(tmp_path / "back.otio"))
        assert take_lock(tmp_path / "back.otio").doc.shots[1].cut.wipe == Wipe(number)


def _plain(level, width, height):
    return np.full((height, width, 3), level, np.uint8)


@pytest.mark.parametrize("name", ["lantern-night.ezvar", "lantern-night.otio"])
def test_what_is_previewed_is_what_is_made(qtbot, tmp_path, monkeypatch, name):
    """Sample by sample, before the screen's conversion and the encoder's, through mixes, stills and other media, with
    captions and a title that is coming."""
    path = DEMO / name
    whole = load_project(DEMO / "lantern-night.ezvar")
    doc = whole if path.suffix == ".ezvar" else edits.add_track(take_lock(path).doc, whole.tracks[0])
    if not doc.masters:
        doc = edits.add_master(doc, replace(whole.masters[0], width=540, height=960))
    else:
        doc = edits.change_master(doc, replace(doc.masters[0], width=540, height=960))
    master = doc.masters[0]
    mixed = [s.cut.start for s in doc.shots if mix_of(s)]
    places = [*mixed, *(s.start + s.frames // 2 for s in doc.shots[::3])]
    third = Title("n", "lower third", mixed[0] - 3, doc.lock.frames, ("Asta", "Keeper"), DESIGNS["lower third"])
    doc = edits.put_title(doc, third)
    assert any(shown_at(doc, master, place + 1) for place in places)
    drawn: dict[int, list[Planes]] = {}
    whole_frame = compose.frame

    def noted(doc, master, at, *rest, **more):
        made = whole_frame(doc, master, at, *rest)
        drawn.setdefault(at, []).append(made)
        return made

    monkeypatch.setattr(compose, "frame", noted)
    monkeypatch.setattr("ezvar.core.output.making.check_row", lambda *a: Report())  # it is not what is asked here
    for place in places:
        make_one(doc, master, tmp_path, FrameRange(place, place + 2))
    viewer = Viewer(LockReader(doc), Proxy(tmp_path, [Span(0, doc.lock.frames, "strip", 0, 64, 36)]), Memory())
    asked = Result(doc, master, QSize(540, 960))
    viewer.view = View(QSize(64, 36), doc, (asked,))
    for place in places:
        with qtbot.waitSignal(viewer.shown, timeout=20_000):
            viewer.request(place + 1)
    viewer.close()
    assert len(mixed) >= 1
    for place in places:
        made, seen = drawn[place + 1]
        assert made.tags == seen.tags
        for a, b in ((made.y, seen.y), (made.u, seen.u), (made.v, seen.v)):
            assert np.array_equal(a, b), place
