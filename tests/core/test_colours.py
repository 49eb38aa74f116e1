"""Colours: tables, HDR and the light it was graded on, in what is drawn, said and checked."""

from dataclasses import replace

import av
import cv2
import numpy as np
import pytest
from av.video.reformatter import VideoReformatter
from hypothesis import given, settings
from hypothesis import strategies as st

from ezvar.core import compose, edits
from ezvar.core.compose import LockPictures
from ezvar.core.encoding import DELIVERY, MovieWriter, PictureForm, Segment, SegmentWriter, join, preset_named
from ezvar.core.errors import MediaError
from ezvar.core.lock import LockReader, coloured_proxy
from ezvar.core.media import ColourTable, ColourTags, MovieReader, Planes, probe, read_cube, tabled, tone_table
from ezvar.core.media.colours.light import MasteringLight
from ezvar.core.media.colours.tone import compressed, hdr_of_sdr, light_of_pq, pq_of_light
from ezvar.core.model import Caption, CaptionTrack, Colouring, Master, MediaTable, Span
from ezvar.core.output import before_making, check_row, row_of, segment_name
from ezvar.core.output.checking.colours import looked_up
from ezvar.core.output.segments import form_of, shown_of
from ezvar.core.planning import plan
from ezvar.core.store import load_project, save_project
from ezvar.core.timing import FrameRange, Rate

from ..making import make_one
from ..media import make_movie, scenes
from .test_checking import order_of

LIGHT = MasteringLight((34000, 16000), (13250, 34500), (7500, 3000), (15635, 16450), 50, 10_000_000, 900, 400)


def steps(side):
    axis = np.linspace(0, 1, side)
    blue, green, red = np.meshgrid(axis, axis, axis, indexing="ij")
    return np.stack([red, green, blue], axis=-1)


def bent(side=17):
    """A table as a grade would be: soft curves, colours mixed."""
    mixed = steps(side) @ np.array([[0.8, 0.1, 0.05], [0.15, 0.75, 0.1], [0.1, 0.1, 0.8]])
    return ColourTable(np.clip(mixed**1.3, 0, 1).astype(np.float32))


@pytest.fixture
def cube(tmp_path):
    path = tmp_path / "bent.cube"
    path.write_text(f'TITLE "bent"\n# by hand\n{bent().text}')
    return path


@pytest.fixture(scope="module")
def doc(tmp_path_factory, cache):
    movie = make_movie(
        tmp_path_factory.mktemp("colours") / "walk.mp4", 50, size=(640, 360),
        picture=lambda n, w, h: scenes(n, w, h, 25),
    )  # fmt: skip
    return plan(movie, [Master("m", "m", 360, 360)], cache).doc


@pytest.fixture(scope="module")
def hdr(tmp_path_factory, cache):
    """A movie of HDR in ten bits: scenes up to 700 cd/m², graded on a screen of 1000."""
    path = tmp_path_factory.mktemp("hdr") / "bright.mp4"
    tags = ColourTags(9, 16, 9, 1, LIGHT)

    coding = preset_named("delivery, H.265 10 bit").picture
    form = PictureForm(replace(coding, quality=10), 640, 360, Rate(25, 1), tags)
    writer = SegmentWriter(path.with_name("part.mp4"), form)
    for n in range(50):
        light = (scenes(n, 640, 360, 25) / 255) ** 2.4 * 700
        frame = av.VideoFrame.from_ndarray(np.round(pq_of_light(light) * 65535).astype(np.uint16), format="rgb48le")
        frame = frame.reformat(format="yuv420p10le", dst_colorspace=9, dst_color_range=1)
        writer.picture(replace(Planes.of_frame(frame, VideoReformatter(), deep=True), tags=tags))
    writer.close()
    join([Segment(path.with_name("part.mp4"), 50)], path, form)
    return plan(path, [Master("m", "m", 360, 360)], cache).doc


@given(st.integers(2, 7), st.booleans(), st.integers(0, 2**32 - 1))
def test_tables_are_read_as_they_were_written(tmp_path_factory, side, curves, seed):
    values = np.random.default_rng(seed).random((side, 3) if curves else (side, side, side, 3)).astype(np.float32)
    table = ColourTable(values, (0.0, -0.1, 0.0), (1.0, 1.2, 1.0))
    path = tmp_path_factory.mktemp("cubes") / "a.cube"
    path.write_text(table.text)
    found = read_cube(path)
    assert np.abs(found.values - values).max() < 1e-6
    assert (found.low, found.high, found.of_curves) == (table.low, table.high, curves)


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("", "no size is stated"),
        ("LUT_3D_SIZE 2\n" + "0 0 0\n" * 7, "7 colours instead of 8"),
        ("LUT_3D_SIZE 999999999999\n", "between 2 and 129"),
        ("LUT_3D_SIZE 2\n" + "0 0 0\n" * 7 + "0 0\n", "line 9"),
        ("LUT_1D_SIZE 2\n0 0 0\nnan 1 1\n", "make no table"),
        ("LUT_1D_SIZE 2\n0 0 0\n1 1 1e\n", "no number"),
        ("LUT_1D_SIZE 2\nDOMAIN_MAX 0 0 0\n0 0 0\n1 1 1\n", "make no table"),
        ("LUT_1D_SIZE 2\nDOMAIN_MAX 1\n", "three numbers"),
    ],
)
def test_what_is_no_table_is_refused_in_a_sentence(tmp_path, text, said):
    path = tmp_path / "a.cube"
    path.write_text(text)
    with pytest.raises(MediaError, match=said):
        read_cube(path)


@settings(max_examples=12)
@given(st.integers(0, 2**32 - 1), st.sampled_from([1, 5, 9]), st.booleans(), st.booleans())
def test_a_table_does_to_pictures_what_it_says(seed, matrix, full, deep):
    """By the filter, in YUV, as by a second interpolation in R'G'B'."""
    rng = np.random.default_rng(seed)
    rgb = cv2.resize(rng.integers(40, 200, (5, 8, 3)).astype(np.uint8), (128, 80), interpolation=cv2.INTER_CUBIC)
    planes = Planes.of_rgb(rgb).recoded(matrix, full)
    planes = planes.deep() if deep else planes
    wide = ColourTable(np.linspace((0.0,) * 3, (1.0, 0.9, 0.8), 5).astype(np.float32), high=(1.0, 1.0, 1.0))
    for tables in ([bent()], [wide], [wide, bent(9)]):
        wanted = planes.rgb()
        for table in tables:
            wanted = looked_up(table, wanted)
        made = tabled(planes, tables)
        assert (made.form, made.tags) == (planes.form, planes.tags)
        assert np.abs(made.rgb().astype(int) - wanted)[4:-4, 4:-4].mean() < 1.5
    assert tabled(planes, []) is planes


def test_hdr_is_brought_to_sdr_by_the_curve_that_is_stated():
    light = np.array([1.0, 50.0, 92.0, 203.0, 400.0, 1000.0])
    shown = compressed(light, 1000.0)
    assert np.allclose(shown[:3], light[:3], rtol=0.01)  # up to the knee nothing changes
    assert np.all(np.diff(shown) > 0)
    assert shown[-1] == pytest.approx(203, rel=1e-3)
    assert np.allclose(light_of_pq(pq_of_light(light)), light)
    grey = tone_table(16).values[np.arange(49), np.arange(49), np.arange(49)]
    assert np.abs(grey - grey[:, :1]).max() < 1e-3  # grey stays grey
    for transfer in (16, 18):  # what was SDR comes back nearly as it was
        table, signal = tone_table(transfer), np.full((1, 3), 0.5)
        back = looked_up(table, np.round(hdr_of_sdr(signal[None], transfer) * 255).astype(np.uint8)) / 255
        assert np.abs(back - 0.5).max() < 0.02


def test_a_table_is_in_previews_masters_and_their_check(doc, cube, tmp_path):
    plain = make_one(doc, doc.masters[0], tmp_path / "plain")
    asked = edits.set_table(doc, str(cube))
    made = make_one(asked, doc.masters[0], tmp_path / "asked")
    assert plain.problems == made.problems == ()
    assert any("not as decided" in p or "dB" in p for p in check_row(order_of(doc, made.path)).problems)
    assert check_row(order_of(asked, plain.path)).problems
    assert check_row(order_of(edits.turn_tables(asked), plain.path)).problems == ()
    own = edits.set_table(asked, "", doc.lock.media[0].id)
    assert check_row(order_of(own, plain.path)).problems == ()  # this media has none
    with LockReader(asked) as reader, LockPictures(reader) as pictures, MovieReader(doc.lock.media[0].path) as raw:
        seen = pictures.of_shot(asked.shots[0], 3).rgb(320, 180).astype(int)
        proxy = coloured_proxy(asked, asked.shots[0], raw.frame(3).rgb(320, 180)).rgb()
        assert np.abs(proxy - seen).mean() < 3
        assert np.abs(seen - raw.frame(3).rgb(320, 180)).mean() > 8


def test_a_table_names_what_it_changes_and_is_missed(doc, cube, tmp_path):
    asked = edits.set_table(doc, str(cube))
    row = row_of(doc, doc.masters[0], DELIVERY)

    def name(of):
        form = form_of(of, row, ColourTags(1, 1, 1, 1))
        return segment_name(of, of.masters[0], FrameRange(0, 25), form, shown_of(row))

    assert name(doc) == name(edits.turn_tables(asked)) != name(asked)
    save_project(asked, tmp_path / "p.ezvar")
    assert "bent.cube" in (tmp_path / "p.ezvar").read_text()
    assert str(tmp_path) not in (tmp_path / "p.ezvar").read_text().split("colouring")[1][:100]
    assert load_project(tmp_path / "p.ezvar").colouring == asked.colouring
    cube.unlink()
    assert any("colour table is left out" in c.said for c in before_making(asked, [row]))
    made = make_one(asked, doc.masters[0], tmp_path / "made")
    assert any("Left out" in p and "bent.cube" in p for p in made.problems)


def test_tables_follow_their_media_into_a_changed_lock(doc):
    asked = edits.set_table(edits.set_table(doc, "/a.cube"), "/b.cube", doc.lock.media[0].id)
    media = replace(doc.lock.media[0], id="renamed")
    shots = tuple(replace(s, source=replace(s.source, media="renamed")) for s in doc.shots)
    changed = replace(doc, lock=replace(doc.lock, media=(media,)), shots=shots)
    same = {s.id: edits.Match(s.id, 0) for s in doc.shots}
    after, _ = edits.carry(asked, changed, same)
    assert after.colouring == Colouring("/a.cube", (MediaTable("renamed", "/b.cube"),))


@pytest.mark.parametrize("name", ["delivery, H.264 10 bit", "delivery, H.265 10 bit", "web, AV1"])
def test_hdr_stays_hdr_and_says_the_light_it_was_graded_on(hdr, tmp_path, name):
    preset = preset_named(name)
    preset = replace(preset, picture=replace(preset.picture, depth=10))
    made = make_one(hdr, hdr.masters[0], tmp_path, preset=preset)
    assert made.problems == ()
    tags = probe(made.path).tags
    assert (tags.primaries, tags.transfer, tags.matrix) == (9, 16, 9)
    assert LIGHT.like(tags.light)
    dim = replace(LIGHT, brightest=4_000_000)
    assert not LIGHT.like(dim)
    assert not LIGHT.like(None)


def test_a_movie_that_says_other_colours_fails_its_check(hdr, tmp_path):
    made = make_one(hdr, hdr.masters[0], tmp_path, preset=preset_named("delivery, H.265 10 bit"))
    other = tmp_path / "other.mp4"
    out = MovieWriter(other, 360, 360, hdr.lock.rate, ColourTags(1, 1, 1, 1), False, preset=DELIVERY)
    with MovieReader(made.path) as reader:
        for picture in reader.frames():
            out.picture(replace(picture.planes(), tags=ColourTags(1, 1, 1, 1)))
    out.close()
    said = " ".join(check_row(order_of(hdr, other)).problems)
    assert "transfer of colour is tagged 1, not 16" in said
    assert "light that it was graded on" in said


def test_hdr_is_tone_mapped_when_asked_and_graphics_lie_in_it_at_the_white_of_sdr(hdr, tmp_path):
    asked = edits.set_tone_mapped(hdr, True)
    made = make_one(asked, hdr.masters[0], tmp_path / "sdr")
    assert made.problems == ()
    assert (probe(made.path).tags.transfer, probe(made.path).tags.light) == (1, None)
    row = row_of(hdr, hdr.masters[0], DELIVERY)
    assert [c.said for c in before_making(hdr, [row]) if "8 bits" in c.said]
    assert not [c.said for c in before_making(asked, [row]) if "HDR" in c.said]
    captioned = replace(hdr, tracks=(CaptionTrack("t", "t", (Caption("c", 0, 1500, (Span("White words"),)),)),))
    made = make_one(captioned, hdr.masters[0], tmp_path / "hdr", preset=preset_named("delivery, H.265 10 bit"))
    assert made.problems == ()
    with LockReader(captioned, deep=True) as reader, LockPictures(reader) as pictures:
        drawn = compose.frame(captioned, hdr.masters[0], 5, pictures)
        bare = compose.frame(hdr, hdr.masters[0], 5, pictures)
    words = drawn.y[drawn.y != bare.y]
    assert light_of_pq((float(words.max()) - 64) / 876) == pytest.approx(203, rel=0.05)
