"""Drawing: windows where they should be, antialiased, with backdrops and panes."""

from dataclasses import replace

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ezvar.core.compose import draw_frame
from ezvar.core.compose.sampling import sample
from ezvar.core.framing import Window, fit_zoom, pane_window
from ezvar.core.framing.geometry import Size
from ezvar.core.media import ColourTags, Planes
from ezvar.core.model import Backdrop, Framing, Keyframe, Master, Pane, Rect

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
    drawn = draw_frame(framing_of(Keyframe(0, cx)), master, 0, picture)
    window = pane_window(Pane((Keyframe(0, cx),)), master, Size(320, 180), 0)
    assert (drawn.width, drawn.height, drawn.u.shape, drawn.tags) == (180, 320, (160, 90), HD)
    wanted = 16 + 219 * (window.left + (np.arange(180) + 0.5) * window.width / 180) / 320
    assert np.abs(drawn.y[100].astype(float) - wanted)[4:-4].max() < 2
    assert np.abs(drawn.u[50].astype(float) - wanted.reshape(-1, 2).mean(1))[4:-4].max() < 3
    small = draw_frame(framing_of(Keyframe(0, cx)), master, 0, picture, scale=0.25)
    assert (small.width, small.height) == (46, 80) or (small.width, small.height) == (44, 80)


def test_no_edge_shows_while_the_window_fills():
    picture = Planes(np.full((180, 320), 200, np.uint8), *(np.full((90, 160), 90, np.uint8) for _ in range(2)), HD)
    for keys in ((Keyframe(0, 0.0),), (Keyframe(0, 1.0, angle=20), Keyframe(10, 0.0, angle=-20))):
        drawn = draw_frame(framing_of(*keys), Master("m", "m", 180, 320), 5, picture)
        assert (drawn.y.min(), drawn.y.max()) == (200, 200)


@pytest.mark.parametrize(
    ("colour", "y", "u", "v"), [("#ff0000", 63, 102, 240), ("#000000", 16, 128, 128), ("#ffffff", 235, 128, 128)]
)
def test_a_coloured_backdrop_has_exactly_its_colour(colour, y, u, v):
    master = Master("m", "m", 180, 320, backdrop=Backdrop("colour", colour))
    zoom = fit_zoom(Size(320, 180), 180 / 320)
    drawn = draw_frame(framing_of(Keyframe(0, zoom=zoom)), master, 0, ramp())
    assert (drawn.y[5, 90], drawn.u[5, 45], drawn.v[5, 45]) == (y, u, v)
    middle = drawn.y[160].astype(float)  # the whole picture stands across the middle
    assert np.abs(middle - np.linspace(16, 235, 361)[1::2]).max() < 3


def test_the_blurred_backdrop_is_dark_soft_and_of_the_picture():
    picture = Planes(grain(3, 320, 180), *(np.full((90, 160), 60, np.uint8) for _ in range(2)), HD)
    master = Master("m", "m", 180, 320, backdrop=Backdrop("picture", darken=0.5))
    zoom = fit_zoom(Size(320, 180), 180 / 320)
    drawn = draw_frame(framing_of(Keyframe(0, zoom=zoom)), master, 0, picture)
    behind, front = drawn.y[:100].astype(float), drawn.y[115:205].astype(float)
    assert behind.mean() - 16 == pytest.approx((picture.y.mean() - 16) / 2, rel=0.15)
    assert np.abs(np.diff(behind)).mean() < np.abs(np.diff(front)).mean() / 3
    assert abs(int(drawn.u[20, 20]) - (128 - 34)) <= 2


def test_panes_stand_where_they_say():
    master = Master("m", "m", 180, 320, backdrop=Backdrop("colour", "#000000"))
    top = Pane((Keyframe(0, 0.0, zoom=4),), Rect(0, 0, 1, 0.5))
    foot = Pane((Keyframe(0, 1.0, zoom=4),), Rect(0, 0.5, 1, 0.4))
    drawn = draw_frame(Framing("s", "m", (top, foot)), master, 0, ramp())
    assert drawn.y[80].max() < drawn.y[220].min()
    assert (drawn.y[300:] == 16).all()
    assert (drawn.u[150:] == 128).all()


def test_full_range_pictures_keep_their_black():
    picture = replace(ramp(), tags=replace(HD, range=2))
    master = Master("m", "m", 180, 320, backdrop=Backdrop("colour", "#000000"))
    assert draw_frame(framing_of(Keyframe(0, zoom=0.2)), master, 0, picture).y[0, 0] == 0
