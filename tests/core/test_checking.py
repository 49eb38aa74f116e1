"""The check of finished movies finds what is wrong with them, and nothing where all is as decided."""

from dataclasses import replace

import cv2
import numpy as np
import opentimelineio as otio
import pytest

from ezvar.core import edits
from ezvar.core.encoding import DELIVERY, MovieWriter, preset_named
from ezvar.core.errors import OutputError
from ezvar.core.lock import take_lock
from ezvar.core.media import MovieReader, loudness_of, probe, read_still, sound_blocks
from ezvar.core.model import (
    Arrangement,
    Backdrop,
    Caption,
    CaptionTrack,
    Framing,
    Keyframe,
    Master,
    Pane,
    Placed,
    Rect,
    SoundCoding,
    Span,
    Title,
    layer_key,
)
from ezvar.core.output import Order, check_row, row_of, side_by_side, write_contact_sheets, write_still
from ezvar.core.planning import plan
from ezvar.core.timing import FrameRange, Rate

from ..making import make_one
from ..media import make_movie, scenes
from ..timelines import clip, track


@pytest.fixture(scope="module")
def doc(tmp_path_factory, cache, movement_alone):
    """Three scenes of a second, in each of which something moves, for a master that shows half of the width."""
    movie = make_movie(
        tmp_path_factory.mktemp("checked") / "walk.mp4", 75, size=(640, 360),
        picture=lambda n, w, h: scenes(n, w, h, 25), sound="beeps",
    )  # fmt: skip
    doc = plan(movie, [Master("m", "m", 360, 360)], cache).doc
    caption = Caption("c", 1200, 1800, (Span("Good evening."),))
    return replace(doc, tracks=(CaptionTrack("t", "captions", (caption,)),))


def framed_as(doc, pane, shot=1, **more):
    """The document with other panes in the middle shot."""
    framing = doc.framing(doc.shots[shot].id, "m")
    panes = pane if isinstance(pane, tuple) else (pane,)
    return edits.set_framings(doc, [replace(framing, panes=panes, **more)])


def order_of(doc, path, preset=DELIVERY):
    return Order(doc, row_of(doc, doc.masters[0], preset), path)


def flaws(doc, path, preset=DELIVERY):
    return check_row(order_of(doc, path, preset)).problems


KEYS = {
    "still": (Keyframe(0, 0.4),),
    "moving": (Keyframe(0, 0.35), Keyframe(24, 0.6)),
    "turned": (Keyframe(0, 0.5, zoom=1.3, angle=20),),
    "whole": (Keyframe(0, zoom=0.5),),
    "enlarged": (Keyframe(0, 0.6, zoom=3.0),),
}


@pytest.mark.parametrize("kind", KEYS)
def test_what_is_made_as_decided_passes_and_windows_elsewhere_fail(doc, tmp_path, kind):
    made_of = framed_as(doc, Pane(KEYS[kind]))
    made = make_one(made_of, doc.masters[0], tmp_path)
    assert made.problems == ()
    assert {c.what for c in made.report.checks} >= {"size, rate, 75 frames", "sound as long", "all media there"}
    by = 0.02 * {"turned": 0.4, "enlarged": 0.2}.get(kind, 0.5)  # a fiftieth of the window's width
    moved = tuple(replace(key, cx=key.cx + by, zoom=key.zoom * (0.97 if kind == "whole" else 1)) for key in KEYS[kind])
    said = flaws(framed_as(doc, Pane(moved)), made.path)
    assert said
    assert all("in shot 2" in each for each in said)


def test_panes_backdrops_titles_and_mixes_are_drawn_alike_a_second_time(doc, tmp_path):
    halves = tuple(
        Pane((Keyframe(0, cx, zoom=zoom),), Rect(x, 0, 0.5, 1), Backdrop("colour", colour="#a02030"))
        for cx, zoom, x in ((0.3, 1.5, 0.0), (0.7, 0.6, 0.5))
    )
    doc = framed_as(doc, halves, arrangement=Arrangement("halves", tuple(h.rect for h in halves), 0, 0.02, "#103050"))
    grounds = Backdrop(blur=0.05, darken=0.2, tint=0.3, colour="#2050a0", strength=0.9, shadow=0.5, zoom=1.2)
    doc = framed_as(doc, Pane((Keyframe(0, zoom=0.6),), backdrop=grounds), shot=2)
    title = Title("title", "heading", 5, 20, ("Lantern night",), cover=Rect(0.4, 0.7, 0.2, 0.2))
    first, second, third = doc.shots
    mixed = replace(second, cut=replace(second.cut, kind="dissolve", start=second.start - 5, end=second.start + 5))
    doc = replace(doc, titles=(title,), shots=(first, mixed, third))
    made = make_one(doc, doc.masters[0], tmp_path)
    assert made.problems == ()
    swapped = tuple(replace(a, rect=b.rect) for a, b in zip(halves, halves[::-1], strict=True))
    for other in (replace(doc, titles=()), framed_as(doc, swapped), framed_as(doc, halves[:1], 2)):
        assert flaws(other, made.path)


def spoilt(path, out, pictures=lambda frames: frames, sound=lambda blocks: blocks):
    """A movie written anew with other pictures or sound."""
    facts = probe(path)
    with MovieReader(path) as reader:
        frames = pictures([reader.frame(n).planes() for n in range(facts.frames)])
    heard = np.concatenate(list(sound_blocks(facts)), axis=1)
    writer = MovieWriter(out, facts.width, facts.height, facts.rate, frames[0].tags, sound=True, preset=DELIVERY)
    for frame in frames:
        writer.picture(frame)
    writer.sound(np.ascontiguousarray(sound(heard)[:, : round(len(frames) / 25 * 48_000)]))
    writer.close()
    return out


def test_dropped_late_frozen_and_black_pictures_are_found(doc, tmp_path):
    made = make_one(doc, doc.masters[0], tmp_path).path

    def of(name, pictures):
        return flaws(doc, spoilt(made, tmp_path / f"{name}.mp4", pictures))

    assert of("same", lambda f: f) == ()
    assert any("74 frames, not 75" in each for each in of("dropped", lambda f: f[:40] + f[41:]))
    late = of("late", lambda f: f[:30] + f[29:49] + f[50:])
    assert any("shows the frame before it" in each or "differs" in each for each in late)
    frozen = of("frozen", lambda f: f[:25] + [f[25]] * 25 + f[50:])
    assert any("stands still" in each or "differs" in each for each in frozen)
    with MovieReader(made) as reader:
        scene = reader.frame(30).planes()
    dark = replace(scene, y=np.full_like(scene.y, 16))
    assert any("black" in each for each in of("black", lambda f: f[:26] + [dark] * 49))


def test_sound_that_is_late_missing_or_other_is_found(doc, tmp_path):
    made = make_one(doc, doc.masters[0], tmp_path).path

    def of(name, sound):
        return flaws(doc, spoilt(made, tmp_path / f"{name}.mp4", sound=sound))

    assert of("same", lambda s: s) == ()
    assert any("late" in each for each in of("late", lambda s: np.roll(s, 4000, axis=1)))
    assert any("s late" in each or "s early" in each for each in of("early", lambda s: np.roll(s, -4000, axis=1)))
    assert any("silent" in each for each in of("silent", lambda s: s * 0))
    assert any("quieter" in each for each in of("quiet", lambda s: s * np.float32(0.4)))
    noise = np.random.default_rng(4).normal(0, 0.1, (2, 144_000)).astype(np.float32)
    assert any("otherwise" in each for each in of("noise", lambda s: noise[:, : s.shape[1]]))


@pytest.mark.parametrize("go", ["burnt in", "embedded", "beside"])
def test_a_missing_caption_is_found(doc, tmp_path, go):
    preset = replace(DELIVERY, captions=go)
    more = Caption("d", 2000, 2600, (Span("And good night."),))
    twice = replace(doc, tracks=(replace(doc.tracks[0], captions=(*doc.tracks[0].captions, more)),))
    made = make_one(doc, doc.masters[0], tmp_path, preset=preset)
    assert made.problems == ()
    said = flaws(twice, made.path, preset)
    assert said
    assert all(any(words in each for words in ("caption", "differs")) for each in said)


@pytest.mark.parametrize(("channels", "codec"), [("stereo", "aac"), ("mono", "pcm")])
def test_sound_is_brought_to_the_loudness_that_is_wanted_as_far_as_its_peaks_allow(doc, tmp_path, channels, codec):
    picture = replace(DELIVERY.picture, container="mov")

    def made(loudness, peak=-1.0):
        sound = SoundCoding(codec, channels=channels, loudness=loudness, peak=peak)
        result = make_one(doc, doc.masters[0], tmp_path, preset=replace(DELIVERY, picture=picture, sound=sound))
        count = 2 if channels == "stereo" else 1
        return result, loudness_of(sound_blocks(probe(result.path), channels=count), count)

    quiet, found = made(-30.0)
    assert quiet.problems == ()
    assert found.integrated == pytest.approx(-30, abs=0.3)
    assert any("−30" in check.what or "−29.9" in check.what for check in quiet.report.checks)
    loud, found = made(-6.0, -6.0)
    assert found.peak < -5.0
    assert any("peaks allow no more" in each for each in loud.problems)
    silence = [np.zeros((2, 48_000), np.float32)]
    assert loudness_of(silence).integrated is None


def test_a_flaw_is_shown_beside_what_was_decided_and_stills_are_written(doc, tmp_path):
    made = make_one(doc, doc.masters[0], tmp_path).path
    is_made, stated = side_by_side(order_of(doc, made), 30)
    assert is_made.shape == stated.shape == (90, 90, 3)
    assert np.abs(is_made.astype(int) - stated).mean() < 4
    for suffix in ("png", "jpg", "tif"):
        path = write_still(doc, doc.masters[0], 30, tmp_path / f"still.{suffix}")
        still = read_still(path).picture
        assert (still.width, still.height) == (360, 360)
        with MovieReader(made) as reader:
            assert np.abs(still.rgb().astype(int) - reader.frame(30).rgb()).mean() < 4
    with pytest.raises(OutputError, match="no still picture"):
        write_still(doc, doc.masters[0], 30, tmp_path / "still.webp")
    (sheet,) = write_contact_sheets(doc, doc.masters[0], doc.shots, tmp_path / "sheet.jpg")
    assert read_still(sheet).picture.width > 400


def test_a_poster_lies_beside_the_movies_that_show_it_and_follows_its_frame(doc, tmp_path):
    asked = edits.set_poster(doc, "m", 30)
    make_one(asked, asked.masters[0], tmp_path / "whole")
    make_one(asked, asked.masters[0], tmp_path / "part", FrameRange(0, 25))
    (poster,) = (tmp_path / "whole").glob("*.jpg")
    assert poster.name == "walk m poster.jpg"
    assert list((tmp_path / "part").glob("*.jpg")) == []
    wanted = read_still(write_still(doc, doc.masters[0], 30, tmp_path / "30.png")).picture.rgb().astype(int)
    assert np.abs(read_still(poster).picture.rgb() - wanted).mean() < 3
    with pytest.raises(ValueError, match="outside the lock"):
        edits.set_poster(doc, "m", 75)
    same = {s.id: edits.Match(s.id, 0) for s in doc.shots}
    assert edits.carry(asked, doc, same)[0].masters[0].poster == 30
    assert edits.carry(asked, doc, {})[0].masters[0].poster is None


@pytest.mark.parametrize("name", ["images, PNG", "images, JPEG", "mezzanine, ProRes 422 HQ", "web, VP9"])
def test_images_and_other_codecs_are_compared_alike(doc, tmp_path, name):
    preset = preset_named(name)
    made = make_one(doc, doc.masters[0], tmp_path, preset=preset)
    assert made.problems == ()
    assert any("pictures as decided" in check.what for check in made.report.checks)
    moved = framed_as(doc, Pane((Keyframe(0, 0.3),)))
    assert flaws(moved, made.path, preset)
    if made.path.is_dir():
        sorted(made.path.iterdir())[40].unlink()
        assert any("74 images, not 75" in each for each in flaws(doc, made.path, preset))


def test_layers_of_a_timeline_lie_where_the_witness_says(tmp_path):
    """Coloured, so that each of its planes tells; as it stands, and fading and seen through."""
    folder = tmp_path / "media"
    folder.mkdir()
    make_movie(folder / "a.mp4", 60, size=(640, 360), picture=scenes)
    mark = np.zeros((360, 640, 4), np.uint8)
    mark[250:320, 60:320] = (40, 90, 220, 255)
    cv2.imwrite(str(folder / "mark.png"), mark)
    timeline = otio.schema.Timeline("t", global_start_time=otio.opentime.RationalTime(0, 25))
    under, over = track(clip("a", str(folder / "a.mp4"), 0, 60)), track(clip("m", str(folder / "mark.png"), 0, 40))
    timeline.tracks[:] = [under, over]
    otio.adapters.write_to_file(timeline, str(tmp_path / "t.otio"))
    lock = take_lock(tmp_path / "t.otio", Rate(25), [folder]).doc
    assert len(lock.lock.layers) == 1
    shown = edits.add_master(lock, Master("m", "m", 360, 640))
    shown = edits.set_framings(shown, [Framing(s.id, "m", (Pane((Keyframe(0),)),)) for s in shown.shots])
    made = make_one(shown, shown.masters[0], tmp_path / "out")
    assert made.problems == ()
    fading = replace(shown.lock.layers[0], comes=10, goes=10, opacity=0.6)
    other = replace(shown, lock=replace(shown.lock, layers=(fading,)))
    assert make_one(other, other.masters[0], tmp_path / "fading").problems == ()
    assert flaws(other, made.path)
    assert flaws(replace(shown, lock=replace(shown.lock, layers=())), made.path)
    elsewhere = replace(shown, placed=(Placed(layer_key(shown.lock.layers[0]), "m", y=-0.3),))
    assert flaws(elsewhere, made.path)
