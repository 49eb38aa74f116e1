"""What is seen is what is made: captions and titles in previews, small pictures, and finished movies."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ezvar import cli
from ezvar.core import compose, edits
from ezvar.core.lock import LockReader
from ezvar.core.media import MovieReader
from ezvar.core.model import (
    DESIGNS,
    Caption,
    CaptionStyle,
    CaptionTrack,
    Differing,
    NamedRange,
    Placed,
    Span,
    Spot,
    Title,
)
from ezvar.core.store import save_project
from ezvar.core.text import caption_cel, fitting_size, laid_out, style_of
from ezvar.core.text.setting.breaking import pieces
from ezvar.core.text.setting.layout import lay_out, wanted
from ezvar.core.text.setting.titles import lay_out_title

from ..making import make_one

PLAIN = CaptionStyle(size=0.09, ground="block", ground_colour="#ffffff", ground_opacity=1.0, colour="#101010")


@pytest.fixture(scope="module")
def written(planned):
    """The planned edit with a caption from frame 10 to 30, on white, and an end card over the last ten frames."""
    track = CaptionTrack("t", "t", (Caption("c", 400, 1200, (Span("Hello you"),)),))
    doc = edits.add_track(planned, track)
    doc = edits.set_style(doc, "t", [m.id for m in doc.masters], PLAIN)
    card = Title("e", "end card", 70, 80, ("The end",), replace(DESIGNS["end card"], comes="none", goes="none"))
    return edits.put_title(doc, card)


def planes_of(doc, master, frame, scale=1.0):
    with LockReader(doc) as reader, compose.LockPictures(reader) as pictures:
        return compose.frame(doc, master, frame, pictures, scale)


def brightest(planes, doc, master):
    """How bright the middle of the caption's block is, at the side of its letters."""
    rect = laid_out(doc, doc.tracks[0], doc.tracks[0].captions[0], master).rect
    by = planes.width / master.width
    row, column = round((rect.y + 4) * by), round((rect.x + rect.width / 2) * by)
    return int(planes.y[row, column])


def test_a_finished_movie_shows_what_the_preview_shows_frame_by_frame(written, tmp_path):
    tall = written.masters[0]
    made = make_one(written, tall, tmp_path)
    assert made.problems == ()
    with MovieReader(made.path) as movie:
        assert movie.facts.frames == 80
        for frame, on in ((9, False), (10, True), (29, True), (30, False)):
            shown = movie.frame(frame).planes()
            assert (brightest(shown, written, tall) > 200) is on
            drawn = planes_of(written, tall, frame)
            assert np.abs(shown.y.astype(int) - drawn.y).mean() < 3
        last = movie.frame(75).planes()
        assert last.y[:20].std() < 3  # the card covers all but its letters


def test_hidden_captions_other_masters_and_ranges_are_made_as_said(written, tmp_path):
    tall, square = written.masters
    ranged = replace(square, ranges=(NamedRange("begin", 8, 20),))
    doc = edits.change_master(edits.differ(written, [Differing("c", tall.id, hidden=True)]), ranged)
    bare = replace(doc, tracks=())
    assert (planes_of(doc, tall, 15).y == planes_of(bare, tall, 15).y).all()
    made = make_one(doc, ranged, tmp_path, ranged.ranges[0])
    with MovieReader(made.path) as movie:
        assert movie.facts.frames == 12
        lit = [brightest(movie.frame(n).planes(), doc, ranged) > 200 for n in (1, 2, 11)]
    assert lit == [False, True, True]


def test_the_command_line_makes_movies_with_captions_and_tells_of_their_problems_first(written, tmp_path, capsys):
    save_project(written, tmp_path / "p.ezvar")
    assert (
        cli.main(["make", str(tmp_path / "p.ezvar"), "--master", "9:16", "--range", "5-15", "-o", str(tmp_path)]) == 0
    )
    (movie,) = tmp_path.glob("*.mp4")
    with MovieReader(movie) as made:
        assert [brightest(made.frame(n).planes(), written, written.masters[0]) > 200 for n in (4, 5)] == [False, True]
    capsys.readouterr()
    short = edits.retime(written, "t", "c", 400, 500)
    save_project(short, tmp_path / "q.ezvar")
    assert cli.main(["check", str(tmp_path / "q.ezvar")]) == 1
    said = capsys.readouterr().out
    assert "Caption 1 at" in said
    assert "letters a second" in said


@given(st.sampled_from([0.25, 0.5, 0.75, 1.0]))
def test_a_small_preview_has_the_caption_in_the_same_place(planned, scale):
    track = CaptionTrack("t", "t", (Caption("c", 400, 1200, (Span("Hello you, and you"),)),))
    doc = edits.add_track(planned, track)
    master = doc.masters[1]
    size = round(master.width * scale / 2) * 2, round(master.height * scale / 2) * 2
    cel = caption_cel(doc, doc.tracks[0], doc.tracks[0].captions[0], master, size)
    rect = laid_out(doc, doc.tracks[0], doc.tracks[0].captions[0], master).rect
    assert cel.left == pytest.approx(rect.x * scale, abs=4)
    assert cel.top == pytest.approx(rect.y * scale, abs=4)
    assert cel.left + cel.opacity.shape[1] == pytest.approx((rect.x + rect.width) * scale, abs=4)


def test_the_same_caption_is_drawn_once_and_another_look_anew(written):
    tall = written.masters[0]
    track, caption = written.tracks[0], written.tracks[0].captions[0]
    first = caption_cel(written, track, caption, tall, (90, 160))
    later = edits.retime(written, "t", "c", 500, 900)
    assert caption_cel(later, later.tracks[0], later.tracks[0].captions[0], tall, (90, 160)) is first
    other = edits.set_style(written, "t", [tall.id], replace(PLAIN, colour="#ff0000"))
    assert caption_cel(other, track, caption, tall, (90, 160)) is not first


def test_colours_are_those_that_were_asked_for(written):
    """Red letters are red and a blue ground is blue, also half seen."""
    tall = written.masters[0]
    style = replace(PLAIN, ground_colour="#0000ff", colour="#ff0000", ground_opacity=0.5)
    doc = edits.set_style(written, "t", [tall.id], style)
    cel = caption_cel(doc, doc.tracks[0], doc.tracks[0].captions[0], tall, (tall.width, tall.height))
    rgb = cel.planes.rgb().astype(int)
    edge = rgb[2:5, rgb.shape[1] // 2 - 5 : rgb.shape[1] // 2 + 5].reshape(-1, 3).mean(axis=0)
    assert edge[2] == pytest.approx(128, abs=12)  # over black, seen by half
    assert edge[:2].max() < 20
    assert cel.opacity[3, rgb.shape[1] // 2] == pytest.approx(128, abs=2)
    reds = rgb[..., 0] - rgb[..., 2]
    assert reds.max() > 180


def test_captions_that_are_on_together_stand_above_each_other(planned):
    both = (Caption("a", 0, 2000, (Span("first"),)), Caption("b", 1000, 3000, (Span("second, over it"),)))
    doc = edits.add_track(planned, CaptionTrack("t", "t", both))
    for master in doc.masters:
        first, second = (laid_out(doc, doc.tracks[0], c, master).rect for c in both)
        assert second.y + second.height <= first.y + 1
    assert doc.tracks[0].levels == {"b": 1}


def test_a_further_track_begins_above_the_first_and_tall_shapes_begin_higher(planned):
    doc = edits.add_track(planned, CaptionTrack("a", "a"))
    doc = edits.add_track(doc, CaptionTrack("b", "b"))
    tall, square = doc.masters
    margins = {(t.id, m.id): style_of(doc, t, m).margin for t in doc.tracks for m in doc.masters}
    assert margins["a", tall.id] > margins["a", square.id]
    assert all(margins["b", m.id] > margins["a", m.id] + 0.05 for m in doc.masters)


def test_the_size_that_nearly_all_fit_at_is_the_largest(planned):
    texts = ["quite a usual caption here"] * 40 + [
        "one that is a great deal longer than all of the others put together " * 2
    ]
    captions = tuple(Caption(f"c{k}", 50 * k, 50 * k + 40, (Span(t),)) for k, t in enumerate(texts))
    doc = edits.add_track(planned, CaptionTrack("t", "t", captions))
    for master in doc.masters:
        size = fitting_size(doc, doc.tracks[0], master)
        fits = [
            sum(
                laid_out(edits.set_style(doc, "t", [master.id], style), doc.tracks[0], c, master).fits for c in captions
            )
            for style in (CaptionStyle(size=size), CaptionStyle(size=size + 0.006))
        ]
        assert fits[0] == 40
        assert fits[1] < 40 or size > 0.099


OPENING, CLOSING = "「『（", "」』）、。！？ー"


@given(st.text("紙灯籠夜川人のはがをあいうカタナ" + OPENING + CLOSING, min_size=4, max_size=60), st.integers(0, 2))
def test_japanese_lines_begin_with_no_closing_sign_and_end_with_no_opening_one(text, extra):
    """After the rules of Unicode's line breaking, where there is another way."""
    if any(a in OPENING + CLOSING and b in OPENING + CLOSING for a, b in pairwise(text)):
        return
    text = text.strip(OPENING + CLOSING)
    if not text:
        return
    caption = Caption("c", 0, 1000, (Span(text),))
    style = CaptionStyle(size=0.06 + 0.02 * extra)
    laid = lay_out(wanted(caption, style, Differing("c", "m"), "ja"), 1080, 1920)
    lines = [line.text for line in laid.lines]
    assert "".join(lines) == text
    if not laid.torn:
        assert all(line[0] not in CLOSING for line in lines)
        assert all(line[-1] not in OPENING for line in lines[:-1])


@given(st.text("ab cd-ef, gh. — «ij» 12 % ", min_size=1, max_size=50))
def test_pieces_are_the_text_and_nothing_but_the_text(text):
    parted = pieces(text)
    assert "".join(p.text for p in parted).replace("\u00a0", "").replace(" ", "") == text.replace(" ", "")
    assert all(p.text.strip() for p in parted)


@given(
    st.floats(0, 1),
    st.floats(0, 1),
    st.sampled_from(["left", "centre", "right"]),
    st.sampled_from(["top", "middle", "foot"]),
)
def test_a_place_of_its_own_is_kept_as_far_as_the_safe_area_reaches(x, y, across, down):
    caption = Caption("c", 0, 1000, (Span("a few words"),), Spot(x, y, across, down))
    laid = lay_out(wanted(caption, CaptionStyle(), Differing("c", "m")), 1080, 1080)
    rect = laid.rect
    at_x = rect.x + rect.width * {"left": 0, "centre": 0.5, "right": 1}[across]
    at_y = rect.y + rect.height * {"top": 0, "middle": 0.5, "foot": 1}[down]
    inside = x * 1080 - (at_x - rect.x) >= 0.06 * 1080 and x * 1080 + rect.x + rect.width - at_x <= 0.94 * 1080
    assert at_x == pytest.approx(x * 1080, abs=1e-6) or not inside
    inside = y * 1080 - (at_y - rect.y) >= 0.05 * 1080 and y * 1080 + rect.y + rect.height - at_y <= 0.95 * 1080
    assert at_y == pytest.approx(y * 1080, abs=1e-6) or not inside


def test_titles_come_and_go_within_their_time_however_short():
    for length in (1, 2, 5, 60):
        title = Title("t", "label", 100, 100 + length, ("x",), DESIGNS["label"])
        shares = [title.come(n)[1] for n in range(100, 100 + length)]
        assert all(0 < share <= 1 for share in shares)
        assert shares == shares[::-1]
        assert title.come(100)[0] in ("fade", "none")
    long = replace(title, lines=("a place with a name that goes on and on",))
    assert lay_out_title(long, Placed("t", "m", scale=10.0), 200, 200).shrunk < 1
