"""Pictures of ten bits stay so from the source to the movie; in eight bits they are the same, rounded."""

from dataclasses import replace

import av
import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ezvar.core import compose, edits
from ezvar.core.compose import LockPictures
from ezvar.core.compose.sampling import sample
from ezvar.core.encoding import DELIVERY, preset_named
from ezvar.core.framing import Window
from ezvar.core.lock import LockReader, is_deep
from ezvar.core.media import TEN_BIT_420, Cel, ColourTags, MovieReader, Planes, laid_over
from ezvar.core.media.interlace import deinterlaced
from ezvar.core.model import DESIGNS, Backdrop, Cut, Framing, Keyframe, Master, Pane, PictureCoding, Rect, Title
from ezvar.core.output import Order, make_rows, row_of
from ezvar.core.planning import plan

from ..making import make_one
from ..media import make_movie

TAGS = {"color_primaries": 9, "color_trc": 16, "colorspace": 9, "color_range": 1}  # BT.2020, PQ
LOSSLESS = replace(DELIVERY, name="lossless", picture=PictureCoding("ffv1", "mkv", 10))


def sky(n, width, height):
    """A sky whose light rises by less than a level of eight bits from sample to sample: a frame of ten bits."""
    across = np.linspace(64, 940, width)[None, :] + np.linspace(0, 60, height)[:, None] + n
    y = np.clip(np.round(across), 64, 940).astype(np.uint16)
    small = cv2.resize(y, (width // 2, height // 2), interpolation=cv2.INTER_AREA)
    return Planes(
        y,
        (small // 4 + 400).astype(np.uint16),
        (600 - small // 8).astype(np.uint16),
        ColourTags(9, 16, 9, 1),
        TEN_BIT_420,
    ).frame()


@pytest.fixture(scope="module")
def doc(tmp_path_factory, cache):
    path = tmp_path_factory.mktemp("deep") / "sky.mkv"
    make_movie(path, 12, size=(1280, 360), codec="ffv1", pixels="yuv420p10le", picture=sky, tags=TAGS)
    return plan(path, [Master("m", "m", 360, 360)], cache).doc


def samples(path):
    """The pictures of a movie as it stores them, (height, width) of each plane."""
    with av.open(str(path)) as movie:
        return [(f.format.name, f.to_ndarray()) for f in movie.decode(video=0)]


def window(doc, **key):
    shot = doc.shots[0]
    pane = Pane((Keyframe(0, **{"cx": 0.4, "cy": 0.5, "zoom": 1.0} | key),))
    return edits.set_framings(doc, [Framing(shot.id, "m", (pane,))])


def test_ten_bits_of_the_source_are_those_of_the_movie(doc, tmp_path):
    doc = window(doc)
    made = make_one(doc, doc.masters[0], tmp_path, preset=LOSSLESS)
    assert made.problems == ()
    left = round(0.4 * 1280 - 180)
    for n, (name, found) in enumerate(samples(made.path)):
        assert name == "yuv420p10le"
        y = found[:360]
        assert np.array_equal(y, sky(n, 1280, 360).to_ndarray()[:360, left : left + 360])
        assert len(np.unique(y % 4)) == 4  # not eight bits in ten
    with av.open(str(made.path)) as movie:
        frame = next(movie.decode(video=0))
        assert (int(frame.color_primaries), int(frame.color_trc), int(frame.colorspace)) == (9, 16, 9)


@pytest.mark.parametrize("name", ["delivery, H.265 10 bit", "mezzanine, ProRes 422 HQ"])
def test_every_codec_of_ten_bits_is_given_them(doc, tmp_path, name):
    made = make_one(window(doc), doc.masters[0], tmp_path, preset=preset_named(name))
    assert made.problems == ()
    with MovieReader(made.path, deep=True) as reader:
        y = reader.frame(5).planes().y[100]
    wanted = sky(5, 1280, 360).to_ndarray()[100, 332:692].astype(float)
    assert np.abs(y - wanted).mean() < 1.0  # of 1023: a level of eight bits is four
    steps = np.abs(np.diff(cv2.GaussianBlur(y[None].astype(np.float32), (9, 1), 0)[0]))
    assert steps.max() < 2.5


def test_a_row_of_eight_bits_is_the_same_alone_and_beside_one_of_ten(doc, tmp_path):
    doc = window(doc)
    alone = make_one(doc, doc.masters[0], tmp_path / "alone", preset=DELIVERY)
    rows = [row_of(doc, doc.masters[0], preset) for preset in (DELIVERY, LOSSLESS)]
    rows = [replace(row, id=str(k)) for k, row in enumerate(rows)]
    both = make_rows(
        [Order(doc, row, tmp_path / f"both{row.id}.mov") for row in rows[:1]]
        + [Order(doc, rows[1], tmp_path / "deep.mkv")]
    )
    assert [m.error for m in both] == [None, None]
    for (_, a), (_, b) in zip(samples(alone.path), samples(both[0].path), strict=True):
        assert np.array_equal(a, b)
    assert all(name == "yuv420p10le" for name, _ in samples(both[1].path))


def test_all_that_is_drawn_in_ten_bits_is_what_is_drawn_in_eight(doc):
    """Grounds, panes, turned windows, titles, covers and mixes."""
    title = Title("t", "lower third", 0, 12, ("Lanterns",), DESIGNS["lower third"], cover=Rect(0.3, 0.2, 0.1, 0.2))
    whole = Pane((Keyframe(0, 0.5, 0.5, 0.3),), backdrop=Backdrop("picture", shadow=0.4, tint=0.3))
    turned = Pane((Keyframe(0, 0.4, 0.5, 1.4, 12.0),), Rect(0, 0, 1, 0.5))
    plain = Pane((Keyframe(0, 0.4, 0.5, 0.8),), Rect(0, 0.5, 1, 0.5), backdrop=Backdrop("colour", "#336699"))
    shots = doc.shots[0], replace(doc.shots[0], id="s2")
    shots = replace(shots[0], end=6), replace(shots[1], start=6, cut=Cut("dissolve", 4, 9))
    doc = replace(doc, shots=shots, titles=(title,))
    framed = zip(shots, ((whole,), (turned, plain)), strict=True)
    doc = edits.set_framings(doc, [Framing(s.id, "m", panes) for s, panes in framed])
    with LockReader(doc, deep=True) as deep, LockReader(doc) as flat:
        drawn, eight = LockPictures(deep), LockPictures(flat)
        assert is_deep(doc)
        assert (drawn.in_bits(8) is drawn, eight.in_bits(8) is eight) == (False, True)
        for frame in (1, 5, 7, 10):
            a = compose.frame(doc, doc.masters[0], frame, drawn)
            assert a.form == TEN_BIT_420
            assert a.y.max() < 1024
            b = compose.frame(doc, doc.masters[0], frame, eight)
            c = compose.frame(doc, doc.masters[0], frame, drawn.in_bits(8))
            for one, two, three in ((a.y, b.y, c.y), (a.u, b.u, c.u), (a.v, b.v, c.v)):
                assert np.array_equal(two, three)
                off = np.abs(one / 4 - two)
                assert off.mean() < 0.7
                assert np.percentile(off, 99) <= 3


@given(st.integers(0, 2**32 - 1), st.floats(0.4, 2.5), st.floats(0, 20), st.booleans())
def test_sampling_and_laying_over_do_the_same_in_both_depths(seed, scale, angle, full):
    rng = np.random.default_rng(seed)
    soft = cv2.GaussianBlur(rng.integers(16, 236, (90, 120)).astype(np.float32), (0, 0), 2)
    eight = soft.astype(np.uint8)
    there = Window(60, 45, 40 * scale, 30 * scale, angle)
    a, b = sample(eight, there, 40, 30), sample(eight.astype(np.uint16) * 4, there, 40, 30)
    assert b.dtype == np.uint16
    assert np.abs(b / 4 - a).max() <= 1.5
    tags = ColourTags(1, 1, 1, 2 if full else 1)
    half = np.full((15, 20), 100, np.uint8)
    ground = Planes(a, half, half, tags)
    cel = Cel(
        Planes(eight[:30, :40], half, half, ColourTags(1, 1, 1, 1)), rng.integers(0, 256, (30, 40)).astype(np.uint8)
    )
    over, deep = laid_over([(cel, 0.7)], ground), laid_over([(cel, 0.7)], ground.deep())
    assert np.abs(deep.y / 4 - over.y).max() <= 2
    assert deep.form == TEN_BIT_420
    assert np.array_equal(ground.deep().shallow().y, ground.y)
    assert np.array_equal(deinterlaced(eight.astype(np.uint16) * 4, 10) // 4, deinterlaced(eight))
