"""Drawn subjects: tracked both ways, and let go of where they leave or are covered."""

import cv2
import numpy as np
import pytest

from ezvar.core.evidence import track
from ezvar.core.media import Picture, Planes
from ezvar.core.model import Rect
from ezvar.core.progress import Cancelled, CancelToken

WIDTH, HEIGHT, FRAMES = 320, 180, 60


def texture(seed, width, height):
    rng = np.random.default_rng(seed)
    coarse = rng.uniform(20, 235, (max(3, height // 8), max(3, width // 8), 3)).astype(np.float32)
    return cv2.resize(coarse, (width, height), interpolation=cv2.INTER_CUBIC).clip(0, 255).astype(np.uint8)


def movie(way, post=None, grows=0.0):
    """Pictures in which a textured thing, 40 by 50 pixels at first, goes ``way(k)``, behind a post if there is one."""
    ground, thing = texture(1, WIDTH, HEIGHT), texture(2, 40, 50)
    made = []
    for k in range(FRAMES):
        image = ground.copy()
        size = (round(40 * (1 + grows * k)), round(50 * (1 + grows * k)))
        x, y = way(k)
        matrix = np.float32([[size[0] / 40, 0, x], [0, size[1] / 50, y]])
        cv2.warpAffine(thing, matrix, (WIDTH, HEIGHT), image, borderMode=cv2.BORDER_TRANSPARENT)
        if post is not None:
            image[:, post : post + 70] = 40
        made.append(Picture(k, Planes.of_rgb(image), WIDTH, HEIGHT))
    return lambda start: iter(made[start:])


def box(x, y, wide=40, high=50):
    return Rect(x / WIDTH, y / HEIGHT, wide / WIDTH, high / HEIGHT)


@pytest.mark.parametrize("drawn", [0, 31, FRAMES - 1])
def test_a_drawn_subject_is_tracked_both_ways(drawn):
    def way(k):
        return 40 + 3 * k, 60 + 20 * np.sin(k / 10)

    found = track(
        movie(way, grows=0.004), 0, FRAMES, drawn, box(*way(drawn), 40 * (1 + 0.004 * drawn), 50 * (1 + 0.004 * drawn))
    )
    assert (found.frames[0], found.frames[-1], found.before, found.after) == (0, FRAMES - 1, "", "")
    assert drawn in found.frames
    for n, b in zip(found.frames, found.boxes, strict=True):
        x, y = way(n)
        middle = (b.x + b.width / 2) * WIDTH, (b.y + b.height / 2) * HEIGHT
        grown = 1 + 0.004 * n
        assert middle == pytest.approx((x + 20 * grown, y + 25 * grown), abs=4)


def test_it_ends_where_the_subject_leaves_and_says_so():
    found = track(movie(lambda k: (120 + 6.0 * k, 60)), 0, FRAMES, 5, box(150, 60))
    assert found.frames[0] == 0
    assert 25 <= found.frames[-1] <= 33  # at 30 half of it is gone
    assert found.after == "It leaves the picture."


def test_it_ends_where_the_subject_is_covered_and_says_so():
    found = track(movie(lambda k: (40 + 3.0 * k, 60), post=130), 0, FRAMES, 2, box(46, 60))
    assert 20 <= found.frames[-1] <= 30  # at 30 it stands behind the post
    assert "covered" in found.after


def test_what_cannot_be_tracked_is_refused_and_a_cancel_is_heard():
    pictures = movie(lambda k: (40, 60))
    with pytest.raises(ValueError, match="on a frame of the shot"):
        track(pictures, 0, 20, 20, box(40, 60))
    with pytest.raises(ValueError, match="too small"):
        track(pictures, 0, 20, 2, Rect(0.5, 0.5, 0.001, 0.001))
    token = CancelToken()
    with pytest.raises(Cancelled):
        track(pictures, 0, FRAMES, 30, box(40, 60), lambda *_: token.cancel(), token)
