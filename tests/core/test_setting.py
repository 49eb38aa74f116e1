"""Setting text: line breaks at sense, layouts that stay inside the frame, and what is drawn of them."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ezvar.core.errors import InputError
from ezvar.core.model import Caption, CaptionStyle, Differing, Span, Spot
from ezvar.core.text import SAFE, read_font
from ezvar.core.text.formats.markup import spans_of
from ezvar.core.text.setting.breaking import FORBIDDEN, break_lines, pieces
from ezvar.core.text.setting.drawing import draw_laid_out
from ezvar.core.text.setting.fonts import families, font_problem
from ezvar.core.text.setting.layout import lay_out, wanted
from ezvar.core.text.setting.type import SHIPPED, Face, Writing
from ezvar.core.text.setting.words import language_of

SENTENCES = (Path(__file__).parent.parent / "data" / "sentences.txt").read_text().splitlines()
"""Five hundred sentences of a translation of 1611."""
TALL, SQUARE, WIDE = (1080, 1920), (1080, 1080), (1920, 1080)
SCRIPTS = {
    "Latin": "abcdefghijklmnopqrstuvwxyzABCDEFGHÄÖÜßéèêçñőšžåø’-,.!? ",
    "Arabic": "ابتثجحخدذرزسشصضطظعغفقكلمنهوي،؟ ",
    "Hebrew": "אבגדהוזחטיכלמנסעפצקרשת.! ",
    "Devanagari": "अआइईउऊएओकखगघचजटडतदनपबमयरलवशसहािीुूेोंँ् ",
    "Thai": "กขคงจชซญดตถทนบปผพมยรลวสหอะาิีึืุูเแโไ่้ ",
    "Japanese": "紙灯籠夜川人谷集東京あいうえおかきくけこさしすせそはがをにカタナー、。「」",
    "Korean": "등불이아홉시에강을따라내려간다 ",
    "with marks": "ae\u0301o\u0308n\u0303c\u0327u\u0302 x",
}


def laid(text, frame=TALL, style=CaptionStyle(), **differing):
    caption = Caption("c", 0, 1000, spans_of(text, entities=False))
    return lay_out(wanted(caption, style, Differing("c", "m", **differing), language_of([text])), *frame)


def lines(text, frame=TALL, style=CaptionStyle(), **differing):
    return [line.text.strip() for line in laid(text, frame, style, **differing).lines]


def hangs(word):
    """Whether a line should not end with a word: an article, a possessive, or a preposition."""
    return word.lower() in {
        "a", "an", "the", "of", "to", "in", "on", "at", "by", "for", "with", "from", "into", "unto", "upon", "over",
        "under", "between", "through", "about", "against", "among", "my", "his", "her", "thy", "their", "our", "your",
    }  # fmt: skip


def test_real_sentences_break_at_sense_and_into_lines_of_one_length():
    """No forbidden break where two lines could do without; half of all differ by less than an eighth."""
    type_, writing = families(Face()), Writing(bold=True)
    uneven, two = [], 0
    for sentence in SENTENCES:
        parted = pieces(sentence)
        widths = [type_.width(p.text, writing) for p in parted]
        costs, spaces = [p.costs for p in parted], [0.25] * len(parted)
        limit = 22.0
        breaks = break_lines(costs, widths, spaces, limit, 2)
        if not breaks:
            continue
        two += 1
        (at,) = breaks

        def sizes(b, widths=widths):
            return sum(widths[: b + 1]) + 0.25 * b, sum(widths[b + 1 :]) + 0.25 * (len(widths) - b - 2)

        others = [b for b in range(len(parted) - 1) if max(sizes(b)) <= limit and not hangs(parted[b].text)]
        assert not hangs(parted[at].text) or not others, sentence
        uneven.append(1 - min(sizes(at)) / max(sizes(at)))
    assert two > 400
    assert np.median(uneven) <= 0.12


@given(
    widths=st.lists(st.floats(0.5, 6), min_size=1, max_size=9),
    costs=st.lists(st.sampled_from([-0.1, 0.0, 0.3, FORBIDDEN]), min_size=9, max_size=9),
    limit=st.floats(3, 20),
)
def test_lines_hold_what_they_are_given_and_are_as_few_as_can_be(widths, costs, limit):
    spaces = [0.3] * len(widths)
    breaks = break_lines(costs[: len(widths)], widths, spaces, limit, 3)
    if breaks is None:
        return
    edges = (0, *(b + 1 for b in breaks), len(widths))
    sizes = [sum(widths[a:b]) + 0.3 * (b - a - 1) for a, b in pairwise(edges)]
    assert max(sizes) <= limit + 1e-9
    greedy, run = 1, 0.0
    for width in widths:
        run = run + 0.3 + width if run else width
        if run > limit + 1e-9:
            greedy, run = greedy + 1, width
    assert len(sizes) == greedy


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("The lanterns go down the river at nine", ["The lanterns go down", "the river at nine"]),
        ("- Who folds them?\n- Nobody as small.", ["- Who folds them?", "- Nobody as small."]),
        (
            "Est-ce que tu viens vraiment avec nous ce soir ?",
            ["Est-ce que tu viens", "vraiment avec nous ce soir\u00a0?"],
        ),
        ("紙灯籠の夜に、谷の人々は川へ集まります。", ["紙灯籠の夜に、谷の", "人々は川へ集まります。"]),
        ("two\nshort lines", ["two short lines"]),
    ],
)
def test_texts_break_as_an_editor_would(text, expected):
    assert [line.replace(" ?", "\u00a0?") for line in lines(text)] == expected


def test_what_an_editor_breaks_stays_broken_and_what_does_not_fit_is_told():
    broken = laid("one two three four", spans=(Span("one two"), Span("\nthree\nfour", italic=True)))
    assert [line.text for line in broken.lines] == ["one two", "three", "four"]
    assert not broken.fits
    assert laid("one two three four", spans=(Span("one\ntwo\nthree"),), lines=3).fits
    long = laid("word " * 16)
    assert long.needs > long.allowed == 2
    assert not long.fits
    assert laid("word " * 16, size=0.5).needs < long.needs
    torn = laid("unbreakable" * 12)
    assert torn.torn
    assert not torn.fits
    assert laid("filling the frame " * 100).shrunk < 1


styles = st.builds(
    CaptionStyle,
    family=st.sampled_from(SHIPPED),
    size=st.floats(0.03, 0.12),
    bold=st.booleans(),
    outline=st.sampled_from([0.0, 0.1, 0.3]),
    shadow=st.sampled_from([0.0, 1.0]),
    ground=st.sampled_from(["none", "lines", "block"]),
    padding=st.floats(0, 0.5),
    letter_spacing=st.sampled_from([0.0, 0.1]),
    across=st.sampled_from(["left", "centre", "right"]),
    down=st.sampled_from(["top", "middle", "foot"]),
    margin=st.floats(0, 0.6),
    side_margin=st.floats(0.02, 0.3),
)


@given(
    text=st.sampled_from(sorted(SCRIPTS)).flatmap(lambda s: st.text(SCRIPTS[s], min_size=1, max_size=90)),
    style=styles,
    size=st.sampled_from([(270, 480), (320, 320), (480, 270)]),
    spot=st.none() | st.builds(Spot, st.floats(0, 1), st.floats(0, 1)),
)
def test_every_drawn_sample_lies_where_it_may_whatever_the_script_shape_and_style(text, style, size, spot):
    if not text.strip():
        return
    caption = Caption("c", 0, 1000, (Span(text, italic=len(text) % 2 == 0),))
    asked = wanted(caption, style, Differing("c", "m", spot=spot), language_of([text]))
    layout = lay_out(asked, *size)
    cel = draw_laid_out(layout, style, size, asked.language)
    if cel is None:
        return
    width, height = size
    rect = layout.rect
    assert rect.x >= style.side_margin * width - 1e-6
    assert rect.x + rect.width <= width * (1 - style.side_margin) + 1e-6 or not layout.fits
    assert rect.y >= SAFE * height - 1e-6 or not layout.fits
    assert rect.y + rect.height <= height * (1 - SAFE) + 1e-6 or not layout.fits
    # Drawn on a larger ground, nothing is beside the block.
    beside = replace(
        layout, rect=replace(rect, x=rect.x - 60, y=rect.y - 60, width=rect.width + 120, height=rect.height + 120)
    )
    moved = replace(
        beside,
        rect=replace(beside.rect, x=0, y=0),
        lines=tuple(replace(line, x=line.x - rect.x + 60, y=line.y - rect.y + 60) for line in layout.lines),
        rows=tuple((top - rect.y + 60, high) for top, high in layout.rows),
    )
    free = draw_laid_out(moved, style, (int(rect.width + 121), int(rect.height + 121)), asked.language)
    assert free is not None
    rows, columns = np.nonzero(free.opacity > 12)
    assert columns.min() + free.left >= 60 - 1.5
    assert columns.max() + free.left <= 60 + rect.width + 1.5
    assert rows.min() + free.top >= 60 - 1.5
    assert rows.max() + free.top <= 60 + rect.height + 1.5


def test_right_to_left_lines_begin_at_the_right_whatever_they_begin_with():
    """A line's full stop is at its left, also where the text begins with a figure or a bracket."""
    for text in ("(٣) فوانيس في النهر.", "3 פנסים בנהר."):
        style = CaptionStyle(ground="none")
        layout = laid(text, WIDE, style)
        cel = draw_laid_out(layout, style, WIDE)
        columns = np.flatnonzero((cel.opacity > 128).any(axis=0))
        stop = cel.opacity[:, columns[0] : columns[0] + 8]
        rows = np.flatnonzero((stop > 128).any(axis=1))
        assert len(rows) < 14  # a full stop is low, letters are not


def test_a_caption_half_the_size_breaks_the_same_and_italics_differ():
    from ezvar.core.text.showing import scaled

    layout = laid("The lanterns <i>go down</i> the river at nine")
    assert any(span.italic for line in layout.lines for span in line.spans)
    half = draw_laid_out(scaled(layout, 0.5), CaptionStyle(), (540, 960))
    whole = draw_laid_out(layout, CaptionStyle(), TALL)
    assert half.opacity.shape[1] == pytest.approx(whole.opacity.shape[1] / 2, abs=2)
    plain = draw_laid_out(laid("The lanterns go down the river at nine"), CaptionStyle(), TALL)
    assert plain.opacity.shape != whole.opacity.shape or (plain.planes.y != whole.planes.y).any()


def test_type_is_what_is_shipped_or_named_and_what_it_lacks_is_told(tmp_path):
    assert families(Face()).lacks("Ça va — 紙 ق ไ 한 α? \U0001f3ee") == "\U0001f3ee"
    from ezvar.core.text.setting.type import FOLDER

    own = tmp_path / "own.ttf"
    own.write_bytes((FOLDER / "NotoSansHebrew-Bold.ttf").read_bytes())
    font = read_font(own)
    face = Face(font.family, font.path, font.content)
    assert (font.family, font_problem(face)) == ("Noto Sans Hebrew", "")
    assert families(face).width("אבג", Writing()) != families(Face()).width("אבג", Writing())
    own.write_bytes(b"\0\1\0\0" + bytes(400))
    assert "cannot be used" in font_problem(face)
    with pytest.raises(InputError, match="no font"):
        read_font(own)
    own.unlink()
    assert "cannot be used" in font_problem(face)
    assert "not shipped" in font_problem(Face("Some Grotesque"))


def test_any_shipped_family_comes_first_where_it_is_chosen_and_lacks_no_letter():
    text = "Lantern 紙灯 فانوس"
    widths = {family: families(Face(family)).width("Lantern 123", Writing()) for family in SHIPPED}
    assert len({round(w, 3) for w in widths.values()}) >= len(SHIPPED) - 4  # some lack Latin letters
    assert widths["Noto Sans JP"] != widths[SHIPPED[0]]
    assert [families(Face(family)).lacks(text) for family in SHIPPED] == [""] * len(SHIPPED)
    assert [families(Face(family)).names[0] for family in SHIPPED] == list(SHIPPED)
    assert [font_problem(Face(family)) for family in SHIPPED] == [""] * len(SHIPPED)


def test_languages_are_told_by_their_small_words_and_scripts():
    assert language_of(["Der Mann geht in das Haus und die Frau ist auf dem Weg"]) == "de"
    assert language_of(["Les lanternes descendent dans la rivière avec les enfants"]) == "fr"
    assert language_of(["紙灯籠の夜"]) == "ja"
    assert language_of(["الفوانيس تنزل"]) == "ar"
    assert language_of(["xyzzy"]) == "en"


@pytest.mark.parametrize("size", [0.04, 0.05, 0.06])
def test_a_japanese_word_is_not_parted_between_its_sign_and_what_ends_it(size):
    caption = Caption("c", 0, 2000, (Span("今夜はみんなで川まで提灯を運び、雨が降らなければ歌います。"),))
    for shape in ((1080, 1350), (1080, 1920), (1080, 1080)):
        laid = lay_out(wanted(caption, CaptionStyle(size=size), Differing("c", "m"), "ja"), *shape)
        assert len(laid.lines) > 1
        assert not any(line.text.endswith(("運", "降", "歌")) for line in laid.lines)
