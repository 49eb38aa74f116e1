"""Movies as they come: indexed without being read, cut short, with holes, with bits flipped, with odd beginnings."""

from fractions import Fraction

import av
import numpy as np
import pytest

import ezvar.core.media.index as index_module
from ezvar.cli import main
from ezvar.core.errors import MediaError
from ezvar.core.media import MovieReader, probe

from ..media import make_movie, number_in

FRAMES, GOP = 72, 24


@pytest.fixture(scope="module")
def plain(tmp_path_factory):
    return make_movie(tmp_path_factory.mktemp("odd") / "plain.mp4", FRAMES, gop=GOP)


def copied(source, target, drop=(), later=0, **options):
    """The coded pictures in another file, without some (by their place among the coded), ``later`` frames later."""
    with av.open(str(source)) as read, av.open(str(target), "w", options=options) as out:
        stream = read.streams.video[0]
        into = out.add_stream_from_template(stream)
        step = int(1 / (25 * stream.time_base))
        for k, packet in enumerate(read.demux(stream)):
            if packet.dts is not None and k not in drop:
                packet.pts, packet.dts, packet.stream = packet.pts + later * step, packet.dts + later * step, into
                out.mux(packet)
    return target


def seen(path):
    """The number in each frame and whether it is damaged, in order; at random it is the same."""
    facts = probe(path)
    with MovieReader(path, facts) as reader:
        found = [(number_in(p.stored.y), p.damaged) for p in reader.frames()]
    with MovieReader(path, facts) as reader:
        for n in np.random.default_rng(1).permutation(facts.frames):
            assert number_in(reader.frame(int(n)).stored.y) == found[n][0]
    return found


@pytest.mark.parametrize(
    ("name", "how"),
    [
        ("a.mp4", {}),
        ("a.mov", {"codec": "prores_ks", "pixels": "yuv422p10le"}),
        ("a.mkv", {}),
        ("open.mp4", {"options": {"x264-params": "keyint=24:open-gop=1:bframes=3:scenecut=0"}}),
        ("a.webm", {"codec": "libvpx-vp9"}),
        ("half.mkv", {"rate": Fraction(24000, 1001)}),
    ],
)
def test_where_the_container_has_a_table_nothing_is_read_through(tmp_path, monkeypatch, name, how):
    path = make_movie(tmp_path / name, FRAMES, gop=GOP, **how)
    monkeypatch.setattr(index_module, "_read_through", None)
    facts = probe(path)
    assert (facts.frames, facts.rate.fraction) == (FRAMES, how.get("rate", 25))
    with av.open(str(path)) as container:
        times = sorted(p.pts for p in container.demux(container.streams.video[0]) if p.pts is not None)
    assert np.abs(facts.index.pts - times).max() <= 1
    assert seen(path) == [(n, False) for n in range(FRAMES)]


@pytest.mark.parametrize(
    ("name", "how", "first"),
    [
        ("pieces.mp4", {"movflags": "frag_keyframe+empty_moov"}, 0),
        ("late.mkv", {"later": 20}, 0),
        ("late.mp4", {"later": 20}, 0),
        ("early.mp4", {"later": -10}, 10),  # an edit list skips what comes before the start
        ("early.mp4", {"later": -30}, 30),
    ],
)
def test_odd_beginnings_and_fragments_are_seen_as_a_player_would(tmp_path, plain, name, how, first):
    assert seen(copied(plain, tmp_path / name, **how)) == [(n, False) for n in range(first, FRAMES)]


@pytest.mark.parametrize("name", ["hole.mp4", "hole.mkv", "hole.ts"])
def test_what_is_missing_is_held_and_costs_nothing_after_the_next_key(tmp_path, plain, name):
    found = seen(copied(plain, tmp_path / name, drop=range(30, 34)))
    assert len(found) == FRAMES
    assert found[:27] == [(n, False) for n in range(27)]
    assert all(damaged for _, damaged in found[30:34])
    assert found[48:] == [(n, False) for n in range(48, FRAMES)]


@pytest.mark.parametrize("name", ["none.mp4", "none.ts"])
def test_without_a_key_at_first_the_first_good_picture_stands_for_those_before_it(tmp_path, plain, name):
    found = seen(copied(plain, tmp_path / name, drop=(0,)))
    assert found == [(GOP, True)] * (GOP - 1) + [(n, False) for n in range(GOP, FRAMES)]


def test_a_movie_that_is_cut_short_after_its_table_keeps_its_length(tmp_path, plain):
    whole = copied(plain, tmp_path / "fast.mp4", movflags="faststart").read_bytes()
    path = tmp_path / "short.mp4"
    path.write_bytes(whole[: len(whole) // 2])
    found = seen(path)
    good = [n for n, (number, damaged) in enumerate(found) if not damaged and number == n]
    assert 20 < len(good) < 50
    assert good == list(range(len(good)))
    assert found[len(good) + 10 :] == [found[-1]] * (FRAMES - len(good) - 10)
    path.write_bytes(whole[:2500])
    with pytest.raises(MediaError, match=r"decoded|cut short"):
        probe(path)


@pytest.mark.parametrize(
    ("name", "codec"),
    [("a.mp4", "libx264"), ("a.mkv", "libx265"), ("a.avi", "mpeg4"), ("a.ts", "libx264"), ("a.mpg", "mpeg2video")],
)
def test_flipped_bits_cost_some_pictures_and_no_more(tmp_path, name, codec):
    whole = make_movie(tmp_path / name, FRAMES, gop=GOP, codec=codec).read_bytes()
    for seed in range(5):
        rng, torn = np.random.default_rng(seed), bytearray(whole)
        for _ in range(6):
            torn[rng.integers(len(torn) // 10, len(torn))] ^= 1 << rng.integers(8)
        path = tmp_path / f"{seed}{name}"
        path.write_bytes(torn)
        facts = probe(path)
        with MovieReader(path, facts) as reader:
            found = [(number_in(p.stored.y), p.damaged) for p in reader.frames()]
        assert len(found) >= 0.9 * FRAMES
        assert sum(number == n or damaged for n, (number, damaged) in enumerate(found)) >= 0.7 * len(found)


def test_check_lists_damaged_stretches_by_their_timecodes(tmp_path, plain, cache, monkeypatch, capsys):
    monkeypatch.setenv("EZVAR_CACHE", str(cache.folder))
    path = copied(plain, tmp_path / "hole.mp4", drop=range(30, 34))
    assert main(["plan", str(path), "--master", "9:16", "-o", str(tmp_path / "p.ezvar")]) in (0, 1)
    capsys.readouterr()
    assert main(["check", str(tmp_path / "p.ezvar")]) == 1
    assert "The picture is damaged from 00:00:01:0" in capsys.readouterr().out
