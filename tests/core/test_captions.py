"""Captions in and out of files, changed in a document, and what is wrong with them."""

from __future__ import annotations

import json
import sys
from contextlib import suppress
from dataclasses import replace
from fractions import Fraction
from itertools import pairwise
from threading import Timer

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ezvar import cli
from ezvar.core import compose, edits
from ezvar.core.errors import InputError
from ezvar.core.evidence import kept_analysis
from ezvar.core.lock import LockReader
from ezvar.core.model import (
    Caption,
    CaptionLimits,
    CaptionStyle,
    CaptionTrack,
    Differing,
    NamedRange,
    Rect,
    Span,
    Spot,
    Zone,
    ZoneProfile,
    joined_spans,
    make_master,
    nearest_frame,
    time_of,
)
from ezvar.core.progress import Cancelled, CancelToken
from ezvar.core.store import default_cache, load_project, save_project
from ezvar.core.text import (
    SIMULATED,
    SUFFIXES,
    ZONES,
    CaptionChecks,
    caption_offers,
    captions_of,
    captions_of_words,
    captions_text,
    give_captions,
    laid_out,
    parse_offset,
    raise_clear,
    rate_change,
    read_captions,
    service_named,
    shipped_zones,
    spread_text,
    take_captions,
    transcribe,
)
from ezvar.core.text.formats.cues import trimmed
from ezvar.core.text.formats.encodings import decode
from ezvar.core.text.formats.srt import read_srt
from ezvar.core.timing import RATES, Rate
from ezvar.demo import DEMO_PROJECT, DEMO_SEEN

WORDS = st.text("abc déβж紙ق<&>'\"-.…", min_size=1, max_size=12).filter(lambda t: t.strip())
spans = st.lists(
    st.builds(Span, WORDS | st.just("one\ntwo"), st.booleans(), st.booleans(), st.booleans()), min_size=1, max_size=4
)
spots = st.none() | st.builds(
    Spot,
    st.integers(0, 100).map(lambda n: n / 100),
    st.integers(0, 70).map(lambda n: n / 100),
    st.sampled_from(["left", "centre", "right"]),
    st.sampled_from(["top", "middle", "foot"]),
)


@st.composite
def captions(draw):
    made, at = [], 0
    for k in range(draw(st.integers(1, 6))):
        start = at + draw(st.integers(0, 4_000_000))
        at = start + draw(st.integers(1, 9000))
        text = trimmed(joined_spans(draw(spans)))
        if "".join(s.text for s in text).strip():
            made.append(Caption(str(k), start, at, text, draw(spots)))
    return made


def same(captions):
    return [(c.start, c.end, c.spans, c.spot) for c in captions]


@given(captions(), st.sampled_from(["WebVTT", "TTML"]))
def test_captions_come_back_from_files_as_they_were(tmp_path_factory, made, format):
    if not made:
        return
    file = tmp_path_factory.getbasetemp() / f"round{SUFFIXES[format]}"
    file.write_bytes(captions_text(made, format, "en"))
    cues = read_captions(file)
    assert same(cues.captions) == same(made)
    assert cues.left_out == []
    assert format in cues.format


@given(captions())
def test_srt_keeps_text_times_and_ways_of_writing(tmp_path_factory, made):
    """It has no way to write a sign of its own tags, and of places only nine."""
    plain = [
        replace(c, spans=joined_spans(replace(s, text=s.text.replace("<", "(")) for s in c.spans), spot=None)
        for c in made
    ]
    if not plain:
        return
    file = tmp_path_factory.getbasetemp() / "round.srt"
    file.write_bytes(captions_text(plain, "SRT"))
    assert same(read_captions(file).captions) == same(plain)
    corner = replace(plain[0], spot=Spot(0.92, 0.1, "right", "top"))
    file.write_bytes(captions_text([corner], "SRT"))
    assert read_captions(file).captions[0].spot == corner.spot


@given(st.integers(0, 200_000), st.sampled_from(RATES))
def test_frames_and_times_agree_at_every_rate(frame, rate):
    assert nearest_frame(time_of(frame, rate), rate) == frame
    caption = Caption("c", time_of(frame, rate), time_of(frame + 3, rate), (Span("x"),))
    assert (caption.frames(rate).start, caption.frames(rate).end) == (frame, frame + 3)
    track = CaptionTrack("t", "t", (caption,))
    assert [bool(track.at(n, rate)) for n in (frame + 2, frame + 3)] == [True, False]


BROKEN = """1
00:00:01,000 --> 00:00:02,500
Hello <i>world</i> & <3
<font color="red">red</font>

00:00:03.5 -> 00:00:04.5
{\\an8}no number, no comma, one hyphen

3
00:00:06,000 --> 00:00:06,000
zero

4
00:00:08,000 --> 00:00:07,000
backwards

5
00:00:09,000 --> 00:00:10,000


6
when --> then
no times

7
00:00:12,000 --> 00:00:13,000
%s

8
00:00:02,000 --> 00:00:05,000
early, and over another
9
00:00:14,000 --> 00:00:15,000
no blank line, no final newline""" % ("x" * 10_000)


def test_cues_are_read_or_left_out_one_by_one_with_their_lines(tmp_path):
    file = tmp_path / "broken.srt"
    file.write_bytes(b"\xef\xbb\xbf" + BROKEN.replace("\n", "\r\n").encode())
    cues = read_captions(file)
    assert [(c.start, c.text) for c in cues.captions] == [
        (1000, "Hello world & <3\nred"), (2000, "early, and over another"),
        (3500, "no number, no comma, one hyphen"), (14000, "no blank line, no final newline"),
    ]  # fmt: skip
    assert cues.captions[2].spot.down == "top"
    assert [(each.line, each.why.split(" ")[1]) for each in cues.left_out] == [
        (10, "lasts"), (14, "ends"), (18, "holds"), (22, "times"), (26, "has"), (30, "begins"),
    ]  # fmt: skip


def test_webvtt_blocks_settings_and_entities(tmp_path):
    file = tmp_path / "a.vtt"
    file.write_text(
        "WEBVTT - a title\n\nNOTE nothing\nto read\n\nSTYLE\n::cue { color: red }\n\n"
        "REGION\nid:top\nviewportanchor:50%,10%\n\nfirst\n00:01.000 --> 00:02.000 line:5% position:20% align:left\n"
        "<v Meira>&lt;Higher&gt; <00:01.500><c.big>still</c>\n\n00:03.000 --> 00:04.000 region:top vertical:rl\n"
        "<ruby>紙<rt>かみ</rt></ruby> <b>bold</b>\n\n00:05:00 --> 6\nbad\n"
    )
    cues = read_captions(file)
    assert [c.text for c in cues.captions] == ["<Higher> still", "紙 bold"]
    assert cues.captions[0].spot == Spot(0.2, 0.05, "left", "top")
    assert (cues.captions[1].spot.y, cues.captions[1].spans[1].bold) == (0.1, True)
    assert [each.line for each in cues.left_out if not each.kept] == [20]


TTML = """<?xml version="1.0" encoding="UTF-8"?>
<tt xmlns="http://www.w3.org/ns/ttml" xmlns:tts="http://www.w3.org/ns/ttml#styling"
    xmlns:ttp="http://www.w3.org/ns/ttml#parameter" ttp:frameRate="25" ttp:tickRate="1000" xml:lang="de">
 <head><styling><style xml:id="base" tts:fontStyle="italic"/>
  <style xml:id="s" style="base" tts:fontWeight="bold"/></styling><layout>
  <region xml:id="up" tts:origin="10% 10%" tts:extent="80% 20%" tts:displayAlign="before" tts:textAlign="center"/>
  <region xml:id="low" tts:origin="10% 70%" tts:extent="80% 20%" tts:displayAlign="after" tts:textAlign="center"/>
 </layout></head>
 <body begin="10s"><div timeContainer="seq" region="low">
  <p dur="2s">one<br/> two   three</p><p dur="1500ms" region="up"><span style="s">both</span> plain</p></div>
  <div><p begin="00:00:05:05" end="5500t">frames <!-- no --> and ticks</p>
  <p begin="soon" end="2s">bad</p><p begin="1s">no end</p>
  <p><span begin="20s" dur="1s">timed</span><span begin="21s" dur="1s">spans</span></p></div></body></tt>"""


def test_ttml_times_styles_and_regions(tmp_path):
    file = tmp_path / "a.ttml"
    file.write_text(TTML)
    cues = read_captions(file)
    assert [(c.start, c.end, c.text) for c in cues.captions] == [
        (10000, 12000, "one\ntwo three"), (12000, 13500, "both plain"), (15200, 15500, "frames and ticks"),
        (30000, 31000, "timed"), (31000, 32000, "spans"),
    ]  # fmt: skip
    assert cues.captions[1].spans[0] == Span("both", italic=True, bold=True)
    assert cues.captions[0].spot is None
    assert cues.captions[1].spot == Spot(0.5, 0.1, "centre", "top")
    assert [each.line for each in cues.left_out] == [12, 12]
    file.write_text('<!DOCTYPE tt [<!ENTITY a "b">]><tt xmlns="http://www.w3.org/ns/ttml"><body/></tt>')
    with pytest.raises(InputError, match="entities"):
        read_captions(file)
    file.write_text("<tt><unclosed>")
    with pytest.raises(InputError, match="not whole"):
        read_captions(file)


@pytest.mark.parametrize(
    ("text", "encoding"),
    [
        ("Größe über den Fluß", "cp1252"), ("El niño está aquí mañana", "iso8859-15"),
        ("紙灯籠の夜に集まる人々。", "cp932"),
        ("Фонари плывут по реке", "cp1251"), ("Fänger", "utf-16-le"), ("plain", "utf-16"), ("Ünïcödé", "utf-8-sig"),
        ("등불이 강을 따라 내려간다", "cp949"), ("الفوانيس تنزل مع النهر", "cp1256"),
    ],
)  # fmt: skip
def test_encodings_are_told_or_named(tmp_path, text, encoding):
    srt = f"1\n00:00:01,000 --> 00:00:02,000\n{text}\n"
    assert decode(srt.encode(encoding))[0] == srt
    file = tmp_path / "a.srt"
    file.write_bytes(srt.encode(encoding))
    assert read_captions(file, encoding).captions[0].text == text
    if encoding == "cp932":
        with pytest.raises(InputError, match="not in the encoding utf-8"):
            read_captions(file, "utf-8")


def test_two_damaged_bytes_are_no_mark_of_another_encoding():
    said, encoding = decode(b"\xff\xfe\n00:00:01,000 --> 00:00:02,000\nOne\n")
    assert said.endswith("\n00:00:01,000 --> 00:00:02,000\nOne\n")
    assert encoding != "utf-16"


@pytest.mark.parametrize("piece", ["1 ", "{\\an1", "{\\an8}", "--> 1", "<i></i>"])
def test_lines_without_end_are_read_through_once(piece):
    """Searched from each of their letters anew, some would take hours."""
    text = f"1\n00:00:01,000 --> 00:00:02,000\nfirst\n\n2\n00:00:03,000 --> 00:00:04,000\n{piece * 60_000}\n"
    assert read_srt(text).captions[0].text == "first"


@given(st.binary(max_size=300))
def test_whatever_bytes_there_are_are_captions_or_a_sentence(tmp_path_factory, data):
    file = tmp_path_factory.getbasetemp() / "any.srt"
    file.write_bytes(data)
    with suppress(InputError):
        assert read_captions(file).captions


def two(doc, first="The lanterns go down the river at nine", second="Nobody folds them as small", **values):
    made = (Caption("a", 9200, 12000, (Span(first),)), Caption("b", 12100, 14000, (Span(second),)))
    return edits.add_track(doc, CaptionTrack("t", "English", made, **values))


def test_captions_are_taken_at_the_locks_times(demo, tmp_path):
    """A file that counts from the lock's timecode is told; an offset and another rate are taken as said."""
    file = tmp_path / "a.srt"
    file.write_text("1\n01:00:09,000 --> 01:00:12,000\nx\n\n2\n02:00:00,000 --> 02:00:01,000\nbeyond\n")
    with pytest.raises(InputError, match="inside the lock"):
        take_captions(demo, file)
    doc, taken = take_captions(demo, file, parse_offset("01:00:00:00", demo.lock))
    assert (taken.offset, [c.start for c in doc.tracks[0].captions]) == (-3_600_000, [9000])
    assert "beyond" in str(taken.cues.left_out[-1])
    file.write_text("1\n01:00:09,000 --> 01:00:12,000\nx\n")
    again, taken = take_captions(doc, file, into=doc.tracks[0].id)
    assert (taken.offset, len(again.tracks), again.tracks[0].name) == (-3_600_000, 1, doc.tracks[0].name)
    slow = rate_change(Rate(24000, 1001), replace(demo.lock, rate=Rate(25)))
    assert round(1_000_000 * slow) == 959041
    assert parse_offset("-40ms", demo.lock) == -40
    with pytest.raises(InputError, match="no offset"):
        parse_offset("soon", demo.lock)


@pytest.fixture(scope="module")
def demo():
    return replace(load_project(DEMO_PROJECT), tracks=(), styles=(), differing=())


def alone(doc, master):
    """The document with one master only."""
    return replace(doc, masters=(master,), framings=tuple(f for f in doc.framings if f.master == master.id))


@pytest.fixture(scope="module")
def seen(demo):
    return kept_analysis(demo, default_cache(DEMO_SEEN))


def test_captions_are_split_joined_retimed_and_replaced(demo):
    doc = two(demo)
    parted = edits.split_caption(doc, "t", "a", 21)
    first, second, _ = parted.tracks[0].captions
    assert (first.text, second.text, first.end) == ("The lanterns go down", "the river at nine", second.start)
    whole = edits.join_captions(parted, "t", [first.id, second.id]).tracks[0].captions[0]
    assert (whole.text, whole.start, whole.end) == ("The lanterns go down the river at nine", 9200, 12000)
    moved = edits.retime(doc, "t", "b", 5000, 4000).tracks[0]
    assert [c.id for c in moved.captions] == ["b", "a"]
    changed, count = edits.replace_text(doc, "t", "THE", "their")
    assert (count, changed.tracks[0].captions[1].text) == (3, "Nobody folds theirm as small")
    assert edits.shift_captions(doc, "t", 1000, Fraction(2)).tracks[0].captions[0].start == 19400
    assert edits.shift_captions(doc, "t", -11000).tracks[0].captions[0].start == 0
    assert edits.set_text(doc, "t", "a", (Span("  "),)).tracks[0].captions[0].id == "b"


def test_what_differs_outlives_the_style_and_what_was_let_stand_does_not_outlive_the_text(demo):
    master = demo.masters[0].id
    doc = edits.differ(two(demo), [Differing("a", master, size=0.8, right=("does not fit",))])
    doc = edits.set_style(doc, "t", [master], CaptionStyle(size=0.09))
    assert doc.differs("a", master).size == 0.8
    assert edits.set_text(doc, "t", "a", (Span("new"),)).differs("a", master) == Differing("a", master, size=0.8)
    copied, new = edits.duplicate_master(doc, master)
    assert (copied.differs("a", new.id).size, copied.style("t", new.id).size) == (0.8, 0.09)
    assert edits.remove_master(doc, master).differing == ()
    assert edits.remove_track(doc, "t") == replace(demo, differing=(), styles=())


def test_captions_go_with_their_shots_to_a_changed_lock(demo):
    """The second shot comes first, and the first is gone."""
    doc = two(demo)
    shot = doc.shot_at(doc.tracks[0].captions[0].frames(doc.lock.rate).start)
    alone = replace(shot, id="new", start=0, end=shot.frames, cut=None)
    lock = replace(doc.lock, frames=shot.frames)
    new = replace(doc, lock=lock, shots=(alone,), framings=(), drawn=(), tracks=(), passed=(), exchanged=(), played=())
    carried, listed = edits.carry(doc, new, {"new": edits.Match(shot.id, 0)})
    (caption, *_) = carried.tracks[0].captions
    assert caption.start == 9200 - time_of(shot.start, doc.lock.rate)
    inside = sum(c.frames(doc.lock.rate).start < shot.end for c in doc.tracks[0].captions)
    assert len(carried.tracks[0].captions) == inside
    assert sum("caption" in each.said for each in listed) == 2 - inside


def problems(doc, seen=None):
    return [(p.caption, p.name) for p in CaptionChecks().all(doc, seen)]


def test_problems_in_time_are_found_and_can_be_let_stand(demo):
    doc = alone(demo, demo.masters[0])
    crowded = two(
        doc, first="much more than anybody could read in so little time", limits=CaptionLimits(gap=4, shortest=2500)
    )
    crowded = edits.retime(crowded, "t", "a", 9200, 11000)
    assert [n for c, n in problems(crowded) if c == "a"] == ["too quick", "too short"]
    assert ("b", "too short") in problems(crowded)
    close = edits.retime(two(doc, limits=CaptionLimits(gap=4)), "t", "a", 9200, 12000)
    assert problems(close) == [("a", "gap")]
    over = edits.retime(close, "t", "a", 9200, 12400)
    assert problems(over) == [("a", "overlaps")]
    assert problems(edits.differ(over, [Differing("a", "", right=("overlaps",))])) == []


def test_problems_over_the_picture_are_found_and_settled_by_what_is_offered(demo, seen):
    """A caption over a face, one that is too long, and one behind the controls of an app."""
    tall = replace(demo.masters[0], zones=shipped_zones()[0])
    doc = alone(demo, tall)
    long = two(doc, first="The lanterns go down the river at nine and nobody knows how far they go", second="No")
    long = edits.retime(long, "t", "a", 30_000, 36_000)
    low = edits.set_style(long, "t", [tall.id], CaptionStyle(down="middle", margin=0.3, size=0.07))
    checks = CaptionChecks()
    found = checks.all(low, seen)
    assert {p.name for p in found if p.caption == "a"} == {"does not fit", "over a face", "behind controls"}
    caption = low.tracks[0].caption("a")
    offers = {
        o.said.split(":")[0].split("“")[0]: o
        for o in caption_offers(low, low.tracks[0], caption, tall, found, checks, seen)
    }
    assert list(offers) == ["Split at ", "Smaller, this one", "Three lines, this one", "Raise it clear"]
    for offer in offers.values():
        assert len(checks.all(offer.change(low), seen)) < len(found) or offer.said.startswith(("Split", "Three"))
    behind = edits.set_style(long, "t", [tall.id], CaptionStyle(margin=0.02, size=0.03))
    assert ("b", "behind controls") in problems(behind, seen)
    clear, _ = raise_clear(behind, "t", tall, checks, seen)
    assert problems(clear, seen) == []
    assert clear.style("t", tall.id).margin >= 0.14


def test_captions_over_captions_and_letters_without_type_are_told(demo):
    doc = two(alone(demo, demo.masters[0]))
    other = replace(
        doc.tracks[0], id="u", name="second", captions=(Caption("c", 9500, 12000, (Span("Ça va \U0001f3ee?"),)),)
    )
    both = edits.add_track(doc, other)
    assert problems(both) == [("c", "letters missing")]
    at = CaptionStyle(margin=0.16)
    assert ("c", "over captions") in problems(edits.set_style(both, "u", [doc.masters[0].id], at))
    strange = edits.set_style(doc, "t", [doc.masters[0].id], replace(at, family="Some Grotesque"))
    assert problems(strange) == [("", "font missing")]


def test_what_is_seen_is_what_is_made_and_hidden_captions_are_not(demo):
    doc = two(demo)
    master = doc.masters[2]
    frame = doc.tracks[0].captions[0].frames(doc.lock.rate).start + 2
    with LockReader(doc) as reader, compose.LockPictures(reader) as pictures:
        drawn = compose.frame(doc, master, frame, pictures, 0.5).y.astype(int)
        again = compose.frame(doc, master, frame, pictures, 0.5).y
        bare = compose.frame(doc, master, frame, pictures, 0.5, compose.Shown(captions=False)).y
        hidden = edits.differ(doc, [Differing("a", master.id, hidden=True)])
        assert (compose.frame(hidden, master, frame, pictures, 0.5).y == bare).all()
    assert (again == drawn).all()
    rows, columns = np.nonzero(drawn - bare)
    rect = laid_out(doc, doc.tracks[0], doc.tracks[0].captions[0], master).rect
    assert columns.min() >= rect.x / 2 - 2
    assert rows.max() <= (rect.y + rect.height) / 2 + 2
    assert columns.max() - columns.min() > 0.9 * (rect.width / 2) - 10


def test_files_are_given_for_each_master_and_cut_to_its_range(demo, tmp_path):
    first, second = demo.masters[:2]
    ranged = replace(first, ranges=(NamedRange("teaser", 240, 330),))
    doc = two(replace(demo, masters=(ranged, second), framings=()))
    doc = edits.differ(doc, [Differing("b", ranged.id, spans=(Span("Nobody"),))])
    files = give_captions(doc, "SRT", tmp_path / "out")
    assert [f.name for f in files] == ["lantern-night 9x16 teaser.srt", "lantern-night 4x5.srt"]
    cut = read_captions(files[0]).captions
    assert [(c.start, c.end, c.text) for c in cut] == [
        (0, 2400, doc.tracks[0].captions[0].text),
        (2500, 3600, "Nobody"),
    ]
    assert list(captions_of(doc, doc.tracks[0], second))[1].text == "Nobody folds them as small"


def test_zones_are_exchanged(tmp_path):
    assert [p.name for p in shipped_zones()] == [
        "tall, controls right",
        "tall, controls top and foot",
        "square, caption below",
    ]
    own = ZoneProfile("own", 0.8, (Zone("logo", Rect(0, 0, 0.2, 0.1), "a mark stands there"),))
    ZONES.save([own], tmp_path / "zones.json")
    assert ZONES.load(tmp_path / "zones.json") == (own,)
    master = replace(make_master("4:5", 1080, 1350), zones=own)
    assert master.zones.zones[0].rect.width == 0.2


def test_the_command_line_takes_captions_lists_problems_and_gives_them(demo, tmp_path, capsys):
    project = tmp_path / "p.ezvar"
    save_project(demo, project, over=None)
    file = tmp_path / "a.srt"
    file.write_bytes(
        "1\n00:00:20,000 --> 00:00:20,400\nviel zu kurz für alle\n\n2\nbad --> times\nx\n".encode("cp1252")
    )
    assert cli.main(["captions", str(project), "--take", str(file)]) == 1
    assert capsys.readouterr().out.splitlines() == [
        "1 caption from SRT in cp1252",
        "Line 6: its times cannot be read: “bad --> times”.",
    ]
    assert cli.main(["check", str(project), "--json"]) == 1
    listed = json.loads(capsys.readouterr().out)["captions"]
    assert [(p["caption"], p["at"], p["what"]) for p in listed] == [
        (1, "01:00:20:00", "too quick"),
        (1, "01:00:20:00", "too short"),
    ]
    assert cli.main(["captions", str(project), "--give", "vtt", "-o", str(tmp_path / "out")]) == 0
    assert len(capsys.readouterr().out.splitlines()) == len(demo.masters)
    assert cli.main(["captions", str(project), "--take", str(tmp_path / "none.srt")]) == 2
    assert cli.main(["captions", str(project), "--give", "srt"]) == 2


PARAGRAPH = (
    "The lanterns go down the river at nine. Nobody folds them as small as my grandmother did, and she had no "
    "glasses! One for each house, and one for whoever is away.\n\nIt always rains."
)


def test_pasted_text_is_spread_by_its_length_and_ends_where_the_sound_pauses():
    loud = np.ones(600)
    loud[205:215] = 0.0  # a pause from 4.1 to 4.3 s
    parts = spread_text(PARAGRAPH, 1000, 12_000, CaptionLimits(), loud, 12_000)
    assert [c.text[-1] for c in parts] == [".", "!", ".", "."]
    assert 4100 <= spread_text(PARAGRAPH, 1800, 12_000, CaptionLimits(), loud, 12_000)[0].end <= 4300
    assert (parts[0].start, parts[-1].end) == (1000, 12_000)
    assert all(a.end <= b.start for a, b in pairwise(parts))
    assert all(len(c.text) <= 84 for c in parts)
    lengths = [c.length / len(c.text) for c in spread_text(PARAGRAPH, 0, 12_000, CaptionLimits())]
    assert max(lengths) < 2 * min(lengths)
    for text, end in ((" ", 900), (PARAGRAPH, 200)):
        with pytest.raises(ValueError, match=r"no text|too short"):
            spread_text(text, 0, end, CaptionLimits())


def service(*lines):
    said = "\n".join(lines)
    return (sys.executable, "-c", f"import sys; sys.stdin.read(); print({said!r})")


def test_a_transcription_service_is_heard_checked_and_broken_off(demo, monkeypatch):
    quick = (*SIMULATED, "--pace", "0")
    heard = transcribe(demo, (*quick, "--mood", "well"))
    captions = captions_of_words(heard.words, CaptionLimits())
    assert (heard.cut_off, len(captions) > 15, captions[0].text) == ("", True, "Orrenvale, in autumn.")
    assert any(c.unsure for c in captions)
    broken = transcribe(demo, (*quick, "--mood", "breaks"))
    assert 0 < len(broken.words) < len(heard.words)
    assert "broke off" in broken.cut_off
    part = transcribe(demo, (*quick, "--mood", "well"), 185, 310)
    assert part.words[0].start < 1
    assert {"lanterns", "Orrenvale,"} & {w.text for w in part.words} == {"lanterns"}
    deaf = (sys.executable, "-c", """print('{"words": [{"text": "x", "start": 0, "end": 1}], "done": true}')""")
    more_than_a_pipe_holds = "x" * 300_000  # so that it has surely ended before all is asked
    assert len(transcribe(demo, deaf, 0, 5, more_than_a_pipe_holds).words) == 1
    with pytest.raises(InputError, match="ended before"):
        transcribe(demo, (sys.executable, "-c", ""), 0, 5, more_than_a_pipe_holds)
    word = json.dumps({"words": [{"text": "x", "start": 0, "end": 1, "confidence": 7}]})
    for command, why in (
        ((*quick, "--mood", "fails"), "ears"), (("no such program",), "cannot be begun"),
        (service("{"), "cannot be read"), (service(word), "cannot be read"), (service(""), "cannot be read"),
        (service('{"error": "tired"}'), "tired"),
    ):  # fmt: skip
        with pytest.raises(InputError, match=why):
            transcribe(demo, command, 0, 5)
    token = CancelToken()
    slow = (sys.executable, "-c", "import time; time.sleep(60)")
    Timer(0.5, token.cancel).start()
    with pytest.raises(Cancelled):
        transcribe(demo, slow, 0, 5, cancel=token)
    monkeypatch.setenv("EZVAR_TRANSCRIBER", "listen --to 'all of it'")
    assert service_named() == ("listen", "--to", "all of it")


def test_every_collision_of_the_demos_captions_in_three_shapes_is_settled_by_what_is_offered(seen):
    """Only what is a matter of taste is left: two captions that are too quick, with no room after them."""
    doc, checks = load_project(DEMO_PROJECT), CaptionChecks()
    for _ in range(60):
        offer = next(
            (
                offers[0]
                for p in checks.all(doc, seen)
                for t in (doc.track(p.track),)
                for m in (doc.master(p.master) if p.master else doc.masters[0],)
                if (offers := caption_offers(doc, t, t.caption(p.caption), m, [p], checks, seen))
            ),
            None,
        )
        if offer is None:
            break
        doc = offer.change(doc)
    assert [p.name for p in checks.all(doc, seen)] == ["too quick", "too quick"]
    for track in doc.tracks:
        for caption in track.captions:
            for master in doc.masters:
                rect = laid_out(doc, track, caption, master).rect
                assert 0.05 * master.width <= rect.x <= rect.x + rect.width <= 0.95 * master.width
                assert 0.05 * master.height <= rect.y <= rect.y + rect.height <= 0.95 * master.height + 1e-6
