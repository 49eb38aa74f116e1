"""What of a handoff is looked at: the book, review movies, contact sheets, stills."""

import re
from dataclasses import replace
from fractions import Fraction
from itertools import pairwise

import av
import cv2
import numpy as np
import opentimelineio as otio
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ezvar.core import edits
from ezvar.core.errors import OutputError
from ezvar.core.model import ReviewNote
from ezvar.core.progress import Cancelled, CancelToken
from ezvar.core.review import Asked, planned_handoff, write_handoff
from ezvar.core.review.shown.book import _items, _sheets
from ezvar.core.review.shown.movies import HIGH, contact_sheets
from ezvar.core.review.shown.paper import HEIGHT
from ezvar.core.review.shown.stills import outlines
from ezvar.core.review.shown.strip import STRIP, Strip

SCRIPTS = (
    "Hold on her face.",
    "الرجاء إبقاء الوجه في الوسط",
    "折り紙の手を中央に。",
    "चेहरा बीच में रखें",
    "שלום 12",
    "\u0000\ud800",
)


def noted(doc, texts, author="Director"):
    for k, text in enumerate(texts):
        shot, master = doc.shots[k % len(doc.shots)], ("", *(m.id for m in doc.masters))[k % 3]
        note = ReviewNote(f"n{k}", shot.id, master, 2, 3, author, "2026-01-31T12:00:00Z", text)
        doc = edits.say_note(doc, note)
    return doc


def handed(doc, folder, *parts, **other):
    return {p.name: p for p in write_handoff(doc, folder, Asked(frozenset(parts), **other))[1]}


@settings(max_examples=25, deadline=None)
@given(st.lists(st.text(st.characters(), max_size=3000) | st.sampled_from(SCRIPTS), max_size=6))
def test_all_that_is_noted_has_a_place_in_the_book_and_none_reaches_over_a_sheet(planned, texts):
    doc = noted(planned, texts)
    parts = [(shot, list(_items(doc, shot, doc.masters))) for shot in doc.shots]
    sheets, begins = _sheets(doc, parts)
    placed = [item for sheet in sheets for _, item, _ in sheet]
    assert all(item in placed for _, items in parts for item in items)
    for sheet in sheets:
        for (_, item, y), (_, _, below) in zip(sheet, [*sheet[1:], (None, None, HEIGHT - 40)], strict=True):
            assert y + item.high <= below + 1e-6
    on = {shot.id: n for n, sheet in reversed(list(enumerate(sheets))) for shot, _, _ in sheet}
    assert begins == on


def test_the_book_is_a_pdf_of_all_its_sheets_with_type_for_every_script(planned, tmp_path):
    doc = noted(planned, SCRIPTS[:-1])
    files = handed(doc, tmp_path, "pdf")
    data = files["walk book.pdf"].read_bytes()
    assert data.startswith(b"%PDF-")
    assert len(re.findall(rb"/Type /Page\b", data)) >= 4  # cover, contents, and the shots
    for family in (b"AtkinsonHyperlegibleNext", b"NotoSansArabic", b"NotoSansDevanagari", b"NotoSansHebrew"):
        assert family in data


def pictures(path):
    with av.open(str(path)) as movie:
        return [frame.to_ndarray(format="rgb24") for frame in movie.decode(video=0)]


def test_review_movies_show_each_master_or_all_with_the_windows_and_what_is_burnt_in_changes(planned, tmp_path):
    doc, shots = planned, planned.shots[1:3]
    frames = sum(s.frames for s in shots)
    files = handed(doc, tmp_path / "a", "movies", shots=tuple(s.id for s in shots))
    made = pictures(files["walk review.mp4"])
    high = min(HIGH, 180) if doc.lock.height < HIGH else HIGH
    assert len(made) == frames
    assert made[0].shape[0] == HIGH + STRIP
    strips = [int(np.abs(a[HIGH:].astype(int) - b[HIGH:]).sum()) for a, b in pairwise(made)]
    assert min(strips) > 0  # the timecode goes on
    corners = outlines(doc, shots[0], doc.masters[0], 0)[0] * (HIGH * 16 / 9, HIGH)
    left = made[0][high // 2, round(corners[0][0]) - 3 : round(corners[0][0]) + 4].astype(int)
    assert (left.max(axis=0) - left.min(axis=0)).max() > 60  # a bright line, dark around
    with av.open(str(files["walk review.mp4"])) as movie:
        assert movie.streams.audio[0].duration * movie.streams.audio[0].time_base == pytest.approx(frames / 25, abs=0.1)
    each = handed(doc, tmp_path / "b", "movies", movies="each", sound=False)
    assert sorted(n for n in each if n.endswith(".mp4")) == ["walk review 1x1.mp4", "walk review 9x16.mp4"]
    alone = pictures(each["walk review 9x16.mp4"])
    assert (len(alone), alone[0].shape[1]) == (doc.lock.frames, doc.masters[0].width)
    with av.open(str(each["walk review 9x16.mp4"])) as movie:
        assert (len(movie.streams.audio), movie.streams.video[0].average_rate) == (0, Fraction(25))
    for name in ("walk poster.jpg", "walk contact sheet 9x16.jpg"):
        assert cv2.imread(str(each[name])) is not None


def test_a_bundle_is_a_timeline_with_a_track_for_each_master(planned, tmp_path):
    doc = noted(planned, ["Nearer"])
    bundle = handed(doc, tmp_path, "otioz", shots=tuple(s.id for s in doc.shots[:2]))["walk review.otioz"]
    (tmp_path / "there").mkdir()
    timeline = otio.adapters.read_from_file(str(bundle), extract_to_directory=str(tmp_path / "there"))
    assert [track.name for track in timeline.tracks] == ["9:16", "1:1"]
    for track in timeline.tracks:
        assert [(c.name, c.source_range.start_time.value, c.duration().value) for c in track] == [
            ("Shot 1", 0, 20), ("Shot 2", 20, 20)
        ]  # fmt: skip
        assert [m.comment for m in track[0].markers] == ["Director 00:00:00:02: Nearer"]
        assert len(pictures(tmp_path / "there" / track[0].media_reference.target_url)) == 40


def test_a_handoff_that_is_stopped_or_would_write_over_others_leaves_nothing(planned, tmp_path):
    token = CancelToken()

    def stop(fraction, message):
        if fraction > 0.3:
            token.cancel()

    with pytest.raises(Cancelled):
        write_handoff(planned, tmp_path / "a", Asked(frozenset({"page", "movies"})), stop, token)
    assert not (tmp_path / "a").exists()
    (tmp_path / "b" / "walk review").mkdir(parents=True)
    (tmp_path / "b" / "walk review" / "0001-1.jpg").write_bytes(b"another's")
    with pytest.raises(OutputError, match="not as it was written here"):
        write_handoff(planned, tmp_path / "b", Asked(frozenset({"page"})))
    assert [p.name for p in (tmp_path / "b").iterdir()] == ["walk review"]


def test_what_would_be_written_is_listed_with_many_pictures_as_one(planned, tmp_path):
    asked = Asked(frozenset({"page", "pdf", "movies"}), movies="each")
    listed = dict(planned_handoff(planned, tmp_path, asked).listed())
    assert "walk review/0001-0.jpg and 11 more like it" in listed
    assert "walk book.pdf" in listed
    many = replace(planned.masters[0], width=1920, height=1080)
    assert [contact_sheets(planned.shots[:1] * n, many) for n in (1, 60, 61)] == [1, 1, 2]


@given(st.integers(1, 400), st.integers(0, 79))
def test_a_strip_is_as_wide_as_its_picture(planned, wide, frame):
    assert Strip(planned).below(wide, planned.shots[0], frame, "a name 日本").shape == (STRIP, wide, 3)
