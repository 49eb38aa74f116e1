"""Masters made in segments and in one pass: joined they are what was drawn, and only what changed is made again."""

import os
import re
import signal
import subprocess
import sys
import threading
from dataclasses import replace
from fractions import Fraction
from functools import partial
from itertools import pairwise
from pathlib import Path
from random import Random

import av
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ezvar.core import compose, edits
from ezvar.core.compose import ALL, LockPictures
from ezvar.core.compose.sampling import coverage, sample
from ezvar.core.encoding import (
    CODERS,
    DELIVERY,
    PRESETS,
    PRESETS_KEPT,
    PictureForm,
    known_presets,
    preset_named,
    wrong_with,
)
from ezvar.core.encoding.codecs import grade_of
from ezvar.core.errors import InputError, MediaError, OutputError, ProjectError
from ezvar.core.framing import Window
from ezvar.core.lock import LockReader
from ezvar.core.media import ColourTags, MovieReader, probe, read_still, sound_blocks
from ezvar.core.model import (
    DESIGNS,
    Backdrop,
    Caption,
    CaptionTrack,
    Cut,
    Document,
    Framing,
    Keyframe,
    Lock,
    Making,
    Master,
    Media,
    Pane,
    PictureCoding,
    Preset,
    Report,
    Shot,
    SoundCoding,
    Source,
    Span,
    Title,
)
from ezvar.core.output import Order, file_stamp, make_rows, named, parted, row_of, segment_name, targets
from ezvar.core.output import segments as segments_module
from ezvar.core.planning import plan
from ezvar.core.progress import Cancelled, CancelToken
from ezvar.core.store import save_project
from ezvar.core.threads import ahead
from ezvar.core.timing import FrameRange, Rate

from ..making import make_one
from ..media import make_movie, number_in, numbered, scenes

MOVIES = [p for p in PRESETS if p.picture.container != "images"]
IMAGES = [p for p in PRESETS if p.picture.container == "images"]
pytestmark = pytest.mark.usefixtures("movement_alone")


@pytest.fixture
def short_segments(monkeypatch):
    """Segments of a second and more, so that small movies have several."""
    monkeypatch.setattr(segments_module, "LEAST", 1)
    monkeypatch.setattr(segments_module, "_PATIENCE", 2)
    monkeypatch.setattr(segments_module, "MOST", 3)


@pytest.fixture(scope="module")
def cut_up(tmp_path_factory, cache, movement_alone):
    """A movie of five scenes of 30 frames, planned for one master that shows all of it."""
    path = tmp_path_factory.mktemp("movie") / "cuts.mp4"
    movie = make_movie(path, 150, size=(320, 180), picture=lambda n, w, h: scenes(n, w, h, 30), sound="beeps")
    doc = plan(movie, [Master("m", "m", 320, 180)], cache).doc
    assert len(doc.shots) == 5
    return doc


@pytest.fixture(scope="module")
def busy(tmp_path_factory, cache, movement_alone):
    """As `cut_up`, with pictures that take as many bits as they are given."""
    path = tmp_path_factory.mktemp("movie") / "busy.mp4"
    movie = make_movie(path, 150, size=(320, 180), picture=numbered, sound="beeps")
    doc = plan(movie, [Master("m", "m", 320, 180)], cache).doc
    shots = tuple(replace(doc.shots[0], id=str(n), start=n, end=n + 30, cut=None) for n in range(0, 150, 30))
    shots = tuple(replace(s, source=s.source.later(s.start)) for s in shots)
    return replace(doc, shots=shots, framings=tuple(Framing(s.id, "m", (Pane((Keyframe(0),)),)) for s in shots))


def pictures(path):
    """The samples of all pictures of a movie, as they are coded."""
    with av.open(str(path)) as movie:
        return [
            np.concatenate([_samples(p, f.format.components[0].bits) for p in f.planes]) for f in movie.decode(video=0)
        ]


def _samples(plane, bits):
    wide = plane.width * (2 if bits > 8 else 1)
    return np.frombuffer(plane, np.uint8).reshape(-1, plane.line_size)[: plane.height, :wide].ravel()


@given(st.lists(st.tuples(st.integers(1, 1500), st.booleans()), min_size=1, max_size=12), st.data())
def test_segments_begin_at_cuts_and_last_as_long_as_these_allow(lengths, data):
    shots, at = [], 0
    for n, (frames, mixed) in enumerate(lengths):
        cut = Cut("dissolve", max(0, at - 4), at + 4) if n and mixed else None
        shots.append(Shot(str(n), at, at + frames, Source("m", Fraction(0), Fraction(1)), cut=cut))
        at += frames
    doc = _doc(shots, at)
    start = data.draw(st.integers(0, at - 1))
    span = FrameRange(start, data.draw(st.integers(start + 1, at)))
    found = parted(doc, span)
    assert (found[0].start, found[-1].end) == (span.start, span.end)
    assert all(a.end == b.start for a, b in pairwise(found))
    assert all(len(each) <= 25 * 60 for each in found)
    assert len(found) == 1 or all(len(each) >= 25 * 8 for each in found)
    hard = {s.start for s in shots if s.cut is None}
    for each in found:
        assert not any(each.start + 200 <= cut < each.end and cut + 200 <= span.end for cut in hard)


def _doc(shots, frames):
    media = (Media(id="m", path="", name="m", rate=Rate(25), frames=frames, width=64, height=64, content="c"),)
    return Document(Lock("l", Rate(25), frames, 64, 64, media=media), tuple(shots))


@pytest.mark.parametrize("preset", MOVIES, ids=[p.name for p in MOVIES])
def test_joined_segments_are_what_was_coded(cut_up, tmp_path, short_segments, monkeypatch, preset):
    """Every preset: several segments, each as it was, one after the other; tags, rate and length right."""
    quick = replace(preset, picture=replace(preset.picture, effort="quick"))
    kept = []
    monkeypatch.setattr("ezvar.core.output.job.RowJob.tidy", lambda job: kept.append([p.segment for p in job.parts]))
    made = make_one(cut_up, cut_up.masters[0], tmp_path / "out", preset=quick)
    assert made.problems == ()
    (parts,) = kept
    assert len(parts) >= 3
    coded = [picture for part in parts for picture in pictures(part.path)]
    joined = pictures(made.path)
    assert len(joined) == 150
    assert all(np.array_equal(a, b) for a, b in zip(coded, joined, strict=True))
    facts = probe(made.path)
    assert (facts.width, facts.height, facts.rate, facts.frames) == (320, 180, Rate(25), 150)
    with av.open(str(made.path)) as movie:
        if tag := grade_of(preset.picture).tag:
            assert movie.streams.video[0].codec_context.codec_tag == tag
    with MovieReader(made.path) as reader, MovieReader(cut_up.lock.media[0].path) as lock:
        assert reader.frame(0).tags.matrix == (1 if preset.picture.codec == "dnxhr" else 6)
        for n in range(0, 150, 7):
            got = reader.frame(n).planes()
            assert np.abs(got.y.astype(int) - lock.frame(n).planes().coded_as(got).y).mean() < 4
    sound = np.concatenate(list(sound_blocks(facts)), axis=1)[0]
    loud = np.abs(sound) > 0.2
    starts = [int(i) for i in np.flatnonzero(loud) if not loud[max(0, i - 4000) : i].any()]
    assert len(starts) == 12
    assert all(abs(start - 24_000 * k) < 480 for k, start in enumerate(starts))
    silent = np.concatenate([sound[s + 4000 : s + 22_000] for s in starts])
    assert np.abs(silent).max() < 0.01  # no clicks, at joins neither


@pytest.mark.parametrize("rate", [Fraction(24000, 1001), Fraction(25), Fraction(30000, 1001), Fraction(60000, 1001)])
def test_each_frame_is_its_own_and_its_sound_lies_under_it_across_joins(tmp_path, cache, short_segments, rate):
    movie = make_movie(tmp_path / "n.mp4", 200, rate=rate, sound="beeps")
    doc = plan(movie, [Master("m", "m", 192, 108)], cache).doc
    doc = edits.add_cut(edits.add_cut(doc, 70), 140)
    doc = replace(doc, framings=tuple(Framing(s.id, "m", (Pane((Keyframe(0),)),)) for s in doc.shots))
    made = make_one(doc, doc.masters[0], tmp_path / "out", FrameRange(10, 190))
    assert (made.problems, len(made.parts) > 1) == ((), True)
    with MovieReader(made.path) as reader:
        assert [number_in(reader.frame(n).planes().y) for n in range(180)] == list(range(10, 190))
        assert reader.facts.rate == Rate(rate.numerator, rate.denominator)
    sound = np.concatenate(list(sound_blocks(probe(made.path))), axis=1)[0]
    offset = round(Fraction(10) / rate * 48_000)
    loud = np.abs(sound) > 0.2
    starts = [int(i) for i in np.flatnonzero(loud) if not loud[max(0, i - 4000) : i].any()]
    wanted = [k for k in range(20) if 0 <= 24_000 * k - offset < len(sound) - 480]
    assert all(abs(s - (24_000 * k - offset)) < 480 for s, k in zip(starts, wanted, strict=True))


@pytest.mark.parametrize("suffix", [".mp4", ".mkv"])
def test_a_lock_whose_pictures_come_unevenly_is_made_evenly(tmp_path, cache, short_segments, suffix):
    """Each frame shows the picture that is on screen at its time, in segments and across their joins."""
    times = np.cumsum([0, *Random(7).choices([24, 24, 48, 96], k=99)])
    movie = make_movie(tmp_path / f"uneven{suffix}", 100, times=times.tolist(), gop=15)
    doc = plan(movie, [Master("m", "m", 192, 108)], cache).doc
    frames = doc.lock.frames
    for cut in (frames // 3, 2 * frames // 3):
        doc = edits.add_cut(doc, cut)
    doc = replace(doc, framings=tuple(Framing(s.id, "m", (Pane((Keyframe(0),)),)) for s in doc.shots))
    made = make_one(doc, doc.masters[0], tmp_path / "out")
    assert (made.problems, made.frames, len(made.parts) > 1) == ((), frames, True)
    at = [float(doc.lock.rate.seconds(n)) * 600 for n in range(frames)]
    on_screen = [max(k for k, t in enumerate(times) if t <= now + 1) for now in at]
    with MovieReader(made.path) as reader:
        assert reader.facts.steady
        assert [number_in(reader.frame(n).planes().y) for n in range(frames)] == on_screen


def test_a_change_in_one_shot_makes_only_its_segment_again(cut_up, tmp_path, short_segments):
    row = row_of(cut_up, cut_up.masters[0], DELIVERY)
    target = targets(cut_up, [row], tmp_path / "out")[row.id]
    told = []

    def make(doc, before):
        told.clear()
        (made,) = make_rows([Order(doc, row, target, before)], on_part=lambda *said: told.append(said[1:]))
        assert made.problems == ()
        before = Making(str(made.path), file_stamp(made.path), made.parts, made.sound)
        return before, [(start, end) for start, end, doing in told if doing == "under way"]

    before, first = make(cut_up, None)
    assert len(first) == 5
    before, second = make(cut_up, before)
    assert second == []
    old = pictures(target)
    shot = cut_up.shots[2]
    moved = replace(cut_up.framing(shot.id, "m"), panes=(Pane((Keyframe(0, zoom=2.0),)),))
    changed = edits.set_framings(cut_up, [moved])
    again, second = make(changed, before)
    assert second == [(60, 90)]
    assert again.sound == before.sound
    new = pictures(target)
    assert all(np.array_equal(a, b) for a, b in zip(old[:60] + old[90:], new[:60] + new[90:], strict=True))
    whole = make_one(changed, changed.masters[0], tmp_path / "whole")
    assert all(np.array_equal(a, b) for a, b in zip(pictures(whole.path), new, strict=True))
    caption = edits.add_track(changed, CaptionTrack("t", "t", (Caption("c", 4900, 5300, (Span("Hello"),)),)))
    assert make(caption, again)[1] == [(120, 150)]


@pytest.mark.parametrize("preset", IMAGES, ids=[p.name for p in IMAGES])
def test_images_are_numbered_in_a_folder_and_only_what_changed_is_coded_again(cut_up, tmp_path, short_segments, preset):
    master = cut_up.masters[0]
    row = row_of(cut_up, master, preset, FrameRange(15, 115))
    target = targets(cut_up, [row], tmp_path / "out")[row.id]
    (made,) = make_rows([Order(cut_up, row, target)])
    names = sorted(p.name for p in target.iterdir())
    assert (made.error, made.problems, len(names)) == (None, (), 100)
    assert names[0].startswith("cuts m.000001.")
    with MovieReader(cut_up.lock.media[0].path) as lock:
        for n in (0, 37, 99):
            got = read_still(target / names[n]).picture.planes()
            wanted = lock.frame(n + 15).planes()
            assert np.abs(got.rgb().astype(int) - wanted.rgb()).mean() < 4
    shot = cut_up.shots[2]
    doc = edits.set_framings(cut_up, [replace(cut_up.framing(shot.id, "m"), panes=(Pane((Keyframe(0, zoom=2.0),)),))])
    before, told = Making(str(made.path), file_stamp(made.path), made.parts), []
    (again,) = make_rows([Order(doc, row, target, before)], on_part=lambda _, *said: told.append(said))
    assert [said[:2] for said in told if said[2] == "under way"] == [(60, 90)]
    assert (again.problems, sorted(p.name for p in target.iterdir())) == ((), names)
    assert [p.name for p in (tmp_path / "out").iterdir()] == ["cuts m"]
    for mine in ("letter.txt", f"holiday.000001{Path(names[0]).suffix}"):
        (target / mine).write_text("mine")
        with pytest.raises(OutputError, match="so it stays"):
            targets(doc, [row], tmp_path / "out")
        (target / mine).unlink()
    own = Path(doc.lock.media[0].path).parent
    with pytest.raises(OutputError, match="never changed"):
        targets(doc, [replace(row, pattern=own.name)], own.parent)


@pytest.mark.parametrize(
    ("codec", "container", "passes"), [("h264", "mp4", 1), ("h264", "mov", 2), ("h265", "mp4", 2), ("vp9", "webm", 1)]
)
def test_a_size_is_kept_to_and_used(busy, tmp_path, short_segments, codec, container, passes):
    """Over the whole row, also where one pass alone misses it; what is changed later keeps to it too."""
    picture = PictureCoding(codec, container, rating="size", megabytes=0.6, passes=passes, effort="quick")
    preset = Preset("small", picture, SoundCoding("opus" if container == "webm" else "aac", 64_000))
    row = row_of(busy, busy.masters[0], preset)
    target = targets(busy, [row], tmp_path / "out")[row.id]
    (made,) = make_rows([Order(busy, row, target)])
    assert (made.error, made.problems, len(made.parts)) == (None, (), 5)
    assert 0.65 * 600_000 < target.stat().st_size <= 600_000
    shot = busy.shots[3]
    doc = edits.set_framings(busy, [replace(busy.framing(shot.id, "m"), panes=(Pane((Keyframe(0, zoom=2.0),)),))])
    before = Making(str(made.path), file_stamp(made.path), made.parts, made.sound)
    (again,) = make_rows([Order(doc, row, target, before)])
    assert (again.error, again.problems) == (None, ())
    assert target.stat().st_size <= 600_000


def test_a_bit_rate_is_kept_to_over_segments_that_need_more_and_less(busy, tmp_path, short_segments):
    for passes in (1, 2):
        picture = PictureCoding(rating="bit rate", bits=800_000, passes=passes, effort="quick")
        made = make_one(busy, busy.masters[0], tmp_path, preset=Preset("rate", picture, SoundCoding("none")))
        assert made.problems == ()
        assert 0.75 < made.path.stat().st_size * 8 / 6 / 800_000 < 1.2


@pytest.mark.parametrize(("codec", "container"), [("h264", "mp4"), ("h264", "mov"), ("h264", "mkv"), ("vp9", "webm")])
def test_captions_are_embedded_with_their_times_beside_or_not_at_all(cut_up, tmp_path, codec, container):
    words = (
        Caption("c", 400, 1200, (Span("Hello "), Span("you", italic=True))),
        Caption("d", 2000, 3000, (Span("Señor"),)),
    )
    doc = edits.add_track(cut_up, CaptionTrack("t", "English", words, language="en"))
    sound = SoundCoding("opus" if container == "webm" else "aac")
    picture = PictureCoding(codec, container, effort="quick")
    bare = make_one(cut_up, doc.masters[0], tmp_path / "bare", FrameRange(20, 40), Preset("p", picture, sound))
    for captions in ("embedded", "none", "beside"):
        preset = Preset("p", picture, sound, captions, "vtt")
        made = make_one(doc, doc.masters[0], tmp_path / captions, FrameRange(20, 80), preset)
        assert made.problems == ()
        with av.open(str(made.path)) as movie:
            streams = movie.streams.subtitles
            assert len(streams) == (captions == "embedded")
            if streams:
                packets = [p for p in movie.demux(streams[0]) if p.size > 2]
                told = [(float(p.pts * p.time_base), float(p.duration * p.time_base)) for p in packets]
                assert told == [(0.0, pytest.approx(0.4)), (pytest.approx(1.2), pytest.approx(1.0))]
                assert [b"Hello" in bytes(p) for p in packets] == [True, False]
                assert streams[0].metadata.get("language", "") == "eng"
        own = pictures(bare.path)[10]
        assert np.abs(pictures(made.path)[10].astype(int) - own).mean() < 3  # nothing is drawn
        files = sorted(p.name for p in made.path.parent.iterdir())
        assert len(files) == (2 if captions == "beside" else 1)
        if captions == "beside":
            text = next(made.path.parent.glob("*.vtt")).read_text()
            assert "00:01.200 --> 00:02.200\n" in text.replace("00:00:", "00:")
            assert "<i>you</i>" in text


def test_a_stopped_row_goes_on_after_its_last_whole_segment(cut_up, tmp_path, short_segments):
    row = row_of(cut_up, cut_up.masters[0], DELIVERY)
    target = targets(cut_up, [row], tmp_path / "out")[row.id]
    token, told = CancelToken(), []

    def on_part(_, start, end, doing):
        told.append((start, doing))
        if (start, doing) == (60, "under way"):
            token.cancel()

    with pytest.raises(Cancelled):
        make_rows([Order(cut_up, row, target)], cancel=token, on_part=on_part)
    assert not target.exists()
    told.clear()
    (made,) = make_rows([Order(cut_up, row, target)], on_part=lambda _, start, end, doing: told.append((start, doing)))
    assert [start for start, doing in told if doing == "under way"] == [60, 90, 120]
    once = make_one(cut_up, cut_up.masters[0], tmp_path / "once")
    assert target.read_bytes() == once.path.read_bytes()
    assert made.problems == ()


def test_what_another_program_is_making_is_left_to_it(cut_up, tmp_path, short_segments):
    row = row_of(cut_up, cut_up.masters[0], DELIVERY)
    target = targets(cut_up, [row], tmp_path / "out")[row.id]
    found = []

    def on_part(*said):
        if not found:
            found.extend(make_rows([Order(cut_up, row, target)]))

    (made,) = make_rows([Order(cut_up, row, target)], on_part=on_part)
    assert "another program is making it" in str(found[0].error)
    assert (made.error, made.problems) == (None, ())
    assert [p.name for p in target.parent.iterdir()] == [target.name]


def test_one_row_that_is_stopped_or_fails_costs_no_other(cut_up, tmp_path):
    rows = [replace(row_of(cut_up, cut_up.masters[0], DELIVERY), id=str(n), pattern=f"row {n}") for n in range(3)]
    where = targets(cut_up, rows, tmp_path)
    odd = replace(rows[1], preset=Preset("odd", PictureCoding("prores", "mp4", 8)))
    orders = [Order(cut_up, row, where[row.id]) for row in (rows[0], odd, rows[2])]
    orders[0].cancel.cancel()
    stopped, failed, made = make_rows(orders)
    assert (stopped.stopped, stopped.error) == (True, None)
    assert "ProRes does not go into MP4" in str(failed.error)
    assert (made.problems, made.frames) == ((), 150)
    assert [p.name for p in tmp_path.iterdir() if p.suffix in (".mp4", ".parts")] == ["row 2.mp4"]


def test_three_masters_are_made_from_one_decoding(cut_up, tmp_path, monkeypatch):
    """Two of the same shape and one of another, one of them in part: each of the lock's pictures is read once."""
    read, own = [], MovieReader._decode_until

    def noted(reader, number):
        read.append((reader.name, number))
        return own(reader, number)

    monkeypatch.setattr(MovieReader, "_decode_until", noted)
    monkeypatch.setattr("ezvar.core.output.making.check_row", lambda *a: Report())  # which reads them again
    doc = edits.add_master(edits.add_master(cut_up, Master("a", "9:16", 90, 160)), Master("b", "1:1", 120, 120))
    rows = [row_of(doc, doc.masters[0], DELIVERY), row_of(doc, doc.masters[1], DELIVERY, FrameRange(20, 110)),
            row_of(doc, doc.masters[2], DELIVERY)]  # fmt: skip
    where = targets(doc, rows, tmp_path / "out")
    found = make_rows([Order(doc, row, where[row.id]) for row in rows])
    assert [made.problems for made in found] == [()] * 3
    lock = [n for path, n in read if path == str(cut_up.lock.media[0].path)]
    assert lock == list(range(150))


@given(st.floats(0.3, 3.0), st.floats(-1.0, 1.5), st.floats(-1.0, 1.5), st.booleans())
def test_a_picture_on_a_ground_is_as_if_all_of_both_were_drawn_and_blended(scale, x, y, resting):
    plane = np.clip(np.add.outer(np.arange(60) * 2, np.arange(80)), 16, 235).astype(np.uint8)
    window = Window(80 * (0.5 + 0.3 * x), 60 * (0.5 + 0.3 * y), 80 * scale, 60 * scale)
    ground = np.full((90, 120), 60, np.uint8)
    drawn = sample(plane, window, 120, 90, ground.copy(), resting)
    cover = coverage(window, 80, 60, 120, 90)
    assert (drawn[cover == 0] == 60).all()
    inner = cover == 1
    if inner.any():
        column, row = np.meshgrid(np.arange(120) + 0.5, np.arange(90) + 0.5)
        across, down = window.left + column * window.width / 120 - 0.5, window.top + row * window.height / 90 - 0.5
        wanted = np.clip(np.clip(down, 0, 59) * 2 + np.clip(across, 0, 79), 16, 235)
        off = 1.5 * max(1.0, window.width / 120)  # half a sample of the result, for a resting window
        assert np.abs(drawn - wanted)[inner].max() <= 3 * off + 3


@given(st.floats(0.18, 1.7), st.floats(0, 1), st.floats(0, 1), st.booleans())
def test_a_window_is_drawn_where_it_is_at_any_size(scale, x, y, resting):
    """Of a smooth picture, enlarged and shrunk: to a sixteenth of a sample, at rest to a half."""
    rows, columns = np.mgrid[0:270, 0:480]
    plane = np.round(127 + 90 * np.sin(columns / 31) + 25 * np.sin(rows / 19)).astype(np.uint8)
    high, wide = 100.0, 180.0
    wide, high = wide / scale, high / scale
    if wide > 480 or high > 270:
        wide, high = 480.0, 266.7
    window = Window(wide / 2 + x * (480 - wide), high / 2 + y * (270 - high), wide, high)
    drawn = sample(plane, window, 180, 100, None, resting)[3:-3, 3:-3]
    across = window.left + (np.arange(3, 177) + 0.5) * wide / 180 - 0.5
    down = window.top + (np.arange(3, 97) + 0.5) * high / 100 - 0.5
    wanted = 127 + 90 * np.sin(across / 31)[None] + 25 * np.sin(down / 19)[:, None]
    step = max(wide / 180, high / 100) * (0.5 if resting else 1 / 16)  # of the plane
    assert np.abs(drawn - wanted).max() <= step * (90 / 31 + 25 / 19) + 2.5


def test_a_backdrop_is_as_sharp_as_was_chosen(cut_up):
    """Without blur an image behind the picture keeps its detail; with it none is left."""
    detail = {}
    for blur in (0.0, 0.002, 0.03):
        loose = Pane((Keyframe(0, zoom=0.4),), backdrop=Backdrop("picture", blur=blur, darken=0.0))
        doc = replace(cut_up, masters=(Master("m", "m", 180, 320),))
        doc = replace(doc, framings=tuple(Framing(s.id, "m", (loose,)) for s in doc.shots))
        with LockReader(doc) as reader, LockPictures(reader) as given_:
            top = compose.frame(doc, doc.masters[0], 5, given_).y[:60].astype(float)
        detail[blur] = np.abs(np.diff(top, axis=1)).max()
    assert detail[0.0] > 25
    assert detail[0.0] >= detail[0.002] > 3 * detail[0.03]


@pytest.mark.parametrize(
    ("pattern", "name"),
    [
        ("{lock} {master} {range}", "walk 9:16"),
        ("{master}-{width}x{height:05}", "9:16-180x00320"),
        ("{{x}} {frames}", "{x} 80"),
    ],
)
def test_names_follow_a_pattern(planned, pattern, name):
    assert named(pattern, planned, row_of(planned, planned.masters[0], DELIVERY)) == name


@pytest.mark.parametrize(
    "pattern", ["{lock.file}", "{lock!r}", "{", "{0}", "{lock:{master}}", "{width:99999999}", "{frames:s}"]
)
def test_patterns_that_make_no_sense_are_refused(planned, pattern):
    with pytest.raises(InputError):
        named(pattern, planned, replace(row_of(planned, planned.masters[0], DELIVERY), pattern=pattern))


def test_presets_that_come_with_the_program_can_all_be_used_and_others_say_why_not():
    assert [said for preset in PRESETS for said in wrong_with(preset)] == []
    assert {p.picture.codec for p in PRESETS} == set(CODERS)
    for picture, sound, said in (
        (PictureCoding("vp9", "webm", rating="bit rate", passes=2), SoundCoding("opus"), "no second one"),
        (PictureCoding("vp9", "webm"), SoundCoding("aac"), "AAC sound does not go into WEBM"),
        (PictureCoding("h264", quality=60), SoundCoding(), "between 1 and 51"),
        (PictureCoding("ffv1", "mkv", rating="size"), SoundCoding("pcm"), "no bit rate"),
    ):
        assert any(said in each for each in wrong_with(Preset("x", picture, sound)))


def test_presets_of_ones_own_are_kept_found_by_words_and_exchanged(tmp_path):
    own = Preset("office, small", PictureCoding(rating="size", megabytes=20, passes=2), captions="beside")
    PRESETS_KEPT.save([own, replace(DELIVERY, picture=PictureCoding(quality=20))])
    try:
        assert preset_named("small") == own
        assert preset_named("").picture.quality == 20  # one's own takes the place of the shipped one of its name
        assert preset_named("h.265 10").picture == PictureCoding("h265", depth=10, quality=20)
        assert len(known_presets()) == len(PRESETS) + 1
        PRESETS_KEPT.save(known_presets(), tmp_path / "all.json")
        assert PRESETS_KEPT.load(tmp_path / "all.json") == known_presets()
        text = (tmp_path / "all.json").read_text()
        for wrong in ('"depth": 9', '"quality": NaN', '"megabytes": -1', '"codec": "film"'):
            name = wrong.partition(":")[0]
            (tmp_path / "bad.json").write_text(re.sub(rf"{name}: [^,\n]*", wrong, text, count=1))
            with pytest.raises(ProjectError):
                PRESETS_KEPT.load(tmp_path / "bad.json")
    finally:
        PRESETS_KEPT.own_file.unlink()


def test_what_is_made_ahead_comes_in_order_its_errors_too_and_it_ends_when_nobody_wants_more():
    made = []

    def numbers():
        try:
            for n in range(100):
                made.append(n)
                if n == 60:
                    raise ValueError("sixty")
                yield n
        finally:
            made.append("closed")

    found = []
    some = ahead(numbers(), 3)
    for n in range(60):
        found.append(next(some))
        assert made[-1] == "closed" or made[-1] <= n + 6
    with pytest.raises(ValueError, match="sixty"):
        next(some)
    assert found == list(range(60))
    assert made[-1] == "closed"
    made.clear()
    some = ahead(numbers(), 2)
    assert [next(some) for _ in range(5)] == [0, 1, 2, 3, 4]
    some.close()
    assert made[-1] == "closed"
    assert not any(thread.name == "ahead" for thread in threading.enumerate())


@settings(max_examples=12)
@given(st.data())
def test_segments_of_one_name_are_drawn_alike(drawn_documents, data):
    """Whatever is changed, where a segment's name stays so does its picture; and what is changed in it renames it."""
    doc = drawn_documents
    master = doc.masters[0]
    shot = data.draw(st.sampled_from(doc.shots))
    zoom, cx = data.draw(st.floats(0.5, 2.0)), data.draw(st.floats(0.2, 0.8))
    pane = Pane((Keyframe(0, cx, zoom=zoom),), shot=data.draw(st.sampled_from(["", doc.shots[0].id])))
    start = data.draw(st.integers(0, 140))
    caption = Caption("c", start * 40, start * 40 + data.draw(st.integers(40, 900)), (Span("some words"),))
    title = Title("t", "label", start, min(150, start + 12), ("Here",), DESIGNS["label"])
    changes = [
        lambda d: edits.set_framings(d, [replace(d.framing(shot.id, master.id), panes=(pane,))]),
        lambda d: edits.add_track(d, CaptionTrack("t", "t", (caption,))),
        lambda d: edits.put_title(d, title),
    ]
    other = data.draw(st.sampled_from(changes))(doc)
    form = PictureForm(DELIVERY.picture, master.width, master.height, doc.lock.rate, ColourTags())
    for span in (FrameRange(n, n + 30) for n in range(0, 150, 30)):
        names = [segment_name(d, master, span, form, ALL) for d in (doc, other)]
        alike = all(
            np.array_equal(a.y, b.y) and np.array_equal(a.u, b.u)
            for a, b in zip(drawn(doc, master, span), drawn(other, master, span), strict=True)
        )
        assert alike or names[0] != names[1]


@pytest.fixture(scope="module")
def drawn_documents(tmp_path_factory, cache):
    movie = make_movie(tmp_path_factory.mktemp("d") / "d.mp4", 150, size=(160, 90), picture=partial(scenes, length=30))
    return plan(movie, [Master("m", "m", 90, 160)], cache).doc


def drawn(doc, master, span):
    with LockReader(doc) as reader, LockPictures(reader) as given_:
        return [compose.frame(doc, master, n, given_, 0.5) for n in range(span.start, span.end, 3)]


def test_media_that_vanish_on_the_way_leave_what_is_whole_and_it_goes_on(cut_up, tmp_path, short_segments, monkeypatch):
    own, gone = MovieReader.frame, []

    def frame(reader, n, *rest):
        if n == 100 and not gone:
            gone.append(n)
            raise MediaError("it is not there any more", file=reader.facts.path)
        return own(reader, n, *rest)

    monkeypatch.setattr(MovieReader, "frame", frame)
    told = []
    with pytest.raises(MediaError, match="not there any more"):
        make_one(cut_up, cut_up.masters[0], tmp_path / "out")
    assert not any(p.is_file() for p in (tmp_path / "out").iterdir())
    row = row_of(cut_up, cut_up.masters[0], DELIVERY)
    target = targets(cut_up, [row], tmp_path / "out")[row.id]
    (made,) = make_rows([Order(cut_up, row, target)], on_part=lambda _, start, end, doing: told.append((start, doing)))
    assert (made.error, made.problems) == (None, ())
    assert [start for start, doing in told if doing == "under way"] == [90, 120]


_MAKE = """
import sys
from ezvar.core.output import segments
from ezvar.core.store import load_project
from tests.making import make_one
segments.LEAST = 1
doc = load_project(sys.argv[1])
make_one(doc, doc.masters[0], sys.argv[2], progress=lambda f, m: print(f, flush=True))
"""


def test_killed_at_any_moment_it_goes_on_to_the_same_movie(cut_up, tmp_path, short_segments):
    save_project(cut_up, tmp_path / "p.ezvar")
    once = make_one(cut_up, cut_up.masters[0], tmp_path / "once").path.read_bytes()
    random = Random(3)
    out = tmp_path / "out"
    for _ in range(4):
        process = subprocess.Popen([sys.executable, "-c", _MAKE, tmp_path / "p.ezvar", out], stdout=subprocess.PIPE)
        for _ in range(random.randrange(1, 120)):
            if not process.stdout.readline():
                break
        process.send_signal(signal.SIGKILL)
        process.wait()
        process.stdout.close()
        assert all(p.read_bytes() == once for p in out.iterdir() if p.is_file() and not p.name.startswith("."))
    for left in out.glob(".ezvar-*.part"):
        os.utime(left, (1, 1))
    made = make_one(cut_up, cut_up.masters[0], out)
    assert made.path.read_bytes() == once
    assert [p.name for p in out.iterdir()] == [made.path.name]


def test_a_row_that_is_stopped_while_it_is_checked_goes_on_to_the_check_alone(cut_up, tmp_path, short_segments):
    row = row_of(cut_up, cut_up.masters[0], DELIVERY)
    order = Order(cut_up, row, tmp_path / "m.mp4")

    def stop(fraction, message):
        if message == "Checking what was made":
            order.cancel.cancel()

    (made,) = make_rows([order], stop)
    assert (made.stopped, made.parts) == (True, ())
    coded = []
    (made,) = make_rows([Order(cut_up, row, tmp_path / "m.mp4")], on_part=lambda *told: coded.append(told[3]))
    assert (made.problems, set(coded), len(made.parts)) == ((), {"made"}, len(coded))
    assert [p.name for p in tmp_path.iterdir()] == ["m.mp4"]


def test_damaged_stretches_are_named_drawn_taken_over_or_gone_on_with(tmp_path, cache, short_segments):
    movie = make_movie(tmp_path / "torn.mp4", 160, gop=25, picture=scenes)
    doc = plan(movie, [Master("m", "m", 96, 96)], cache).doc
    data = bytearray(movie.read_bytes())
    at = len(data) * 55 // 100
    data[at : at + 400] = os.urandom(400)
    movie.write_bytes(data)
    row = row_of(doc, doc.masters[0], DELIVERY)
    order = Order(doc, row, tmp_path / "m.mp4")
    token, parts = CancelToken(), []

    def stop(id, start, end, doing):
        if (start, doing) == (120, "under way"):
            token.cancel()

    (stopped,) = make_rows([replace(order, cancel=token)], on_part=stop)
    assert stopped.stopped
    (made,) = make_rows([order], on_part=lambda id, start, end, doing: parts.append((start, doing)))
    named = [(flaw.start, flaw.end) for flaw in made.report.flaws if "damaged" in flaw.said]
    assert named
    assert all(50 <= start < end <= 120 for start, end in named)
    assert [start for start, doing in parts if doing == "under way"] == [120]  # what shows it was there already
    before = Making(str(order.target), file_stamp(order.target), made.parts, made.sound)
    (again,) = make_rows([replace(order, before=before)])
    assert [(f.start, f.end) for f in again.report.flaws if "damaged" in f.said] == named
