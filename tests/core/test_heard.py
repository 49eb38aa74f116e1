"""What is heard in masters: tracks chosen or carried, all channels, sound of a row's own, sound copied as it is."""

from dataclasses import replace
from fractions import Fraction

import av
import numpy as np
import pytest

from ezvar.core.encoding import DELIVERY, preset_named
from ezvar.core.lock import lock_sound, sound_tracks
from ezvar.core.media import SOUND_RATE, MovieReader, probe, sound_blocks, sound_frame
from ezvar.core.model import Heard, Master, SoundClip
from ezvar.core.output import Order, check_row, make_rows, row_of
from ezvar.core.planning import plan

from ..media import numbered

SECONDS = 3


def tones(*pitches):
    """A channel for each pitch in Hz: notes of it, each of another length, so that every moment is told from others."""
    t = np.arange(SECONDS * SOUND_RATE) / SOUND_RATE
    gate = (np.sin(2 * np.pi * 1.3 * t**1.5) > 0).astype(np.float32)
    return np.stack([0.3 * np.sin(2 * np.pi * pitch * t) * gate for pitch in pitches]).astype(np.float32)


TRACKS = {"main": tones(400, 500), "voice": tones(700), "round": tones(300, 600, 900, 100, 1500, 1800)}


def with_tracks(path, tracks, codec="aac"):
    """A movie of numbered pictures with sound tracks."""
    with av.open(str(path), "w") as out:
        video = out.add_stream("libx264", rate=25, options={"crf": "20", "preset": "ultrafast"})
        video.width, video.height, video.pix_fmt = 192, 108, "yuv420p"
        layouts = {1: "mono", 2: "stereo", 6: "5.1"}
        streams = []
        for name, sound in tracks.items():
            layout = layouts.get(len(sound), f"{len(sound)} channels")
            streams.append((out.add_stream(codec, rate=SOUND_RATE, layout=layout), layout, sound))
            streams[-1][0].metadata["handler_name"] = name
        for n in range(SECONDS * 25):
            frame = av.VideoFrame.from_ndarray(numbered(n), format="rgb24")
            frame.pts, frame.time_base = n, Fraction(1, 25)
            out.mux(video.encode(frame))
        out.mux(video.encode(None))
        for stream, layout, sound in streams:
            for at in range(0, sound.shape[1], 1024):
                block = sound_frame(sound[:, at : at + 1024], layout)
                block.pts = at
                out.mux(stream.encode(block))
            out.mux(stream.encode(None))
    return path


@pytest.fixture(scope="module")
def doc(tmp_path_factory, cache, movement_alone):
    movie = with_tracks(tmp_path_factory.mktemp("heard") / "tracks.mov", TRACKS)
    return plan(movie, [Master("m", "m", 96, 96)], cache).doc


def made(doc, folder, heard=None, preset=DELIVERY, **sound):
    """A row made with sound as it is asked for, where that went well."""
    preset = replace(preset, sound=replace(preset.sound, **sound))
    row = replace(row_of(doc, doc.masters[0], preset), heard=heard or Heard())
    folder.mkdir(exist_ok=True)
    order = Order(doc, row, folder / f"made.{preset.picture.container}")
    (found,) = make_rows([order])
    assert found.error is None
    return found, order


def pitches(path, track=1):
    """The loudest pitch of each channel of a track, in Hz."""
    facts = probe(path)
    count = facts.audios[track - 1].channels
    sound = np.concatenate(list(sound_blocks(facts, channels=count, track=track)), axis=1)
    spectrum = np.abs(np.fft.rfft(sound, axis=1))
    return [round(float(k) * SOUND_RATE / sound.shape[1], -2) for k in spectrum.argmax(axis=1)]


def test_each_track_is_carried_as_one_of_its_own_channel_for_channel(doc, tmp_path):
    found, order = made(doc, tmp_path / "apart", Heard(apart=True), channels="all")
    assert found.problems == ()
    assert [t.name for t in sound_tracks(doc)] == list(TRACKS)
    assert [(a.name, a.channels) for a in probe(found.path).audios] == [("main", 2), ("voice", 1), ("round", 6)]
    assert pitches(found.path, 1) == [400, 500]
    assert pitches(found.path, 2) == [700]
    assert pitches(found.path, 3) == [300, 600, 900, 100, 1500, 1800]
    swapped = TRACKS | {"round": TRACKS["round"][[1, 0, 2, 3, 4, 5]]}
    with_tracks(tmp_path / "swapped.mov", swapped)
    wrong = check_row(replace(order, target=tmp_path / "swapped.mov")).problems
    assert any("channel 1 is otherwise" in said for said in wrong)
    with_tracks(tmp_path / "fewer.mov", {"main": TRACKS["main"]})
    assert any(
        "1 sound tracks, not 3" in said for said in check_row(replace(order, target=tmp_path / "fewer.mov")).problems
    )


def test_tracks_are_chosen_and_mixed(doc, tmp_path):
    alone, _ = made(doc, tmp_path / "alone", Heard((2,)))
    mixed, _ = made(doc, tmp_path / "mixed", Heard((1, 2)), channels="mono")
    assert alone.problems == mixed.problems == ()
    assert pitches(alone.path) == [700, 700]
    assert [a.channels for a in probe(mixed.path).audios] == [1]
    one, both = (np.concatenate(list(lock_sound(doc, channels=1, tracks=t)), axis=1) for t in ((1,), (1, 2)))
    voice = np.concatenate(list(lock_sound(doc, channels=1, tracks=(2,))), axis=1)
    assert np.allclose(one + voice, both, atol=1e-4)
    gone, _ = made(doc, tmp_path / "gone", Heard((9,)))
    assert any("no sound track 9" in said for said in gone.problems)


def test_all_channels_come_through_however_many_they_are(doc, tmp_path, cache):
    many = {"many": tones(*range(300, 3500, 200))}
    movie = with_tracks(tmp_path / "many.mov", many, "pcm_s16le")
    wide = plan(movie, [Master("m", "m", 96, 96)], cache).doc
    preset = preset_named("mezzanine, ProRes 422")
    found, _ = made(wide, tmp_path / "wide", preset=preset, channels="all")
    assert found.problems == ()
    assert pitches(found.path) == list(range(300, 3500, 200))
    stereo, _ = made(doc, tmp_path / "down", Heard((3,)), preset=preset)
    assert [a.channels for a in probe(stereo.path).audios] == [2]


def packets(path, track):
    with av.open(str(path)) as movie:
        return [bytes(p) for p in movie.demux(movie.streams.audio[track - 1]) if p.size]


@pytest.mark.parametrize("track", [1, 3])
def test_sound_is_copied_where_nothing_of_it_changes(doc, tmp_path, track):
    media = doc.lock.media[0].path
    found, _ = made(doc, tmp_path / "copied", Heard((track,)), channels="all")
    assert found.problems == ()
    assert packets(found.path, 1) == packets(media, track)
    coded, _ = made(doc, tmp_path / "coded", Heard((track,)), channels="all", copied=False)
    assert coded.problems == ()
    assert packets(coded.path, 1) != packets(media, track)
    louder, _ = made(doc, tmp_path / "louder", Heard((track,)), channels="all", loudness=-30.0)
    assert packets(louder.path, 1) != packets(media, track)
    first, last = (MovieReader(p).facts.audios[k] for p, k in ((media, track - 1), (found.path, 0)))
    assert first.lasts == pytest.approx(last.lasts, abs=0.001)


def test_a_row_has_sound_of_its_own(doc, tmp_path):
    path = tmp_path / "own.wav"
    short = tones(880)[:, : 2 * SOUND_RATE]
    with av.open(str(path), "w") as out:
        stream = out.add_stream("pcm_s16le", rate=SOUND_RATE, layout="mono")
        block = sound_frame(short, "mono")
        block.pts = 0
        out.mux(stream.encode(block))
        out.mux(stream.encode(None))
    found, order = made(doc, tmp_path / "own", Heard(file=str(path)))
    assert [said for said in found.problems if "1.00 s shorter than the movie" in said]
    assert len(found.problems) == 1
    assert pitches(found.path) == [880.0, 880.0] or pitches(found.path) == [900, 900]
    lock = replace(order, row=replace(order.row, heard=Heard()))
    assert any("otherwise than the lock's" in said for said in check_row(lock).problems)
    listed = replace(doc.listed[0], heard=Heard(file=str(path))) if doc.listed else None
    assert listed is None or listed.heard.file
    (gone,) = make_rows([replace(order, row=replace(order.row, heard=Heard(file=str(tmp_path / "not there.wav"))))])
    assert "not there.wav" in str(gone.error)


def test_the_tracks_of_a_timeline_are_chosen_too(doc):
    """Here of a document whose sound lies on tracks, as a timeline's does."""
    media = doc.lock.media[0].id
    clips = (SoundClip(media, 0, 50, track=1), SoundClip(media, 25, 75, track=3))
    timed = replace(doc, lock=replace(doc.lock, file="/edit.otio", sound=clips))
    assert [(t.number, t.channels) for t in sound_tracks(timed)] == [(1, 2), (3, 2)]
    third = np.concatenate(list(lock_sound(timed, channels=1, tracks=(3,))), axis=1)[0]
    assert np.abs(third[: SOUND_RATE - 10]).max() == 0
    assert np.abs(third[SOUND_RATE:]).max() > 0.1
