"""Layers of a timeline: drawn where and as the edit had them, and laid out for other shapes."""

from dataclasses import replace
from fractions import Fraction

import av
import cv2
import numpy as np
import opentimelineio as otio
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ezvar.core import compose, edits
from ezvar.core.compose import LockPictures
from ezvar.core.lock import LockReader, not_drawn, take_lock
from ezvar.core.media import ColourTags, Planes, laid_over
from ezvar.core.media.cel import Cel
from ezvar.core.model import DESIGNS, Beside, Layer, Master, Placement, Rect, Source, Title, Wipe, layer_key
from ezvar.core.problems import problems
from ezvar.core.review.out.clips import media_reference
from ezvar.core.text import SAFE, fit, title_laid_out
from ezvar.core.timing import Rate
from ezvar.demo import DEMO_PROJECT

from ..media import make_movie, number_in
from ..timelines import Range, Time, clip, gap, track

WIDE, TALL = Master("wide", "16:9", 320, 180), Master("tall", "9:16", 180, 320)
AMBER = (240, 160, 70)


def card(box, size=(320, 180), opacity=200):
    """An RGBA picture, transparent but for a box (left, top, right, foot) in pixels."""
    made = np.zeros((size[1], size[0], 4), np.uint8)
    made[box[1] : box[3], box[0] : box[2]] = (*AMBER, opacity)
    return made


def movie_of_cards(path, codec, form, count=12):
    """A box that goes to the right by ten pixels a frame, from 20 on."""
    with av.open(str(path), "w") as out:
        stream = out.add_stream(codec, rate=25)
        stream.width, stream.height, stream.pix_fmt = 320, 180, form
        if codec == "libvpx-vp9":
            stream.metadata["alpha_mode"] = "1"
        for k in range(count):
            picture = card((20 + 10 * k, 60, 80 + 10 * k, 120))
            out.mux(stream.encode(av.VideoFrame.from_ndarray(picture, "rgba").reformat(format=form)))
        out.mux(stream.encode(None))


@pytest.fixture(scope="module")
def folder(tmp_path_factory):
    folder = tmp_path_factory.mktemp("layers")
    make_movie(folder / "a.mp4", 60, size=(320, 180))
    cv2.imwrite(str(folder / "card.png"), cv2.cvtColor(card((32, 140, 152, 164)), cv2.COLOR_RGBA2BGRA))
    movie_of_cards(folder / "prores.mov", "prores_ks", "yuva444p10le")
    movie_of_cards(folder / "vp9.webm", "libvpx-vp9", "yuva420p")
    return folder


def edit(folder, *upper, name="t.otio"):
    """A lock of 60 frames with an upper track, and both masters."""
    timeline = otio.schema.Timeline("t", global_start_time=Time(0, 25))
    timeline.tracks.extend([track(clip("a", "a.mp4", 0, 60)), track(*upper)])
    otio.adapters.write_to_file(timeline, str(folder / name))
    doc = take_lock(folder / name).doc
    for master in (WIDE, TALL):
        doc = edits.add_master(doc, master)
    return doc


def changed(doc, frame, master=WIDE, scale=1.0):
    """How far each luminance sample of a master's picture is changed by the layers, and what they leave unread."""
    with LockReader(doc) as reader, LockPictures(reader) as pictures:
        over, under = (
            compose.frame(doc, master, frame, pictures, scale, compose.Shown(layers=layers)).y.astype(int)
            for layers in (True, False)
        )
        return np.abs(over - under), pictures.problems


def with_layers(doc, **other):
    return replace(doc, lock=replace(doc.lock, layers=tuple(replace(each, **other) for each in doc.lock.layers)))


def extent(moved):
    rows, columns = (np.flatnonzero(moved.max(axis=axis) > 8) for axis in (1, 0))
    return columns[0], rows[0], columns[-1] + 1, rows[-1] + 1


def test_the_demo_in_the_locks_own_shape_is_the_flat_movie():
    doc = take_lock(DEMO_PROJECT.with_suffix(".otio")).doc
    flat = take_lock(DEMO_PROJECT.with_suffix(".mp4")).doc
    wide = Master("w", "16:9", 1920, 1080)
    doc, flat = edits.add_master(doc, wide), edits.add_master(flat, wide)
    (layer,) = doc.lock.layers
    with LockReader(doc) as a, LockReader(flat) as b, LockPictures(a) as made, LockPictures(b) as reference:
        for frame in (layer.start - 1, layer.start, layer.start + 5, layer.start + 40, layer.end - 3, layer.end):
            one, other = compose.frame(doc, wide, frame, made), compose.frame(flat, wide, frame, reference)
            off = float(((one.y.astype(float) - other.y) ** 2).mean())
            assert 10 * np.log10(255**2 / off) >= 35


@pytest.mark.parametrize(("name", "at"), [("card.png", 0), ("prores.mov", 20), ("vp9.webm", 20)])
def test_stills_and_movies_are_seen_through_where_they_say(folder, name, at):
    doc = edit(folder, gap(10), clip("layer", name, 0, 12))
    for frame in (12, 19, 11):
        moved, unread = changed(doc, frame)
        shift = 10 * (frame - 10) if at else 0
        box = (32, 140, 152, 164) if not at else (20 + shift, 60, 80 + shift, 120)
        assert unread == []
        assert np.abs(np.array(extent(moved)) - box).max() <= 2
    for frame in (9, 22):
        assert changed(doc, frame)[0].max() == 0


def test_layers_come_and_go_as_the_timeline_says(folder):
    mix = otio.schema.Transition("", "SMPTE_Dissolve", Time(0, 25), Time(4, 25))
    goes = otio.schema.Transition("", "SMPTE_Dissolve", Time(3, 25), Time(2, 25))
    doc = edit(folder, gap(10), mix, clip("one", "card.png", 0, 20), goes, gap(10))
    (layer,) = doc.lock.layers
    assert (layer.start, layer.end, layer.comes, layer.goes) == (10, 32, 4, 5)
    whole = with_layers(doc, comes=0, goes=0)
    for frame, seen in ((10, 1 / 5), (12, 3 / 5), (14, 1), (26, 1), (27, 5 / 6), (31, 1 / 6)):
        assert changed(doc, frame)[0].max() == pytest.approx(changed(whole, frame)[0].max() * seen, abs=2)
    assert doc.lock.left_out == ()


def test_a_layer_is_wiped_in_and_away_over_the_masters_own_frame(folder):
    """The card lies from 32 to 152 of 320 samples: a straight edge from left to right comes to it, and goes over it."""
    comes = otio.schema.Transition("wipe", otio.schema.TransitionTypes.Custom, Time(0, 25), Time(9, 25))
    goes = otio.schema.Transition("wipe W999", otio.schema.TransitionTypes.Custom, Time(9, 25), Time(0, 25))
    doc = edit(folder, gap(10), comes, clip("one", "card.png", 0, 30), goes, gap(10))
    (layer,) = doc.lock.layers
    assert (layer.comes, layer.comes_by, layer.goes, layer.goes_by) == (9, Wipe(1), 9, Wipe(999))
    assert doc.lock.left_out == ("The wipe with the pattern 999 is drawn with a straight edge.",)
    assert [layer.seen(n) for n in (9, 10, 39)] == [0, 1, 1]
    for frame, left, right in ((12, 32, 96), (13, 32, 128), (20, 32, 152), (32, 64, 152), (33, 96, 152)):
        box = extent(changed(doc, frame)[0])
        assert (box[0], box[2]) == pytest.approx((left, right), abs=2)
    assert changed(doc, 38)[0].max() == 0  # the edge has gone over all of the card, but not over the frame
    half, middle = changed(doc, 14, TALL)[0], TALL.width // 2
    assert half[:, middle + 4 :].max() == 0
    assert half[:, : middle - 4].max() > 40


def test_over_a_gap_of_the_edit_an_upper_track_is_the_edit_mixes_and_all(folder):
    timeline = otio.schema.Timeline("t", global_start_time=Time(0, 25))
    mixes = [
        otio.schema.Transition("", "SMPTE_Dissolve", Time(a, 25), Time(b, 25)) for a, b in ((0, 4), (3, 3), (2, 0))
    ]
    upper = (gap(10), mixes[0], clip("b", "a.mp4", 10, 15), mixes[1], clip("c", "a.mp4", 30, 15), mixes[2], gap(5))
    timeline.tracks.extend([track(clip("a", "a.mp4", 0, 10), gap(35), clip("d", "a.mp4", 0, 10)), track(*upper)])
    otio.adapters.write_to_file(timeline, str(folder / "gap.otio"))
    doc = take_lock(folder / "gap.otio").doc
    assert doc.lock.layers == ()
    assert [(s.start, s.end, s.source.start) for s in doc.shots] == [
        (0, 12, 0), (12, 25, 12), (25, 39, 30), (39, 45, 0), (45, 55, 0),
    ]  # fmt: skip
    assert [(s.cut.kind, s.cut.start, s.cut.end) for s in doc.shots[1:]] == [
        ("dissolve", 10, 14), ("dissolve", 22, 28), ("fade", 38, 40), ("cut", 45, 45),
    ]  # fmt: skip


def test_placement_opacity_and_nested_titles_are_carried(folder):
    placed = clip("placed", "card.png", 0, 20)
    placed.metadata["ezvar"] = {"placement": {"x": 0.25, "y": -0.25, "scale": 0.5}, "opacity": 0.5}
    nest = otio.schema.Stack("nest")
    nest.extend([track(gap(20)), track(clip("inner", "card.png", 0, 20))])
    doc = edit(folder, placed, nest)
    assert [(each.name, each.start, each.opacity) for each in doc.lock.layers] == [("placed", 0, 0.5), ("inner", 20, 1)]
    moved, _ = changed(doc, 5)
    left, top = 320 * 0.75 - 80 + 16, 180 * 0.25 - 45 + 70
    assert np.abs(np.array(extent(moved)) - (left, top, left + 60, top + 12)).max() <= 2
    assert changed(with_layers(doc, opacity=1.0), 5)[0].max() == pytest.approx(2 * moved.max(), abs=2)
    assert changed(doc, 25)[0].max() > 50


def test_a_master_of_another_shape_has_it_at_the_same_side_and_small_ones_look_the_same(folder):
    doc = edit(folder, clip("layer", "card.png", 0, 60))
    moved, _ = changed(doc, 30, TALL)
    left, top, right, foot = extent(moved)
    assert left >= 180 * SAFE - 1
    assert right - left == pytest.approx(120, abs=2)
    assert 320 - foot == pytest.approx(320 * 16 / 180, abs=3)  # the lock's margin, of the height
    assert foot - top == pytest.approx(24, abs=2)
    small = np.array(extent(changed(doc, 30, TALL, 0.5)[0]))
    assert np.abs(2 * small - (left, top, right, foot)).max() <= 4


def test_layers_that_lie_against_each_other_stay_together_and_are_placed_by_hand_together(folder):
    """A bar, a text on it, and something else on the other side."""
    for name, box in (("bar", (20, 140, 150, 164)), ("text", (40, 146, 120, 158)), ("else", (220, 20, 300, 60))):
        cv2.imwrite(str(folder / f"{name}.png"), cv2.cvtColor(card(box), cv2.COLOR_RGBA2BGRA))
    doc = edit(folder, clip("bar", "bar.png", 0, 60))
    bar = doc.lock.layers[0]
    media = doc.lock.media[-1]
    known = tuple(replace(media, id=name, path=str(folder / f"{name}.png"), name=name) for name in ("text", "else"))
    more = tuple(
        replace(bar, name=m.name, track=k, source=replace(bar.source, media=m.id)) for k, m in enumerate(known, 3)
    )
    lock = replace(doc.lock, layers=(bar, *more), media=(*doc.lock.media, *known))
    doc = replace(doc, lock=lock)

    def places(doc):
        return [compose.layers_taken(doc).rects[layer_key(each), TALL.id] for each in doc.lock.layers]

    before = places(doc)
    scale = before[0].width / (130 / 320)
    assert before[1].width == pytest.approx(80 / 320 * scale)
    assert before[1].x - before[0].x == pytest.approx(20 / 320 * scale)
    moved = edits.place_items(doc, [layer_key(bar)], [TALL.id], lambda p: replace(p, y=-0.2, scale=0.5))
    after = places(moved)
    assert after[0].y < before[0].y - 0.1
    assert after[1].x - after[0].x == pytest.approx((before[1].x - before[0].x) / 2)
    assert after[2] == before[2]
    hidden = edits.place_items(doc, [layer_key(bar)], [TALL.id], lambda p: replace(p, hidden=True))
    assert set(compose.layers_taken(hidden).rects) & {(layer_key(n), TALL.id) for n in doc.lock.layers[:2]} == set()
    assert changed(hidden, 30, TALL)[0][160:].max() == 0


def test_a_layer_stands_where_it_is_anchored_and_as_in_the_edit_in_its_own_shape(folder):
    """At a side, beside a title, in the free band, with a title beside it; never in a circle."""
    doc = edit(folder, clip("layer", "card.png", 0, 60))
    item = layer_key(doc.lock.layers[0])

    def place(doc, master=TALL):
        return compose.layers_taken(doc).rects[item, master.id]

    def anchored(doc, **values):
        return edits.anchor_layer(doc, item, lambda a: replace(a, **values))

    first = place(doc)
    high = anchored(doc, across="right", down="top", margin=0.1)
    assert place(high).y == pytest.approx(0.1)
    assert place(high).x + place(high).width == pytest.approx(0.9)
    assert place(high).width == pytest.approx(first.width)
    assert place(high, WIDE) == place(doc, WIDE)
    assert extent(changed(high, 30, TALL)[0])[1] == pytest.approx(32, abs=2)
    assert anchored(high, across=None, down=None, margin=None) == doc
    title = Title("t", "title", 0, 60, ("Here",), DESIGNS["title"])
    doc = replace(doc, titles=(title,))
    beside = anchored(doc, beside=Beside("t", "below"), margin=0.02)
    block = title_laid_out(beside, title, TALL).rect
    assert place(beside).y * 320 == pytest.approx(block.y + block.height + 0.02 * 180)
    with pytest.raises(ValueError, match="stands beside"):
        edits.stand_beside(beside, "t", Beside(item))
    turned = replace(beside, titles=(replace(title, beside=Beside(item)),))  # from a file: it ends
    assert place(turned).height == pytest.approx(first.height)
    assert edits.remove_title(beside, "t").anchorings[0].beside is None
    gone = edits.place_items(beside, ["t"], ["tall"], lambda p: replace(p, hidden=True))
    assert place(gone) == place(anchored(doc, margin=0.02))
    whole = replace(TALL, start="whole")
    banded = anchored(replace(doc, masters=(WIDE, whole)), down="foot", band=True)
    below = place(banded, whole)
    assert below.y + below.height / 2 == pytest.approx((1 + (1 + 180 * 180 / 320 / 320) / 2) / 2, abs=0.01)


def test_what_cannot_be_drawn_is_said_with_its_shots(folder):
    bars = otio.schema.GeneratorReference(generator_kind="bars")
    made = otio.schema.Clip("made here", bars, Range(Time(0, 25), Time(5, 25)))
    doc = edit(folder, clip("gone", "missing.png", 0, 20), made, clip("there", "card.png", 0, 20))
    (gone,) = not_drawn(doc)
    assert (gone.layer.name, gone.shots) == ("gone", (1,))
    assert any("“gone” over shot 1 is not drawn" in text for text in problems(doc))
    assert any("“made here” is generated (bars) and is not drawn" in text for text in doc.lock.left_out)
    (folder / "torn.png").write_bytes(b"no picture")
    media = tuple(replace(m, path=str(folder / "torn.png")) if m.name == "card.png" else m for m in doc.lock.media)
    moved, unread = changed(replace(doc, lock=replace(doc.lock, media=media)), 30)
    assert moved.max() == 0
    assert len(unread) == 1
    faint, timeline = clip("faint", "a.mp4", 0, 60), otio.schema.Timeline("t")
    faint.metadata["ezvar"] = {"opacity": 0.5}
    timeline.tracks.append(track(faint))
    otio.adapters.write_to_file(timeline, str(folder / "faint.otio"))
    (said,) = take_lock(folder / "faint.otio").doc.lock.left_out
    assert said.startswith("“faint” is seen whole")


def sequence(folder, name, count, box, start=96):
    """Numbered images, a box that goes ten pixels to the right each, and the clip of them."""
    for k in range(count):
        left, top, right, foot = box
        picture = card((left + 10 * k, top, right + 10 * k, foot))
        cv2.imwrite(str(folder / f"{name}.{start + k:04d}.png"), cv2.cvtColor(picture, cv2.COLOR_RGBA2BGRA))
    return sequence_clip(folder, name, start, count)


def test_a_sequence_of_images_is_a_layer_or_a_shot_and_goes_out_again(folder):
    """Numbers that gain a digit, images that end before the clip does, and one that is the edit itself."""
    doc = edit(folder, sequence(folder, "walk", 6, (20, 60, 80, 120), 97), name="sequence.otio")
    assert doc.lock.left_out == ()
    media = doc.media_of(replace(doc.shots[0], source=doc.lock.layers[0].source))
    assert (media.kind, media.frames, media.missing) == ("sequence", 6, False)
    places = [extent(changed(doc, n)[0])[0] for n in (0, 3, 5)]
    assert np.abs(np.array(places) - (20, 50, 70)).max() <= 2
    assert changed(doc, 6)[0].max() == 0
    assert not_drawn(doc) == []
    reference = media_reference(media)
    assert (reference.start_frame, reference.frame_zero_padding) == (97, 4)
    assert reference.target_url_for_image_number(3).endswith("walk.0100.png")
    timeline = otio.schema.Timeline("t", global_start_time=Time(0, 25))
    timeline.tracks.append(track(sequence(folder, "edit", 5, (0, 0, 100, 100))))
    otio.adapters.write_to_file(timeline, str(folder / "edit-of-images.otio"))
    own = take_lock(folder / "edit-of-images.otio").doc
    with LockReader(own) as reader:
        wide = [int(np.flatnonzero(reader.frame(n).planes().y[50] > 30)[-1]) for n in (0, 4)]
    assert wide[1] - wide[0] == pytest.approx(40, abs=3)
    (folder / "walk.0099.png").unlink()
    again = edit(folder, sequence_clip(folder, "walk", 97, 6), name="gap.otio")
    assert again.lock.media[-1].frames == 2  # up to where an image is missing; the last one stays


def sequence_clip(folder, name, start, count):
    reference = otio.schema.ImageSequenceReference(
        target_url_base=folder.as_uri(), name_prefix=f"{name}.", name_suffix=".png", start_frame=start, rate=25,
        frame_zero_padding=4, available_range=Range(Time(0, 25), Time(count, 25)),
    )  # fmt: skip
    return otio.schema.Clip(name, reference, Range(Time(0, 25), Time(count, 25)))


def test_a_clip_that_hides_the_edit_is_a_shot_of_it(folder):
    make_movie(folder / "b.mp4", 30, size=(320, 180))
    timeline = otio.schema.Timeline("t", global_start_time=Time(0, 25))
    mix = otio.schema.Transition("", "SMPTE_Dissolve", Time(4, 25), Time(4, 25))
    first, second = clip("one", "a.mp4", 0, 20), clip("two", "a.mp4", 30, 30)
    small = clip("in a corner", "b.mp4", 0, 6)
    small.metadata["ezvar"] = {"placement": {"x": 0.25, "y": -0.25, "scale": 0.5}}
    upper = track(gap(5), clip("away", "b.mp4", 2, 6), gap(7), clip("over the mix", "b.mp4", 0, 10), gap(8), small)
    timeline.tracks.extend([track(first, mix, second), upper, track(gap(4), clip("card", "card.png", 0, 4))])
    otio.adapters.write_to_file(timeline, str(folder / "raised.otio"))
    doc = take_lock(folder / "raised.otio").doc
    media = {m.id: m.name for m in doc.lock.media}
    assert [(s.start, s.end, media[s.source.media], s.source.start) for s in doc.shots] == [
        (0, 5, "a.mp4", 0), (5, 11, "b.mp4", 2), (11, 18, "a.mp4", 11), (18, 28, "b.mp4", 0), (28, 50, "a.mp4", 38),
    ]  # fmt: skip
    assert all(s.cut is None or s.cut.start == s.cut.end == s.start for s in doc.shots)
    assert [each.name for each in doc.lock.layers] == ["in a corner", "card"]
    with LockReader(doc) as reader:
        assert [number_in(reader.frame(n).planes().y) for n in (4, 5, 10, 11, 17, 18, 27, 28)] == [
            4, 2, 7, 11, 17, 0, 9, 38,
        ]  # fmt: skip


sides = st.integers(64, 2000).map(lambda n: 2 * n)
part = st.tuples(st.floats(0, 1), st.floats(0.01, 1)).map(lambda v: (v[0] * (1 - v[1]), v[1]))


@given(part, part, st.tuples(sides, sides), st.tuples(sides, sides))
def test_whatever_is_laid_out_again_lies_in_the_safe_area_unless_it_fills_the_frame(across, down, lock, master):
    content = Rect(across[0], down[0], across[1], down[1])
    made = fit(content, lock, master)
    left, top = content.x * lock[0] * made.scale + made.x, content.y * lock[1] * made.scale + made.y
    right, foot = left + content.width * lock[0] * made.scale, top + content.height * lock[1] * made.scale
    if abs(master[0] / lock[0] * lock[1] / master[1] - 1) < 0.005:
        assert (left, right) == pytest.approx((content.x * master[0], (content.x + content.width) * master[0]))
    elif min(content.width, content.height) >= 0.95:
        assert made.scale == pytest.approx(max(master[0] / lock[0], master[1] / lock[1]))
    else:
        assert left >= SAFE * master[0] - 1e-6
        assert right <= (1 - SAFE) * master[0] + 1e-6
        assert top >= SAFE * master[1] - 1e-6
        assert foot <= (1 - SAFE) * master[1] + 1e-6


@given(st.integers(0, 255), st.integers(16, 235), st.integers(16, 240), st.floats(0, 1), st.booleans())
def test_a_cel_mixes_what_it_shows_with_what_it_lies_over_and_leaves_the_rest(opacity, level, under, seen, full):
    tags = ColourTags(1, 1, 1, 2 if full else 1)
    black, share = 0 if full else 16, opacity / 255
    over = np.full((8, 8), round(black + (level - black) * share), np.uint8)
    grey = np.full((4, 4), 128, np.uint8)
    cel = Cel(Planes(over, grey, grey, tags), np.full((8, 8), opacity, np.uint8), 4, 2)
    ground = Planes(
        np.full((16, 16), under, np.uint8), np.full((8, 8), 90, np.uint8), np.full((8, 8), 140, np.uint8), tags
    )
    made = laid_over([(cel, seen)], ground)
    assert int(made.y[5, 6]) == pytest.approx(under + (level - under) * share * seen, abs=1.5)
    assert int(made.u[2, 3]) == pytest.approx(90 + (128 - 90) * share * seen, abs=1.5)
    made.y[2:10, 4:12] = ground.y[2:10, 4:12]
    assert np.array_equal(made.y, ground.y)


def test_a_layer_says_what_it_is():
    source = Source("m", Fraction(0))
    for wrong in ({"start": 5, "end": 5}, {"opacity": 1.2}, {"comes": -1}):
        with pytest.raises(ValueError, match="a layer lasts"):
            Layer(**{"name": "x", "start": 0, "end": 9, "source": source, **wrong})
    assert Layer("x", 0, 9, source, placement=Placement(scale=2.0)).seen(9) == 0


def test_a_coloured_layer_keeps_its_colour_in_a_master(tmp_path):
    """Where the master's frame is wider than what the layer shows, each plane is drawn on a ground of its own."""
    folder = tmp_path / "media"
    folder.mkdir()
    make_movie(folder / "a.mp4", 20, size=(320, 180))
    mark = np.zeros((180, 320, 4), np.uint8)
    mark[120:160, 40:200] = (40, 90, 220, 255)  # blue, green, red, opacity
    cv2.imwrite(str(folder / "mark.png"), mark)
    timeline = otio.schema.Timeline("t", global_start_time=otio.opentime.RationalTime(0, 25))
    over = clip("m", str(folder / "mark.png"), 0, 20)
    timeline.tracks[:] = [track(clip("a", str(folder / "a.mp4"), 0, 20)), track(over)]
    otio.adapters.write_to_file(timeline, str(tmp_path / "t.otio"))
    doc = take_lock(tmp_path / "t.otio", Rate(25), [folder]).doc
    for size in ((180, 320), (320, 180), (240, 240)):
        master = Master("m", "m", *size)
        with LockReader(doc) as reader, LockPictures(reader) as pictures:
            cel = pictures.of_layer(doc.lock.layers[0], 5, master, size)
        inside = cel.planes.rgb()[cel.opacity.shape[0] // 2, cel.opacity.shape[1] // 2]
        assert np.abs(inside.astype(int) - (220, 90, 40)).max() < 6
