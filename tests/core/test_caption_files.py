"""Caption files as they are found in practice: one oddity each, and what it must come to."""

from __future__ import annotations

import json
import subprocess
import sys

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ezvar.core.errors import InputError
from ezvar.core.model import Spot
from ezvar.core.text import read_captions, tagged
from ezvar.core.text.formats.markup import spans_of
from ezvar.core.text.formats.ttml_times import Clock, clock_of
from ezvar.demo import DEMO_CAPTIONS


def read(tmp_path, text, name="a.srt"):
    file = tmp_path / name
    file.write_text(text)
    return read_captions(file)


def said(cues):
    return [(c.start, c.end, c.text) for c in cues.captions]


@pytest.mark.parametrize(
    ("line", "times"),
    [
        ("00:00:01,000 --> 00:00:02,000", (1000, 2000)),
        ("0:00:01.5 --> 0:00:02.25", (1500, 2250)),
        ("00:00:01 --> 00:00:02", (1000, 2000)),
        ("00:00:01,05 --> 00:00:02,1", (1050, 2100)),
        ("  00:00:01,000-->00:00:02,000  ", (1000, 2000)),
        ("00:00:01,000 -> 00:00:02,000", (1000, 2000)),
        ("00:00:01:000 --> 00:00:02:000", (1000, 2000)),
        ("100:00:00,000 --> 100:00:01,000", (360_000_000, 360_001_000)),
        ("00:00:01,000 --> 00:00:02,000 X1:10 X2:600 Y1:400 Y2:460", (1000, 2000)),
        ("-00:00:01,000 --> 00:00:02,000", (0, 2000)),
    ],
)
def test_times_of_srt_in_every_usual_way(tmp_path, line, times):
    assert said(read(tmp_path, f"1\n{line}\nwords\n")) == [(*times, "words")]


@pytest.mark.parametrize(
    ("body", "spans"),
    [
        ("<i>slanted</i> plain", [("slanted", "i"), (" plain", "")]),
        ("<I>capital tag</I>", [("capital tag", "i")]),
        ("{\\i1}old way{\\i0} plain", [("old way", "i"), (" plain", "")]),
        ("<b><i>both</i></b>", [("both", "ib")]),
        ("<i>never closed\nnext line", [("never closed\nnext line", "i")]),
        ("</i>closed only", [("closed only", "")]),
        ('<font color="#ff0000" size="3">coloured</font>', [("coloured", "")]),
        ("{\\an8}{\\pos(10,20)}placed", [("placed", "")]),
        ("5 < 6 > 4 & <unknown>", [("5 < 6 > 4 & <unknown>", "")]),
        ("one<br>two<br/>three", [("one\ntwo\nthree", "")]),
        ("  blanks  \n\t around \t", [("blanks\naround", "")]),
        ("&amp; stays", [("&amp; stays", "")]),
    ],
)
def test_ways_of_writing_in_srt(tmp_path, body, spans):
    (caption,) = read(tmp_path, f"1\n00:00:01,000 --> 00:00:02,000\n{body}\n").captions
    ways = [(s.text, "i" * s.italic + "b" * s.bold + "u" * s.underline) for s in caption.spans]
    assert ways == spans


@pytest.mark.parametrize(
    ("settings", "spot"),
    [
        ("", None),
        ("align:center", None),
        ("align:left", Spot(0.0, 0.9, "left", "foot")),
        ("line:0", Spot(0.5, 0.0, "centre", "top")),
        ("line:-1", Spot(0.5, 1.0, "centre", "foot")),
        ("line:50%,center", Spot(0.5, 0.5, "centre", "middle")),
        ("line:90%,end position:10%,line-left", Spot(0.1, 0.9, "left", "foot")),
        ("position:75% size:40%", Spot(0.75, 0.9, "centre", "foot")),
        ("line:nonsense position:200%", None),
        ("size:80% region:none", None),
    ],
)
def test_places_of_webvtt(tmp_path, settings, spot):
    cues = read(tmp_path, f"WEBVTT\n\n00:01.000 --> 00:02.000 {settings}\nwords\n", "a.vtt")
    assert cues.captions[0].spot == spot


def test_webvtt_without_its_head_with_cues_that_touch_and_signs_of_its_own(tmp_path):
    cues = read(tmp_path, "00:01.000 --> 00:02.000\n&lt;a&gt; &amp; &nbsp;b\n", "a.vtt")
    assert (said(cues), cues.left_out[0].kept) == ([(1000, 2000, "<a> & \xa0b")], True)
    text = "WEBVTT\nKind: captions\n\n1\n00:01.000 --> 00:02.000\none\n00:02.000 --> 00:03.000\ntwo\n\nNOTE\nnothing"
    assert said(read(tmp_path, text, "a.vtt")) == [(1000, 2000, "one"), (2000, 3000, "two")]


@pytest.mark.parametrize(
    ("text", "seconds"),
    [
        ("00:00:01.5", 1.5), ("01:00:00:12", 3600.48), ("12.5s", 12.5), ("1h", 3600), ("2m", 120), ("1500ms", 1.5),
        ("50f", 2), ("20000t", 2), ("00:00:02", 2),
    ],
)  # fmt: skip
def test_times_of_ttml(text, seconds):
    assert float(clock_of("25", "", "10000", "").seconds(text)) == pytest.approx(seconds)


def test_frames_of_ttml_count_by_the_multiplier():
    clock = clock_of("30", "1000 1001", "", "")
    assert float(clock.seconds("00:00:00:15")) == pytest.approx(15 * 1001 / 30_000)
    assert float(clock.seconds("30f")) == pytest.approx(1.001)
    for text in ("", "1", "1:2:3", "soon", "00:00:01,5"):
        with pytest.raises(ValueError, match="no time"):
            Clock().seconds(text)


def ttml(body, head="", more=""):
    return (
        '<tt xmlns="http://www.w3.org/ns/ttml" xmlns:tts="http://www.w3.org/ns/ttml#styling" '
        f'xmlns:ttp="http://www.w3.org/ns/ttml#parameter" {more}><head><layout>{head}</layout></head>{body}</tt>'
    )


@pytest.mark.parametrize(
    ("region", "more", "spot"),
    [
        ('tts:origin="0px 0px" tts:extent="960px 270px"', 'tts:extent="1920px 1080px"', Spot(0.0, 0.0, "left", "top")),
        ('tts:origin="16c 3c" tts:extent="16c 3c" tts:textAlign="right"', "", Spot(1.0, 0.2, "right", "top")),
        ('tts:origin="10% 80%" tts:extent="80% 10%" tts:displayAlign="after" tts:textAlign="center"', "", None),
        ('tts:origin="auto" tts:extent="80% 10%"', "", None),
    ],
)
def test_places_of_ttml_in_every_unit(tmp_path, region, more, spot):
    head = f'<region xml:id="r" {region}/>'
    body = '<body region="r"><div><p begin="1s" end="2s">words</p></div></body>'
    assert read(tmp_path, ttml(body, head, more), "a.ttml").captions[0].spot == spot


def test_old_names_nested_times_and_documents_without_text(tmp_path):
    body = '<body begin="10s" end="20s"><div begin="1s"><p begin="1s" dur="60s">cut at the end</p></div></body>'
    assert said(read(tmp_path, ttml(body), "a.xml")) == [(12_000, 20_000, "cut at the end")]
    old = ttml('<body><div><p begin="1s" end="2s">old</p></div></body>').replace("ns/ttml", "2006/10/ttaf1")
    assert said(read(tmp_path, old, "a.dfxp")) == [(1000, 2000, "old")]
    for text, why in (
        (ttml("<body/>"), "no captions"), ("<html><body/></html>", "no captions|no TTML"),
        ("<?xml version='1.0'?><a/>", "no TTML"), ("", "no captions"), ("WEBVTT\n", "no captions"),
    ):  # fmt: skip
        with pytest.raises(InputError, match=why):
            read(tmp_path, text, "a.ttml")


@given(st.lists(st.tuples(st.text("ab <&>\n", min_size=1, max_size=6), st.booleans(), st.booleans()), max_size=5))
def test_tags_with_entities_come_back_whatever_the_text(parts):
    from ezvar.core.model import Span, joined_spans
    from ezvar.core.text.formats.cues import trimmed

    spans = trimmed(joined_spans(Span(t, i, b) for t, i, b in parts))
    assert spans_of(tagged(spans, entities=True), entities=True) == spans


def test_the_demos_caption_file_has_what_goes_wrong_and_comes_in_all_the_same():
    cues = read_captions(DEMO_CAPTIONS)
    assert (len(cues.captions), cues.encoding) == (24, "utf-8")
    kinds = [each.why.split(":")[0] for each in cues.left_out]
    assert sorted(kinds) == sorted([
        "its times cannot be read", "it lasts no time", "it holds no text", "it ends before it begins",
        "it begins before the one above and was put in order of time",
    ])  # fmt: skip


@pytest.mark.parametrize(
    ("request_", "answer"),
    [
        ("{", "not understood"), ("{}", "not understood"),
        (json.dumps({"version": 2, "sound": __file__, "name": "x", "from": 0, "to": 1}), "not understood"),
        (json.dumps({"version": 1, "sound": "/none.wav", "name": "x", "from": 0, "to": 1}), "not understood"),
        (json.dumps({"version": 1, "sound": __file__, "name": "a wedding", "from": 0, "to": 1}), "no speech"),
    ],
)  # fmt: skip
def test_the_service_that_pretends_answers_what_it_cannot_do(request_, answer):
    ran = subprocess.run(
        [sys.executable, "-m", "ezvar.speech", "--mood", "well"],
        input=request_,
        capture_output=True,
        text=True,
        check=False,
    )
    assert ran.returncode == 1
    assert answer in json.loads(ran.stdout)["error"]
