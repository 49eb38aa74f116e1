"""Whatever is done to captions, in whatever order: they stay in order, inside the lock, and what hangs on them hangs on
captions that are there."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ezvar.core import edits
from ezvar.core.errors import ProjectError
from ezvar.core.model import (
    Caption,
    CaptionStyle,
    CaptionTrack,
    Differing,
    Document,
    Lock,
    Master,
    Media,
    Placed,
    Shot,
    Source,
    Span,
    Title,
    time_of,
)
from ezvar.core.store import load_project, save_project
from ezvar.core.text import STYLES, CaptionChecks, NamedStyle, captions_of
from ezvar.core.timing import RATES, Rate

WORDS = ("the", "lanterns", "go down", "a river", "at nine", "紙の夜", "نهر")
FRAMES = 500


PAL = Rate(25)


def document(rate=PAL, count=4):
    media = Media("m", "/m.mp4", 640, 360, rate, FRAMES, content="0123456789abcdef")
    lock = Lock("lock", rate, FRAMES, 640, 360, media=(media,))
    shots = tuple(Shot(f"s{k}", 125 * k, 125 * (k + 1), Source("m", Fraction(125 * k))) for k in range(4))
    masters = (Master("tall", "9:16", 180, 320), Master("wide", "16:9", 320, 180))
    last = time_of(FRAMES, rate)
    made = tuple(
        Caption(f"c{k}", k * last // count, (k + 1) * last // count - 50, (Span(" ".join(WORDS[: k + 2])),))
        for k in range(count)
    )
    return Document(lock, shots, masters, tracks=(CaptionTrack("t", "t", made),))


pick = st.integers(0, 30)
times = st.integers(-2000, 40_000)
steps = st.lists(
    st.one_of(
        st.tuples(st.just("split"), pick, st.integers(0, 40)),
        st.tuples(st.just("join"), pick),
        st.tuples(st.just("retime"), pick, times, times),
        st.tuples(st.just("shift"), times, st.sampled_from([Fraction(1), Fraction(25, 24), Fraction(24000, 25025)])),
        st.tuples(st.just("text"), pick, st.sampled_from(["", "other words", "a\nb"])),
        st.tuples(st.just("remove"), pick),
        st.tuples(st.just("replace"), st.sampled_from(["the", "nine", "zzz"]), st.sampled_from(["", "x"])),
        st.tuples(st.just("differ"), pick, st.sampled_from(["tall", "wide"]), st.floats(0.5, 1.5)),
        st.tuples(st.just("style"), st.floats(0.02, 0.2)),
        st.tuples(st.just("cut"), st.integers(1, FRAMES - 1)),
        st.tuples(st.just("duplicate"), st.just(0)),
    ),
    max_size=12,
)


def done(doc, step):
    """The document after a step; as it was where the step cannot be."""
    what, *values = step
    captions = doc.tracks[0].captions
    chosen = captions[values[0] % len(captions)].id if captions and isinstance(values[0], int) else ""
    if not captions and what not in ("shift", "style", "cut", "duplicate", "replace"):
        return doc
    try:
        match what:
            case "split":
                return edits.split_caption(doc, "t", chosen, values[1])
            case "join":
                following = doc.tracks[0].place_of(chosen) + 1
                return edits.join_captions(doc, "t", [chosen, *(c.id for c in captions[following : following + 1])])
            case "retime":
                return edits.retime(doc, "t", chosen, values[1], values[2])
            case "shift":
                return edits.shift_captions(doc, "t", values[0], values[1])
            case "text":
                return edits.set_text(doc, "t", chosen, (Span(values[1]),))
            case "remove":
                return edits.remove_captions(doc, "t", [chosen])
            case "replace":
                return edits.replace_text(doc, "t", values[0], values[1])[0]
            case "differ":
                return edits.differ_by(doc, [chosen], [values[1]], lambda d: replace(d, size=values[2]))
            case "style":
                return edits.set_style(doc, "t", ["tall"], CaptionStyle(size=values[0]))
            case "cut":
                return edits.add_cut(doc, values[0])
            case _:
                return edits.duplicate_master(doc, "wide")[0]
    except ValueError:
        return doc


@given(steps, st.sampled_from(RATES))
def test_captions_stay_in_order_inside_the_lock_and_nothing_hangs_in_the_air(todo, rate):
    doc = document(rate)
    last = time_of(FRAMES, rate)
    for step in todo:
        doc = done(doc, step)
        captions = doc.tracks[0].captions
        assert [c.start for c in captions] == sorted(c.start for c in captions)
        assert all(0 <= c.start < c.end <= last + 1 for c in captions)
        assert {d.caption for d in doc.differing} <= {c.id for c in captions}
        masters = {m.id for m in doc.masters}
        assert {d.master for d in doc.differing} | {s.master for s in doc.styles} <= masters
        for caption in captions:
            frames = caption.frames(rate)
            assert caption in doc.tracks[0].at(frames.start, rate)
        levels = doc.tracks[0].levels
        for k, caption in enumerate(captions):
            for other in captions[k + 1 :]:
                if other.start < caption.end:
                    assert levels.get(other.id, 0) != levels.get(caption.id, 0)


@given(steps)
def test_what_is_remembered_of_problems_is_what_is_found_anew(todo):
    """Checks that go along with every change say the same as checks that look for the first time."""
    doc, along = document(), CaptionChecks()
    doc = edits.put_title(doc, Title("i", "label", 20, 300, ("A place",)))
    for step in todo:
        doc = done(doc, step)
        if step[0] == "remove":
            doc = edits.place_items(doc, ["i"], ["tall"], lambda p: replace(p, y=0.3))
        assert along.all(doc) == CaptionChecks().all(doc)


@given(st.integers(1, 30), st.integers(0, 3))
def test_splitting_and_joining_again_gives_the_text_and_the_times_back(letter, which):
    doc = document()
    caption = doc.tracks[0].captions[which]
    parted = done(doc, ("split", which, letter))
    if parted is doc:
        return
    parts = [c for c in parted.tracks[0].captions if caption.start <= c.start < caption.end]
    assert len(parts) == 2
    assert parts[0].end == parts[1].start
    whole = edits.join_captions(parted, "t", [p.id for p in parts]).tracks[0].captions[which]
    assert (whole.start, whole.end) == (caption.start, caption.end)
    assert whole.text.replace(" ", "") == caption.text.replace(" ", "")


@given(st.integers(-20_000, 20_000))
def test_shifting_back_and_forth_moves_nothing_that_stayed_inside(by):
    doc = document()
    there = edits.shift_captions(doc, "t", by)
    back = {c.id: c for c in edits.shift_captions(there, "t", -by).tracks[0].captions}
    last = time_of(FRAMES, doc.lock.rate)
    for caption in doc.tracks[0].captions:
        if caption.start + by >= 0 and caption.end + by <= last:
            assert back[caption.id] == caption


def test_a_way_of_writing_outlives_splitting_replacing_and_joining():
    spans = (Span("Nobody folds "), Span("them as small", italic=True), Span(" as she did"))
    doc = edits.put_captions(document(), "t", [replace(document().tracks[0].captions[0], spans=spans)])
    parted = edits.split_caption(doc, "t", "c0", len("Nobody folds them "))
    first, second, *_ = parted.tracks[0].captions
    assert [(s.text, s.italic) for s in first.spans] == [("Nobody folds ", False), ("them", True)]
    assert [(s.text, s.italic) for s in second.spans] == [("as small", True), (" as she did", False)]
    changed, count = edits.replace_text(parted, "t", "small", "tiny", case=True)
    assert (count, changed.tracks[0].captions[1].spans[0]) == (1, Span("as tiny", italic=True))


def test_masters_show_their_own_text_and_ranges_cut_captions(tmp_path):
    doc = edits.differ(
        document(), [Differing("c1", "tall", spans=(Span("mine"),)), Differing("c2", "tall", hidden=True)]
    )
    tall, wide = doc.masters
    assert [c.text for c in captions_of(doc, doc.tracks[0], tall)][1:] == ["mine", doc.tracks[0].captions[3].text]
    assert len(list(captions_of(doc, doc.tracks[0], wide))) == 4
    save_project(doc, tmp_path / "p.ezvar")
    assert load_project(tmp_path / "p.ezvar").differing == doc.differing


@pytest.mark.parametrize(
    "values",
    [
        {"size": 0.5}, {"outline": -0.1}, {"colour": "red"}, {"lines": 4}, {"line_spacing": 0.1}, {"side_margin": 0.9},
    ],
)  # fmt: skip
def test_looks_that_cannot_be_are_refused(values):
    with pytest.raises(ValueError, match=r"between|#rrggbb"):
        CaptionStyle(**values)


def test_places_and_captions_that_cannot_be_are_refused():
    with pytest.raises(ValueError, match="moved"):
        Placed("i", "m", x=2)
    with pytest.raises(ValueError, match="after it begins"):
        Caption("c", 10, 10, (Span("x"),))
    with pytest.raises(ValueError, match="letters"):
        Caption("c", 0, 10, (Span(" \n"),))
    with pytest.raises(ValueError, match="order of time"):
        CaptionTrack("t", "t", (Caption("a", 9, 10, (Span("x"),)), Caption("b", 1, 2, (Span("x"),))))
    with pytest.raises(ValueError, match="twice"):
        CaptionTrack("t", "t", (Caption("a", 1, 10, (Span("x"),)), Caption("a", 3, 4, (Span("x"),))))


def test_kept_lists_replace_by_name_and_refuse_what_they_cannot_read(tmp_path, monkeypatch):
    monkeypatch.setenv("EZVAR_CONFIG", str(tmp_path))
    first, other = NamedStyle("evening", CaptionStyle(size=0.07)), NamedStyle("evening", CaptionStyle(size=0.03))
    assert STYLES.load() == ()
    STYLES.keep(first)
    STYLES.keep(NamedStyle("day", CaptionStyle()), other)
    assert {s.name: s.style.size for s in STYLES.load()} == {"evening": 0.03, "day": 0.05}
    file = tmp_path / "x.json"
    for text, said in (
        ("{", "not whole"), ("[]", "holds no styles"), ('{"ezvar caption styles": 9}', "newer"),
        ('{"ezvar caption styles": 1, "styles": [{"name": "n", "style": {"size": 7}}]}', "the size lies between"),
    ):  # fmt: skip
        file.write_text(text)
        with pytest.raises(ProjectError, match=said):
            STYLES.load(file)
    file.write_text('{"something": 1}')
    with pytest.raises(ProjectError, match="something else"):
        STYLES.save([first], file)
    assert file.read_text() == '{"something": 1}'
