"""Titles made here: laid out for any shape, drawn, placed by hand, and layers of the lock that stay together."""

from __future__ import annotations

import struct
import zlib
from dataclasses import replace

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ezvar.core import compose, edits
from ezvar.core.errors import MediaError
from ezvar.core.lock import LockReader
from ezvar.core.media import black, laid_over, read_still
from ezvar.core.model import (
    DESIGNS,
    Beside,
    Caption,
    CaptionStyle,
    CaptionTrack,
    Differing,
    Keyframe,
    Master,
    Placed,
    Rect,
    Span,
    Title,
    make_master,
    title_rows,
)
from ezvar.core.store import load_project
from ezvar.core.text import DESIGNS_KEPT, SAFE, CaptionChecks, NamedDesign, laid_out, shipped_zones, title_laid_out
from ezvar.core.text.setting.titles import draw_title, lay_out_title
from ezvar.demo import DEMO_PROJECT

from ..sights import one_shot

SHAPES = [(1080, 1920), (1080, 1350), (1080, 1080), (1920, 1080), (2000, 1000)]


@pytest.fixture(scope="module")
def doc():
    return replace(load_project(DEMO_PROJECT), tracks=(), styles=(), differing=())


def lower_third(start=820, end=880, **design):
    lines = ("Ilma Varrel", "lantern maker, Orrenvale")
    return Title("t", "lower third", start, end, lines, replace(DESIGNS["lower third"], **design))


@given(
    kind=st.sampled_from(sorted(DESIGNS)),
    lines=st.lists(st.text("abc defg ÄÖ 紙灯 نور", min_size=1, max_size=60).filter(str.strip), min_size=1, max_size=4),
    shape=st.sampled_from(SHAPES),
    size=st.floats(0.03, 0.2),
    across=st.sampled_from(["left", "centre", "right"]),
    down=st.sampled_from(["top", "middle", "foot"]),
    angle=st.sampled_from([0.0, 0.0, 5.0]),
)
def test_whatever_a_title_says_it_is_whole_in_the_safe_area_or_made_smaller(
    kind, lines, shape, size, across, down, angle
):
    design = replace(DESIGNS[kind], size=size, across=across, down=down, angle=angle)
    title = Title("t", kind, 0, 10, tuple(lines), design)
    laid = lay_out_title(title, Placed("t", "m"), *shape)
    block, (width, height) = laid.block, shape
    if laid.shrunk > 0.5:
        assert SAFE * width - 1 <= block.x <= block.x + block.width <= (1 - SAFE) * width + 1
        assert SAFE * height - 1 <= block.y <= block.y + block.height <= (1 - SAFE) * height + 1
    for line, own in laid.lines:  # text and its bar stay together
        assert block.x - 1 <= line.x <= line.x + line.width <= block.x + block.width + 1
        assert block.y <= line.y - 0.6 * own <= line.y <= block.y + block.height


def test_it_keeps_its_side_and_its_relative_margin_in_every_shape_and_wraps_where_it_must():
    places = [lay_out_title(lower_third(), Placed("t", "m"), *shape) for shape in SHAPES]
    for laid, (width, height) in zip(places, SHAPES, strict=True):
        assert laid.block.x / width == pytest.approx(0.08)
        assert 1 - (laid.block.y + laid.block.height) / height == pytest.approx(0.08)
    long = replace(lower_third(), lines=("A name that goes on and on, and does not end",))
    assert [len(lay_out_title(long, Placed("t", "m"), *s).lines) for s in (SHAPES[0], SHAPES[3])] == [2, 1]


def test_it_is_drawn_comes_and_goes_and_is_hidden_or_moved_in_one_master_alone(doc):
    doc = edits.put_title(doc, lower_third(goes="none"))
    first, second = doc.masters[:2]
    with LockReader(doc) as reader, compose.LockPictures(reader) as pictures:

        def changed(doc, master, frame):
            drawn = [
                compose.frame(doc, master, frame, pictures, 0.25, compose.Shown(layers=on)).y.astype(int)
                for on in (True, False)
            ]
            return abs(drawn[0] - drawn[1])

        rest = changed(doc, first, 850)
        rows, columns = np.nonzero(rest > 8)
        block = title_laid_out(doc, doc.titles[0], first).block
        assert columns.min() == pytest.approx(block.x / 4, abs=2)
        assert rows.max() == pytest.approx((block.y + block.height) / 4, abs=2)
        assert 0 < changed(doc, first, 821).sum() < rest.sum()
        assert changed(doc, first, 819).sum() == changed(doc, first, 880).sum() == 0
        assert changed(edits.set_title_lane(doc, shown=False), first, 850).sum() == 0
        hidden = edits.place_items(doc, ["t"], [first.id], lambda p: replace(p, hidden=True))
        assert changed(hidden, first, 850).sum() == 0
        assert changed(hidden, second, 850).sum() > 0
        moved = edits.place_items(doc, ["t"], [first.id], lambda p: replace(p, y=-0.25, scale=1.5))
        raised = np.nonzero(changed(moved, first, 850) > 8)
        assert raised[0].max() < rows.min()
        assert np.ptp(raised[1]) == pytest.approx(1.5 * np.ptp(columns), abs=4)
    gone = edits.remove_title(edits.differ(moved, [Differing("t", first.id, right=("over a face",))]), "t")
    assert (gone.placed, gone.differing) == ((), ())


@given(
    shape=st.sampled_from(SHAPES),
    side=st.sampled_from(["above", "below", "left", "right"]),
    across=st.sampled_from(["left", "centre", "right"]),
    down=st.sampled_from(["top", "middle", "foot"]),
    moved=st.tuples(st.floats(-0.2, 0.2), st.floats(-0.4, 0.1)),
    of_layer=st.booleans(),
)
def test_a_title_stands_beside_another_item_wherever_that_stands(shape, side, across, down, moved, of_layer):
    master = Master("m", "m", *shape)
    small = replace(DESIGNS["label"], size=0.03, across=across, down=down, margin=0.02)
    other, layer = replace(lower_third(), id="other"), "layer 2 820 bar"
    label = Title("t", "label", 820, 880, ("Here",), small, beside=Beside(layer if of_layer else "other", side))
    doc = replace(one_shot(1000)[0], masters=(master,), titles=(label, other))
    doc = edits.place_items(doc, ["other"], ["m"], lambda p: replace(p, x=moved[0], y=moved[1]))
    place = Rect(0.3 + moved[0], 0.5 + moved[1], 0.4, 0.1)
    own = title_laid_out(doc, label, master, lambda item, m: place if item == layer else None).block
    if of_layer:
        beside = Rect(place.x * shape[0], place.y * shape[1], place.width * shape[0], place.height * shape[1])
    else:
        beside = title_laid_out(doc, other, master).rect
    assert own.x >= SAFE * shape[0] - 1
    assert own.x + own.width <= (1 - SAFE) * shape[0] + 1
    assert own.y >= SAFE * shape[1] - 1
    assert own.y + own.height <= (1 - SAFE) * shape[1] + 1
    gap, axis = 0.02 * min(shape), 1 if side in ("above", "below") else 0
    low, size = ((own.x, own.width), (own.y, own.height))[axis]
    whose, part = ((beside.x, beside.width), (beside.y, beside.height))[axis]
    room = [whose - gap - size >= SAFE * shape[axis], whose + part + gap + size <= (1 - SAFE) * shape[axis]]
    first = side in ("above", "left")
    if any(room):
        before = first if room[not first] else not first
        assert low == pytest.approx(whose - gap - size if before else whose + part + gap)


def test_what_stands_beside_what_is_hidden_or_gone_stands_by_itself_and_never_beside_itself(doc):
    master = doc.masters[0]
    other, label = replace(lower_third(), id="other"), Title("t", "label", 820, 880, ("Here",), DESIGNS["label"])
    doc = replace(doc, titles=(label, other))
    alone = title_laid_out(doc, label, master)
    beside = edits.stand_beside(doc, "t", Beside("other", "above"))
    assert title_laid_out(beside, beside.title("t"), master) != alone
    with pytest.raises(ValueError, match="stands beside"):
        edits.stand_beside(beside, "other", Beside("t"))
    turned = replace(beside, titles=(beside.title("t"), replace(other, beside=Beside("t"))))
    assert title_laid_out(turned, turned.title("t"), master).block.width == alone.block.width  # from a file: it ends
    hidden = edits.place_items(beside, ["other"], [master.id], lambda p: replace(p, hidden=True))
    assert title_laid_out(hidden, beside.title("t"), master) == alone
    assert edits.remove_title(beside, "other").titles == (label,)


@given(st.lists(st.tuples(st.integers(0, 40), st.integers(1, 20)), max_size=12))
def test_titles_that_are_on_at_once_have_rows_of_their_own_and_no_more(spans):
    titles = [replace(lower_third(a, a + long), id=str(k)) for k, (a, long) in enumerate(spans)]
    rows = title_rows(titles)
    at_once = [[rows[t.id] for t in titles if t.start <= n < t.end] for n in range(60)]
    assert all(len(set(there)) == len(there) for there in at_once)
    assert max(rows.values(), default=-1) + 1 == max(map(len, at_once))


def test_shadow_angle_icon_opening_and_end_cards_are_drawn(tmp_path):
    icon = np.zeros((40, 80, 4), np.uint8)
    icon[5:35, 5:75] = (30, 200, 255, 255)
    cv2.imwrite(str(tmp_path / "icon.png"), icon)
    plain = lower_third()
    placed, size = Placed("t", "m"), (640, 360)

    def drawn(title, **way):
        return draw_title(title, lay_out_title(title, placed, *size), size, **way)

    with_icon = replace(plain, design=replace(plain.design, icon=str(tmp_path / "icon.png")))
    assert drawn(with_icon).opacity.shape[1] > drawn(plain).opacity.shape[1] + 30
    turned = replace(plain, design=replace(plain.design, angle=20.0))
    assert drawn(turned).opacity.shape[0] > 1.5 * drawn(plain).opacity.shape[0]
    half = drawn(plain, part=0.5)
    assert half.opacity.shape[1] == pytest.approx(drawn(plain).opacity.shape[1] / 2, abs=4)
    card = drawn(Title("t", "end card", 0, 10, ("The end",), DESIGNS["end card"]))
    assert card.opacity.shape == (360, 640)
    assert laid_over([(card, 1.0)], black(640, 360).planes()).y.min() > 16
    missing = replace(plain, design=replace(plain.design, icon=str(tmp_path / "none.png")))
    assert drawn(missing).opacity.shape == drawn(plain).opacity.shape


def test_what_is_wrong_with_titles_and_captions_over_them_is_told(doc):
    tall = replace(doc.masters[0], zones=shipped_zones()[0])
    doc = replace(doc, masters=(tall,), framings=tuple(f for f in doc.framings if f.master == tall.id))
    doc = edits.put_title(doc, replace(lower_third(), lines=("Ilma \U0001f3ee",)))
    found = {p.name for p in CaptionChecks().all(doc)}
    assert found == {"letters missing", "behind controls"}
    caption = Caption("c", 33_000, 34_000, (Span("under the lower third"),))
    doc = edits.put_title(edits.add_track(doc, CaptionTrack("k", "k", (caption,))), lower_third())
    moved = edits.place_items(doc, ["t"], [tall.id], lambda p: replace(p, y=-0.08))
    assert ("c", "over a title") in {(p.caption, p.name) for p in CaptionChecks().all(moved)}
    out = edits.place_items(doc, ["t"], [tall.id], lambda p: replace(p, x=-0.3))
    assert "outside the safe area" in {p.name for p in CaptionChecks().all(out)}


def test_titles_and_designs_are_kept_and_go_with_their_shots(doc, tmp_path):
    doc = edits.put_title(doc, lower_third())
    shot = doc.shot_at(820)
    alone = replace(shot, id="new", start=0, end=shot.frames, cut=None)
    new = replace(
        doc, lock=replace(doc.lock, frames=shot.frames), shots=(alone,), framings=(), passed=(), exchanged=(), titles=()
    )
    carried, _ = edits.carry(doc, new, {"new": edits.Match(shot.id, 0)})
    assert carried.titles[0].start == 820 - shot.start
    DESIGNS_KEPT.save([NamedDesign("evening", DESIGNS["label"])], tmp_path / "d.json")
    assert DESIGNS_KEPT.load(tmp_path / "d.json")[0].design == DESIGNS["label"]
    with pytest.raises(ValueError, match="inside the lock"):
        edits.put_title(doc, lower_third(end=99_999))
    with pytest.raises(ValueError, match="letters"):
        Title("x", "label", 0, 1, (" ",))
    assert edits.retime_title(doc, "t", 1800, 1700).titles[0].end <= doc.lock.frames
    assert make_master("16:9", 1920, 1080).zones is None
    assert Master("w", "w", 1920, 1080).zones is None


def test_images_that_claim_more_than_can_be_are_refused(tmp_path):
    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    size = struct.pack(">IIBBBBB", 60_000, 60_000, 8, 6, 0, 0, 0)
    parts = chunk(b"IHDR", size) + chunk(b"IDAT", zlib.compress(bytes(999))) + chunk(b"IEND", b"")
    (tmp_path / "huge.png").write_bytes(b"\x89PNG\r\n\x1a\n" + parts)
    with pytest.raises(MediaError, match=r"can(not)? be"):
        read_still(tmp_path / "huge.png")


def test_text_stands_in_the_free_band_where_the_picture_is_shown_whole(doc):
    tall = doc.masters[0]
    shot = doc.shot_at(830)
    whole = replace(doc.framing(shot.id, tall.id).panes[0], keys=(Keyframe(0, 0.5, 0.5, 0.3164),), by_hand=())
    framing = replace(doc.framing(shot.id, tall.id), panes=(whole,), decided="by hand")
    shown = edits.set_framings(doc, [framing])
    title = lower_third(820, 870, band=True)
    caption = Caption("c", 33_000, 34_000, (Span("under the picture"),))
    for base in (doc, shown):
        base = edits.put_title(edits.add_track(base, CaptionTrack("k", "k", (caption,))), title)
        base = edits.set_style(base, "k", [tall.id], CaptionStyle(band=True, down="top", margin=0.1))
        laid, words = title_laid_out(base, title, tall).block, laid_out(base, base.tracks[0], caption, tall).rect
        if base.framing(shot.id, tall.id) == framing:
            picture = 1080 * 9 / 16
            below, above = (1920 + picture) / 2, (1920 - picture) / 2
            assert laid.y + laid.height / 2 == pytest.approx((below + 1920) / 2, abs=8)
            assert words.y + words.height / 2 == pytest.approx(above / 2, abs=8)
        else:
            assert laid == title_laid_out(base, lower_third(820, 870), tall).block
            assert words.y == pytest.approx(0.1 * 1920, abs=2)
