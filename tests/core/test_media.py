"""Reading movies: facts, exact frames, sound, and files that are not what they seem."""

import gc
import random
import threading
import time
import weakref
from dataclasses import replace
from fractions import Fraction

import av
import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import ezvar.core.viewing.server as server_module
from ezvar.core.errors import MediaError
from ezvar.core.lock import peaks, take_lock
from ezvar.core.media import (
    ColourTags,
    MovieReader,
    Planes,
    coding_levels,
    fingerprint,
    is_interlaced,
    known_interlaced,
    luma_weights,
    probe,
    sound_blocks,
)
from ezvar.core.memory import Memory
from ezvar.core.progress import Cancelled, CancelToken
from ezvar.core.timing import Rate
from ezvar.core.viewing import FrameServer, Proxy, Span, proxy_picture

from ..media import beeps, make_movie, number_in, numbered, trimmed

KINDS = {
    "one long group": {"gop": 500, "bframes": 4},
    "open groups": {
        "gop": 12,
        "bframes": 3,
        "options": {"x264-params": "keyint=12:min-keyint=1:open-gop=1:bframes=3:b-pyramid=normal"},
    },
    "short groups": {"gop": 5, "bframes": 1},
    "no b-frames": {"gop": 30, "bframes": 0},
    "mpeg-4": {"codec": "mpeg4"},
    "hevc in matroska": {"codec": "libx265", "suffix": ".mkv"},
    "every frame by itself": {"codec": "ffv1", "suffix": ".mkv"},
    "ntsc": {"rate": Fraction(30000, 1001), "gop": 40},
    "film rate in milliseconds": {"rate": Fraction(24000, 1001), "suffix": ".mkv"},
    "transport stream": {"suffix": ".ts", "gop": 20},
    "prores": {"codec": "prores_ks", "suffix": ".mov", "pixels": "yuv422p10le"},
    "dnx in mxf": {"codec": "dnxhd", "suffix": ".mxf", "pixels": "yuv422p", "size": (256, 144), "profile": "dnxhr_lb"},
    "vp9 in webm": {"codec": "libvpx-vp9", "suffix": ".webm", "gop": 40},
    "ten-bit hevc": {"codec": "libx265", "pixels": "yuv420p10le"},
    "ten-bit ffv1": {"codec": "ffv1", "suffix": ".mkv", "pixels": "yuv420p10le"},
}


@pytest.mark.parametrize("kind", KINDS)
def test_any_frame_at_random_is_that_frame_of_a_straight_decode(tmp_path, kind):
    how = dict(KINDS[kind])
    path = make_movie(tmp_path / f"m{how.pop('suffix', '.mp4')}", 130, **how)
    with MovieReader(path) as reader:
        assert reader.facts.frames == 130
        assert reader.facts.rate.fraction == how.get("rate", 25)
        straight = [p.stored.y.copy() for p in reader.frames()]
        assert [number_in(luma) for luma in straight] == list(range(130))
        rng = random.Random(kind)
        for n in [129, 0, 64, 63, 62, *(rng.randrange(130) for _ in range(60))]:
            assert np.array_equal(reader.frame(n).stored.y, straight[n]), n
        for n in (-1, 130):
            with pytest.raises(IndexError):
                reader.frame(n)


@pytest.mark.parametrize("codec", ["libx264", "libx265"])
def test_at_a_glance_large_pictures_lack_only_what_no_other_is_drawn_on_from(tmp_path, codec):
    def rolling(n, width, height):
        return np.roll(np.random.default_rng(3).integers(0, 255, (height // 8, width // 8, 3), np.uint8), n, 1).repeat(
            8, 0
        ).repeat(8, 1)  # fmt: skip

    for size in ((1280, 720), (640, 360)):
        path = make_movie(tmp_path / "m.mp4", 25, size=size, codec=codec, picture=rolling, options={"crf": "44"})
        with MovieReader(path) as exact, MovieReader(path, glancing=True) as glancing:
            straight = [p.stored.y.copy() for p in glancing.frames()]
            assert np.array_equal(glancing.frame(11).stored.y, straight[11])
            whole = [p.stored.y for p in exact.frames()]
            same = [np.array_equal(a, b) for a, b in zip(straight, whole, strict=True)]
            small = [[cv2.resize(y, None, fx=0.25, fy=0.25, interpolation=cv2.INTER_AREA) for y in (a, b)]
                     for a, b in zip(straight, whole, strict=True)]  # fmt: skip
        assert all(same) == (size[0] < 1280)
        assert same[0]
        assert same[-1]
        assert max(cv2.absdiff(a, b).mean() for a, b in small) < 0.3


@pytest.mark.parametrize(
    ("how", "picture"),
    [
        ({"size": (190, 106)}, (190, 106)),
        ({"aspect": Fraction(64, 45), "size": (180, 144)}, (256, 144)),
        ({"rotation": 90}, (108, 192)),
        ({"rotation": -90}, (108, 192)),
        ({"rotation": 180}, (192, 108)),
    ],
)
def test_pictures_are_upright_and_square(tmp_path, how, picture):
    path = make_movie(tmp_path / "m.mp4", 4, **how)
    with MovieReader(path) as reader:
        facts, frame = reader.facts, reader.frame(2)
        planes, rgb = frame.planes(), frame.rgb()
    assert (facts.width, facts.height) == (planes.width, planes.height) == rgb.shape[1::-1] == picture
    assert take_lock(path, None, [], tmp_path).doc.lock.media[0].turned == how.get("rotation", 0) % 360
    stored = numbered(2, facts.stored_width, facts.stored_height)
    upright = np.rot90(stored, how.get("rotation", 0) // 90)
    if "aspect" not in how:
        assert np.abs(rgb.astype(int) - upright).mean() < 12


def test_odd_sizes_and_ten_bits(tmp_path):
    path = tmp_path / "odd.mkv"
    with av.open(str(path), "w") as out:
        stream = out.add_stream("ffv1", rate=25)
        stream.width, stream.height, stream.pix_fmt = 191, 107, "yuv420p10le"
        for n in range(3):
            frame = av.VideoFrame.from_ndarray(numbered(n, 191, 107), format="rgb24").reformat(format="yuv420p10le")
            frame.pts, frame.time_base = n, Fraction(1, 25)
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    with MovieReader(path) as reader:
        planes = reader.frame(1).planes()
        assert (planes.width, planes.height, planes.u.shape) == (191, 107, (54, 96))
        assert number_in(reader.frame(2).stored.y) == 2
        assert reader.frame(0).rgb(64, 36).shape == (36, 64, 3)


@pytest.mark.parametrize(("skip", "keep"), [(30, 70), (30, 40), (25, 75), (0, 60), (1, 99)])
def test_a_movie_whose_edit_list_skips_a_beginning_shows_what_a_player_would(tmp_path, skip, keep):
    whole = make_movie(tmp_path / "whole.mp4", 100, gop=25, sound="beeps")
    path = tmp_path / "trimmed.mp4"
    path.write_bytes(trimmed(whole.read_bytes(), skip, keep))
    with av.open(str(path)) as container:
        played = [number_in(f.to_ndarray(format="gray")) for f in container.decode(video=0)]
    with MovieReader(path) as reader:
        order = random.Random(skip).sample(range(reader.count), reader.count)
        seen = {n: number_in(reader.frame(n).stored.y) for n in order}
    assert [seen[n] for n in range(len(played))] == played
    assert (played[0], reader.count) == (skip, len(played))
    sound = np.concatenate(list(sound_blocks(reader.facts)), axis=1)[0]
    assert abs(_lag(sound[:48_000], beeps(Fraction(4), Fraction(25))[0][skip * 1920 :])) < 2


CODED = {
    "4:2:2": {"codec": "prores_ks", "suffix": ".mov", "pixels": "yuv422p10le"},
    "4:4:4": {"pixels": "yuv444p"},
    "ten bits": {"codec": "libx265", "pixels": "yuv420p10le"},
    "rgb": {"codec": "ffv1", "suffix": ".mkv", "pixels": "bgr0"},
    "rgb in ten bits": {"codec": "ffv1", "suffix": ".mkv", "pixels": "gbrp10le"},
}


CARD = np.tile(np.repeat(np.array([[200, 40, 60], [30, 160, 220]], np.uint8), 640, 0), (720, 1, 1))


@pytest.mark.parametrize("kind", CODED)
def test_colours_come_through_however_they_are_coded(tmp_path, kind):
    """Of a size whose unsaid matrix is another than the library's own choice."""
    how = dict(CODED[kind])

    def picture(*_):
        frame = av.VideoFrame.from_ndarray(CARD, format="rgb24")
        return frame.reformat(format=how["pixels"], dst_colorspace="ITU709")

    path = make_movie(tmp_path / f"m{how.pop('suffix', '.mp4')}", 4, size=(1280, 720), picture=picture, **how)
    with MovieReader(path) as reader:
        seen = reader.frame(1)
    assert np.abs(seen.planes().rgb().astype(int) - CARD).mean() < 3
    assert seen.tags.matrix != 0  # planes are never red, green and blue


def test_facts_of_a_whole_movie(movie):
    facts = probe(movie)
    assert (facts.frames, facts.rate, facts.start, facts.timecode_stated) == (60, Rate(25), 90_000, True)
    assert (facts.codec, facts.audio.codec, facts.audio.channels, facts.steady) == ("h264", "aac", 2, True)
    assert facts.quick_frame(10, 50, 30) == 30  # one group only: nothing quicker than the frame itself
    assert facts.quick_frame(0, 50, 30) == 0


@pytest.mark.parametrize(("suffix", "is_read"), [(".mp4", False), (".mkv", True)])
def test_uneven_times_are_laid_on_an_even_rate(tmp_path, suffix, is_read):
    """Each frame shows the picture that is on screen at its time; only what has no table is read through, with its
    first picture shown before, and can be stopped."""
    times = np.cumsum([0, *random.Random(7).choices([24, 24, 48, 96], k=59)])  # 25 a second with gaps
    path = make_movie(tmp_path / f"vfr{suffix}", 60, times=times.tolist(), gop=15)
    said, seen, cancel = [], [], CancelToken()
    cancel.cancel()
    if is_read:
        with pytest.raises(Cancelled):
            probe(path, cancel=cancel)
    facts = probe(path, lambda part, _: said.append(part), None, seen.append)
    assert not facts.steady
    assert [number_in(p.stored.y) for p in seen] == [0] * is_read
    assert said == sorted(said)
    assert bool(said) == is_read
    at = [float(facts.rate.seconds(n)) * 600 for n in range(facts.frames)]
    on_screen = [max(k for k, t in enumerate(times) if t <= now + 1) for now in at]
    with MovieReader(path, facts) as reader:
        order = random.Random(1).sample(range(facts.frames), facts.frames)
        shown = {n: number_in(reader.frame(n).stored.y) for n in order}
    assert [shown[n] for n in range(facts.frames)] == on_screen
    assert on_screen[-1] == 59


def _text(path):
    path.write_text("This is a letter, not a movie.\n" * 50)


def _cut_short(path):
    whole = make_movie(path.with_name("whole.mp4"), 60, options={"movflags": "faststart"})
    path.write_bytes(whole.read_bytes()[: whole.stat().st_size // 2])


def _sound_only(path):
    with av.open(str(path), "w") as out:
        audio = out.add_stream("aac", rate=48_000, layout="stereo")
        frame = av.AudioFrame.from_ndarray(np.zeros((2, 1024), np.float32), format="fltp", layout="stereo")
        frame.sample_rate = 48_000
        out.mux(audio.encode(frame))
        out.mux(audio.encode(None))


def _list_of_others(path):
    path.write_text("#EXTM3U\n#EXT-X-TARGETDURATION:1\n#EXTINF:1,\n/etc/hostname\n#EXT-X-ENDLIST\n")


@pytest.mark.parametrize(
    ("make", "said"),
    [
        (_text, "not a movie"),
        (_cut_short, "cut short"),
        (_sound_only, "no picture"),
        (lambda path: path.write_bytes(b""), "empty"),
        (lambda path: path.mkdir(), "folder"),
        (lambda path: None, "not there"),
        (_list_of_others, "not a movie|lists other"),
    ],
)
def test_files_that_are_no_movies_get_one_plain_sentence(tmp_path, make, said):
    path = tmp_path / "a.mp4"
    make(path)
    with pytest.raises(MediaError, match=said) as caught:
        probe(path)
    assert str(caught.value).startswith("a.mp4: ")
    assert "\n" not in str(caught.value)


def test_remote_addresses_are_never_opened():
    with pytest.raises(MediaError, match="not there"):
        probe("http://127.0.0.1:9/a.mp4")


def test_damage_inside_costs_that_place_only(tmp_path):
    path = make_movie(tmp_path / "m.mkv", 60, codec="ffv1")
    data = bytearray(path.read_bytes())
    middle = len(data) // 2
    data[middle : middle + 3000] = bytes(3000)
    path.write_bytes(data)
    with MovieReader(path) as reader:
        found = [(number_in(p.stored.y), p.damaged) for p in reader.frames()]
    assert sum(number == n and not damaged for n, (number, damaged) in enumerate(found)) >= 45
    assert sum(number != n and not damaged for n, (number, damaged) in enumerate(found)) <= 1  # its decoder saw nothing


def test_sound_lies_exactly_under_the_picture(movie):
    facts = probe(movie)
    whole = np.concatenate(list(sound_blocks(facts)), axis=1)
    assert whole.shape == (2, round(facts.seconds * 48_000))
    assert _lag(whole[0], beeps(facts.seconds, Fraction(25))[0]) == 0
    part = np.concatenate(list(sound_blocks(facts, Fraction(7, 10), Fraction(3, 2))), axis=1)
    assert part.shape[1] == 38_400
    assert np.abs(part - whole[:, 33_600:72_000]).max() < 0.05
    loud = peaks(take_lock(movie).doc, 24)  # a column each tenth of a second, beeps in every fifth
    assert (loud[::5] > 0.4).all()
    assert loud[3::5].max() < 0.05


def _lag(a, b):
    size = 1 << 18
    product = np.fft.irfft(np.fft.rfft(a, size) * np.conj(np.fft.rfft(b, size)))
    lag = int(product.argmax())
    return lag if lag < size // 2 else lag - size


def test_missing_sound_is_silence(tmp_path):
    facts = probe(make_movie(tmp_path / "quiet.mp4", 10))
    assert facts.audio is None
    blocks = list(sound_blocks(facts, Fraction(0), Fraction(1, 4), channels=1))
    assert sum(b.shape[1] for b in blocks) == 12_000
    assert not any(b.any() for b in blocks)


def test_the_cache_stays_within_its_budget(movie):
    with MovieReader(movie) as reader:
        pictures = list(reader.frames())
    memory = Memory(12 * pictures[0].nbytes)
    assert memory.set_aside(6) == 2 * pictures[0].nbytes
    cache, other = memory.room(), memory.room()
    for picture in pictures[:12]:
        cache.put(picture.index, picture, picture.nbytes)
        cache.get(0)
    assert memory.used == 10 * pictures[0].nbytes
    assert cache.get(0) is pictures[0]  # asked for again and again, so kept
    assert cache.get(1) is None
    other.put(3, "large", 4 * pictures[0].nbytes)  # one budget for both
    assert [n for n in range(12) if cache.get(n)] == [0, 7, 8, 9, 10, 11]
    cache.put(20, pictures[0], 10**9)
    assert cache.get(20) is None
    cache.clear()
    assert (cache.get(0), other.get(3), memory.used) == (None, "large", 4 * pictures[0].nbytes)
    assert Memory().budget <= 1024**3


def test_the_server_serves_the_newest_request_and_reads_ahead(movie):
    served, quick, changed = [], [], threading.Condition()

    def on_picture(picture):
        with changed:
            served.append((picture.index, number_in(picture.stored.y)))
            changed.notify()

    cache = Memory(10**8).room()
    server = FrameServer(MovieReader(movie), cache, on_picture, pytest.fail, ahead=5, before=quick.append)
    for n in (3, 40, 17, 55):
        server.request(n)
    with changed:
        assert changed.wait_for(lambda: served and served[-1][0] == 55, 20)
    assert all(n == painted for n, painted in served)
    assert 55 in quick
    server.request(1000)
    with changed:
        assert changed.wait_for(lambda: served[-1][0] == 59, 20)
    server.request(10)
    end = time.monotonic() + 20
    while cache.get((str(movie), 15)) is None and time.monotonic() < end:
        time.sleep(0.005)
    assert (cache.get((str(movie), 15)) is None, cache.get((str(movie), 16))) == (False, None)
    server.close()
    assert cache.get((str(movie), 15)) is None


def test_a_frame_no_longer_wanted_is_given_up_and_the_reader_stays_good(movie):
    with MovieReader(movie) as reader:
        with pytest.raises(Cancelled):
            reader.frame(50, unwanted=lambda: True)
        assert number_in(reader.frame(50).stored.y) == 50
        assert number_in(reader.frame(3).stored.y) == 3


def test_a_proxy_has_every_frame_and_is_taken_up_again(movie, tmp_path):
    spans = (Span(0, 50, "strip", 0, 64, 36), Span(50, 60, "", 0, 64, 36), Span(60, 70, "strip", 50, 64, 36))
    proxy = Proxy(tmp_path, spans)
    assert proxy.picture(0) is None
    with MovieReader(movie) as reader:
        made = [proxy_picture(picture) for picture in reader.frames()]
    proxy.put("strip", -2, [made[0], made[0], *made[:24]])
    assert number_in(proxy.picture(20)[..., 0]) == 20  # what is made can be used at once
    assert proxy.picture(24) is None
    proxy.put("strip", 24, made[24:48])
    (tmp_path / "strip_48_60.proxy").write_bytes(b"cut off")
    again = Proxy(tmp_path, spans)
    assert not again.ready
    proxy.put("strip", 48, made[48:])
    assert not again.ready  # others see what one has made once they look again
    again.look_again()
    assert again.ready
    assert [number_in(again.picture(n)[..., 0]) for n in (0, 31, 49, 60)] == [0, 31, 49, 50]
    assert not again.picture(55).any()
    assert again.picture(70) is None
    assert not Proxy(tmp_path, [Span(0, 61, "strip", 0, 64, 36)]).ready
    for each in (proxy, again):
        each.close()
    assert again.picture(0) is None


@given(
    st.tuples(*[st.integers(0, 255)] * 3), st.sampled_from((1, 4, 5, 6, 7, 9)), st.booleans(),
    st.sampled_from((1, 6, 9)), st.booleans(),
)  # fmt: skip
def test_colours_are_the_same_in_every_coding(colour, matrix, full, other, wide):
    """Against the exact equations of H.273, there and back."""
    planes = Planes.of_rgb(np.full((8, 8, 3), colour, np.uint8)).recoded(matrix, full)
    there = planes.recoded(other, wide)
    for made in (planes, there):
        kr, kb = luma_weights(made.tags.matrix)
        black, luma, chroma = coding_levels(made.tags.range == 2)
        light = (made.y[3, 3] - black) / luma
        cb, cr = ((int(p[1, 1]) - 128) / chroma for p in (made.u, made.v))
        red, blue = light + 2 * (1 - kr) * cr, light + 2 * (1 - kb) * cb
        green = (light - kr * red - kb * blue) / (1 - kr - kb)
        assert np.abs(np.array([red, green, blue]) * 255 - colour).max() < 5  # three times rounded to 8 bits
    grey = replace(planes, y=np.full((8, 8), 100, np.uint8), u=planes.u * 0 + 128, v=planes.v * 0 + 128)
    assert (grey.recoded(other, wide).u == 128).all()


def test_colours_survive_the_way_through_planes():
    rgb = np.zeros((32, 32, 3), np.uint8)
    rgb[...] = (200, 80, 40)
    planes = Planes.of_rgb(rgb)
    assert np.abs(Planes.glimpsed(rgb).rgb().astype(int) - planes.rgb()).mean() < 4
    assert np.abs(planes.rgb().astype(int) - rgb).max() <= 2
    assert np.abs(planes.scaled(16, 8).rgb().astype(int) - rgb[:8, :16]).max() <= 2
    assert (ColourTags().matrix_for(1080), ColourTags().matrix_for(576), ColourTags(matrix=9).matrix_for(576)) == (
        1,
        6,
        9,
    )


def test_a_fingerprint_names_content_not_place(movie, tmp_path):
    copy = tmp_path / "other name.mp4"
    copy.write_bytes(movie.read_bytes())
    assert fingerprint(copy) == fingerprint(movie)
    copy.write_bytes(movie.read_bytes() + b"x")
    assert fingerprint(copy) != fingerprint(movie)


def _woven(n, width, height, apart=1):
    """A bar that moves over fine detail at rest; its second field is later by ``apart`` field times."""
    image = np.full((height, width, 3), 60, np.uint8)
    image[height // 2 :, width // 2 :: 8] = 200
    for field in (0, 1):
        left = 10 + 12 * (2 * n + field * apart) // 2
        image[field::2, left : left + 30] = 230
    return image


@pytest.mark.parametrize("stated", [True, False])
def test_interlaced_pictures_are_shown_whole(tmp_path, stated):
    """Two fields of a moving bar, woven: after that no line stands out of both its neighbours any more."""
    options = {"x264-params": ("tff=1:" if stated else "") + "keyint=12:bframes=0"}
    movie = make_movie(tmp_path / "fields.mp4", 30, size=(640, 480), picture=_woven, options=options)
    facts = probe(movie)
    assert known_interlaced(facts) is (True if stated else None)  # whoever opens it has not looked
    assert is_interlaced(facts)
    with MovieReader(movie, facts) as reader:
        y = reader.frame(3).planes().y.astype(int)
    inside = y[2:50:2], y[1:49:2], y[3:51:2]
    combs = (inside[0] - inside[1]) * (inside[0] - inside[2]) > 900
    assert combs.mean() < 0.005
    assert y[300, 328] > 150 > y[300, 332]


def test_stripes_and_grain_are_no_fields(tmp_path):
    def striped(n, width, height):
        image = _woven(n, width, height, apart=0)
        image[300:380:2, :300] = 240
        grain = np.random.default_rng(n).normal(0, 8, image.shape)
        return np.clip(image + grain, 0, 255).astype(np.uint8)

    assert not is_interlaced(probe(make_movie(tmp_path / "m.mp4", 30, size=(640, 480), picture=striped)))


def test_where_something_quicker_was_enough_nothing_is_decoded(movie):
    served, shown = [], threading.Event()

    def quickly(frame):
        shown.set()
        return frame != 20

    cache = Memory(10**8).room()
    server = FrameServer(MovieReader(movie), cache, lambda p: served.append(p.index), pytest.fail, before=quickly)
    server.request(9)
    assert shown.wait(20)
    server.request(20)
    end = time.monotonic() + 20
    while not served and time.monotonic() < end:
        time.sleep(0.005)
    server.close()
    assert served == [20]
    assert cache.get((str(movie), 9)) is None


def test_while_requests_come_quickly_only_the_quick_pictures_are_made(movie, monkeypatch):
    monkeypatch.setattr(server_module, "_HASTE", 60.0)
    monkeypatch.setattr(server_module, "_REST", 1.0)
    served, quick = [], []

    def quickly(frame):
        quick.append(frame)
        return False

    cache = Memory(10**8).room()
    server = FrameServer(MovieReader(movie), cache, lambda p: served.append(p.index), pytest.fail, 0, quickly)
    cache.put((str(movie), 7), server._reader.frame(7), 1)
    for n in (40, 3, 50, 7, 30):
        server.request(n)
        end = time.monotonic() + 20
        while n not in quick and time.monotonic() < end:
            time.sleep(0.001)
    end = time.monotonic() + 20
    while not served and time.monotonic() < end:
        time.sleep(0.005)
    server.request(30)  # the same once more, as when a window is dragged, is made anew at once
    end = time.monotonic() + 20
    while len(served) < 2 and time.monotonic() < end:
        time.sleep(0.005)
    server.close()
    assert quick == [40, 3, 50, 7, 30]  # also the one that is kept
    assert served == [30, 30]


def test_a_closed_reader_lets_go_of_its_decoder_at_once(movie):
    """Without waiting for the collector: a decoder holds tens of megabytes of a large movie."""
    gc.disable()
    try:
        reader = MovieReader(movie)
        frames = iter(reader.frames())
        next(frames)
        gone = weakref.ref(reader)
        frames.close()
        reader.close()
        del reader, frames
        assert gone() is None
    finally:
        gc.enable()


@given(st.integers(2, 200), st.integers(2, 120))
def test_a_glance_is_close_to_an_exact_reduction(width, height):
    width, height = width // 2 * 2, height // 2 * 2
    across, down = np.meshgrid(np.linspace(20, 230, 640), np.linspace(0, 20, 360))
    planes = Planes.of_rgb(np.dstack([across + down] * 3).astype(np.uint8))
    glance, exact = planes.glanced(width, height), planes.scaled(width, height)
    assert (glance.width, glance.height, glance.u.shape) == (exact.width, exact.height, exact.u.shape)
    assert np.abs(glance.y.astype(int) - exact.y).max() <= 3


def test_frames_at_no_rate_that_can_be_are_said(tmp_path):
    movie = make_movie(tmp_path / "fast.mp4", 8, rate=Fraction(2000))
    with pytest.raises(MediaError, match="at most 1000 frames a second"):
        MovieReader(movie)
