"""Masters made in segments and in one pass: joined they are what was drawn, and only what changed is made again."""

from dataclasses import replace
from fractions import Fraction
from itertools import pairwise

import av
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ezvar.core import edits
from ezvar.core.compose.sampling import coverage, sample
from ezvar.core.encoding import CODERS, DELIVERY, PRESETS, wrong_with
from ezvar.core.encoding.codecs import grade_of
from ezvar.core.errors import InputError, OutputError
from ezvar.core.framing import Window
from ezvar.core.media import MovieReader, probe, read_still, sound_blocks
from ezvar.core.model import (
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
    Shot,
    SoundCoding,
    Source,
    Span,
)
from ezvar.core.output import Order, file_stamp, make_rows, named, parted, row_of, targets
from ezvar.core.output import segments as segments_module
from ezvar.core.planning import plan
from ezvar.core.progress import Cancelled, CancelToken
from ezvar.core.timing import FrameRange, Rate

from ..making import make_one
from ..media import make_movie, number_in, numbered, scenes

MOVIES = [p for p in PRESETS if p.picture.container != "images"]
IMAGES = [p for p in PRESETS if p.picture.container == "images"]


@pytest.fixture
def short_segments(monkeypatch):
    """Segments of a second and more, so that small movies have several."""
    monkeypatch.setattr(segments_module, "LEAST", 1)
    monkeypatch.setattr(segments_module, "_PATIENCE", 2)
    monkeypatch.setattr(segments_module, "MOST", 3)


@pytest.fixture
def cut_up(tmp_path, cache):
    """A movie of five scenes of 30 frames, planned for one master that shows all of it."""
    movie = make_movie(
        tmp_path / "cuts.mp4", 150, size=(320, 180), picture=lambda n, w, h: scenes(n, w, h, 30), sound="beeps"
    )
    doc = plan(movie, [Master("m", "m", 320, 180)], cache).doc
    assert len(doc.shots) == 5
    return doc


@pytest.fixture
def busy(tmp_path, cache):
    """As `cut_up`, with pictures that take as many bits as they are given."""
    movie = make_movie(tmp_path / "busy.mp4", 150, size=(320, 180), picture=numbered, sound="beeps")
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
    monkeypatch.setattr("ezvar.core.output.making._Job.tidy", lambda job: kept.append([p.segment for p in job.parts]))
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


@pytest.mark.parametrize("rate", [Fraction(24000, 1001), Fraction(30000, 1001), Fraction(60000, 1001)])
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


def test_a_change_in_one_shot_makes_only_its_segment_again(cut_up, tmp_path, short_segments):
    row = row_of(cut_up, cut_up.masters[0], DELIVERY)
    target = targets(cut_up, [row], tmp_path / "out")[row.id]
    told = []

    def make(doc, before):
        told.clear()
        (made,) = make_rows([Order(doc, row, target, before)], on_part=lambda *said: told.append(said[1:]))
        assert made.problems == ()
        before = Making(row.id, "made", "", str(made.path), file_stamp(made.path), made.parts, made.sound)
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
    before, told = Making(row.id, "made", "", str(made.path), file_stamp(made.path), made.parts), []
    (again,) = make_rows([Order(doc, row, target, before)], on_part=lambda _, *said: told.append(said))
    assert [said[:2] for said in told if said[2] == "under way"] == [(60, 90)]
    assert (again.problems, sorted(p.name for p in target.iterdir())) == ((), names)
    assert [p.name for p in (tmp_path / "out").iterdir()] == ["cuts m"]
    (target / "letter.txt").write_text("mine")
    with pytest.raises(OutputError, match="so it stays"):
        targets(doc, [row], tmp_path / "out")


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
    before = Making(row.id, "made", "", str(made.path), file_stamp(made.path), made.parts, made.sound)
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
    bare = make_one(cut_up, doc.masters[0], tmp_path / "bare", preset=Preset("p", picture, sound))
    for captions in ("embedded", "none", "beside"):
        preset = Preset("p", picture, sound, captions, "vtt")
        made = make_one(doc, doc.masters[0], tmp_path / captions, FrameRange(20, 150), preset)
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
        own = pictures(bare.path)[30]
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
    assert [p.name for p in tmp_path.iterdir() if p.suffix in (".mp4", ".parts")] == ["cuts.mp4", "row 2.mp4"]


def test_three_masters_are_made_from_one_decoding(cut_up, tmp_path, monkeypatch):
    """Two of the same shape and one of another, one of them in part: each of the lock's pictures is read once."""
    read, own = [], MovieReader._decode_until

    def noted(reader, number):
        read.append((reader.name, number))
        return own(reader, number)

    monkeypatch.setattr(MovieReader, "_decode_until", noted)
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
        (PictureCoding("h264", quality=60), SoundCoding(), "between 0 and 51"),
        (PictureCoding("ffv1", "mkv", rating="size"), SoundCoding("pcm"), "no bit rate"),
    ):
        assert any(said in each for each in wrong_with(Preset("x", picture, sound)))
