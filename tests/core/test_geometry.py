"""The geometry of windows, for any picture and any shape."""

import numpy as np
import pytest
from hypothesis import assume, example, given
from hypothesis import strategies as st

from ezvar.core.framing import Size, Window, clamped, enlargement, fit_zoom, pixel_zoom, window
from ezvar.core.model import LEAST_ZOOM

from ..strategies import aspects

sides = st.integers(16, 8192)
sizes = st.builds(Size, sides, sides)
angles = st.one_of(st.just(0.0), st.floats(-180, 180))
centres = st.floats(-0.5, 1.5)
tight = st.floats(1, 12)


@given(sizes, aspects, centres, centres, tight, angles)
def test_from_zoom_1_on_only_picture_shows(picture, aspect, cx, cy, zoom, angle):
    w = clamped(window(picture, aspect, cx, cy, zoom, angle), picture)
    assert w.covers(picture, tolerance=1e-6 * max(picture.width, picture.height))
    corners = w.corners()
    slack = 1e-6 * max(picture.width, picture.height)
    assert (corners >= -slack).all()
    assert (corners <= (picture.width + slack, picture.height + slack)).all()


@given(sizes, aspects, centres, centres, st.floats(0.05, 12), angles)
def test_the_shape_is_exact_and_clamping_changes_no_size(picture, aspect, cx, cy, zoom, angle):
    free = window(picture, aspect, cx, cy, zoom, angle)
    w = clamped(free, picture)
    assert w.width / w.height == pytest.approx(aspect, rel=1e-12)
    assert (w.width, w.height, w.angle) == (free.width, free.height, free.angle)
    again = clamped(w, picture)
    assert (again.cx, again.cy) == pytest.approx((w.cx, w.cy), rel=1e-12)


@given(sizes, aspects, centres, centres, tight, angles)
def test_the_centre_is_kept_when_possible_and_moves_least_when_not(picture, aspect, cx, cy, zoom, angle):
    free = window(picture, aspect, cx, cy, zoom, angle)
    w, box = clamped(free, picture), free.bounds()
    for asked, got, half, whole in (
        (free.cx, w.cx, box.width / 2, picture.width),
        (free.cy, w.cy, box.height / 2, picture.height),
    ):
        if half <= asked <= whole - half:
            assert got == asked
        else:
            assert got == pytest.approx(half if asked < whole / 2 else whole - half, abs=1e-6 * whole)


@given(sizes, aspects, angles)
def test_zoom_1_touches_two_opposite_sides(picture, aspect, angle):
    """No larger window of the shape and angle fits: that is what zoom 1 means."""
    box = window(picture, aspect, 0.5, 0.5, 1.0, angle).bounds()
    assert max(box.width / picture.width, box.height / picture.height) == pytest.approx(1, rel=1e-9)


@given(sizes, aspects, angles, st.floats(0, 1), st.floats(0, 1))
@example(Size(16, 1829), 140 / 16, 0.0, 0.5, 0.5)
def test_at_fit_zoom_the_whole_picture_shows_just(picture, aspect, angle, cx, cy):
    zoom = fit_zoom(picture, aspect, angle)
    assert zoom <= 1 + 1e-9
    w = window(picture, aspect, 0.5, 0.5, zoom, angle)
    corners = np.array([[0, 0], [picture.width, 0], [picture.width, picture.height], [0, picture.height]], float)
    c, s = np.cos(np.radians(angle)), np.sin(np.radians(angle))
    inside = (corners - (w.cx, w.cy)) @ np.array([[c, -s], [s, c]])
    reach = np.abs(inside).max(axis=0) / (w.width / 2, w.height / 2)
    if zoom == LEAST_ZOOM:  # shapes too far apart: no window shows it whole
        assert reach.max() >= 1 - 1e-9
        return
    assert reach.max() == pytest.approx(1, rel=1e-9)
    if angle == 0:  # moved about, the picture stays in the window
        moved = clamped(window(picture, aspect, cx, cy, zoom), picture)
        slack = 1e-6 * max(picture.width, picture.height)
        assert moved.left <= slack
        assert moved.top <= slack
        assert moved.left + moved.width >= picture.width - slack
        assert moved.top + moved.height >= picture.height - slack


@given(sizes, aspects, st.integers(16, 4000), angles)
def test_pixel_zoom_enlarges_nothing(picture, aspect, height, angle):
    w = window(picture, aspect, 0.5, 0.5, pixel_zoom(picture, aspect, height, angle), angle)
    assert w.height == pytest.approx(height)
    assert enlargement(w, height) == pytest.approx(1)


@given(sizes, aspects, centres, centres, st.floats(0.2, 4), angles, st.integers(2, 4000))
def test_the_map_takes_the_surface_onto_the_window(picture, aspect, cx, cy, zoom, angle, height):
    w = window(picture, aspect, cx, cy, zoom, angle)
    width = height * aspect
    surface = np.array([[0, 0, 1], [width, 0, 1], [width, height, 1], [0, height, 1]])
    assert surface @ w.matrix(width, height).T == pytest.approx(
        w.corners(), abs=1e-6 * max(w.width, w.height, abs(w.cx), 1)
    )


def test_a_window_at_an_angle_turns_clockwise():
    corners = Window(0, 0, 4, 2, 90).corners()
    assert corners[0] == pytest.approx([1, -2])  # its top left corner has gone to the top right


@given(sizes, aspects, tight, st.floats(1, 12))
def test_tighter_means_smaller(picture, aspect, a, b):
    assume(abs(a - b) > 1e-6)
    wide, narrow = sorted((a, b))
    assert window(picture, aspect, 0.5, 0.5, wide).height > window(picture, aspect, 0.5, 0.5, narrow).height
