"""Small generated movies: frames with their number painted in, beeps under flashes."""

from __future__ import annotations

import struct
from fractions import Fraction
from pathlib import Path

import av
import numpy as np

BITS = 12
SOUND_RATE = 48_000


def numbered(n: int, width: int = 192, height: int = 108) -> np.ndarray:
    """An RGB picture that carries ``n`` as twelve black or white blocks along its top, and a texture below."""
    rng = np.random.default_rng(n)
    image = np.repeat(np.repeat(rng.integers(40, 216, (height // 8 + 1, width // 8 + 1, 3)), 8, 0), 8, 1)
    image = image[:height, :width].astype(np.uint8)
    step = width // BITS
    for bit in range(BITS):
        image[: height // 3, bit * step : (bit + 1) * step] = 235 if n >> bit & 1 else 20
    return image


def number_in(luma: np.ndarray) -> int:
    """The number painted into a picture's luminance."""
    height, width = luma.shape
    step = width // BITS
    rows = luma[height // 9 : height // 4]
    return sum(int(rows[:, k * step + step // 4 : (k + 1) * step - step // 4].mean() > 120) << k for k in range(BITS))


def make_movie(
    path: Path,
    frames: int = 50,
    *,
    size: tuple[int, int] = (192, 108),
    rate: Fraction = Fraction(25),
    codec: str = "libx264",
    gop: int = 250,
    bframes: int = 3,
    sound: str | None = None,
    timecode: str | None = None,
    aspect: Fraction | None = None,
    rotation: int = 0,
    times: list[int] | None = None,
    picture=numbered,
    tags: dict[str, int] | None = None,
    options: dict[str, str] | None = None,
    pixels: str = "yuv420p",
    profile: str | None = None,
) -> Path:
    """Write a movie of painted pictures.

    ``sound`` "beeps" gives a beep of one frame each half second, from 0 on.
    ``times`` are the pictures' times in ticks of 1/600 s instead of an even rate.
    """
    width, height = size
    with av.open(str(path), "w") as out:
        stream = out.add_stream(codec, rate=rate)
        stream.width, stream.height, stream.pix_fmt = width, height, pixels
        if codec == "libx264":
            params = f"keyint={gop}:min-keyint={min(gop, 25)}:bframes={bframes}:scenecut=0"
            stream.options = {"crf": "16", "preset": "superfast", "x264-params": params, **(options or {})}
        elif codec in ("libx265",):
            stream.options = {"crf": "16", "preset": "ultrafast", "x265-params": "log-level=error"}
        if codec == "libvpx-vp9":
            stream.options = {"deadline": "realtime", "cpu-used": "8", "g": str(gop)}
        if profile is not None:
            stream.options = {"profile": profile}
        if times is not None:
            stream.time_base = stream.codec_context.time_base = Fraction(1, 600)
        if aspect is not None:
            stream.sample_aspect_ratio = stream.codec_context.sample_aspect_ratio = aspect
        if rotation:
            stream.set_display_rotation(rotation)
        for name, value in (tags or {}).items():
            setattr(stream.codec_context, name, value)
        if timecode:
            stream.metadata["timecode"] = timecode
        audio = out.add_stream("aac", rate=SOUND_RATE, layout="stereo") if sound else None
        for n in range(frames):
            painted = picture(n, width, height)  # an array, or a frame that is coded already
            frame = av.VideoFrame.from_ndarray(painted, format="rgb24") if isinstance(painted, np.ndarray) else painted
            frame.pts = n if times is None else times[n]
            frame.time_base = 1 / rate if times is None else Fraction(1, 600)
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
        if audio is not None:
            _write_beeps(out, audio, Fraction(frames) / rate, rate)
    return path


def beeps(seconds: Fraction, rate: Fraction) -> np.ndarray:
    """Beeps of one frame's length at each half second: float32 (2, samples)."""
    t = np.arange(round(seconds * SOUND_RATE)) / SOUND_RATE
    return np.tile((0.6 * np.sin(2 * np.pi * 997 * t) * ((t % 0.5) < float(1 / rate))).astype(np.float32), (2, 1))


def _write_beeps(out, audio, seconds: Fraction, rate: Fraction) -> None:
    sound = beeps(seconds, rate)
    for k in range(0, sound.shape[1], 1024):
        block = np.ascontiguousarray(sound[:, k : k + 1024])
        frame = av.AudioFrame.from_ndarray(block, format="fltp", layout="stereo")
        frame.sample_rate, frame.pts, frame.time_base = SOUND_RATE, k, Fraction(1, SOUND_RATE)
        out.mux(audio.encode(frame))
    out.mux(audio.encode(None))


def trimmed(movie: bytes, skip: int, keep: int, rate: int = 25) -> bytes:
    """An MP4 of `make_movie` whose edit list (ISO/IEC 14496-12, 8.6.6) shows ``keep`` frames after the first ``skip``,
    as a telephone trims one: nothing is coded anew."""
    data, at = bytearray(movie), 0
    for ticks in (512, SOUND_RATE // rate):  # a frame, in the time of the picture's track and of the sound's
        at = data.find(b"elst", at + 1)
        _, begins = struct.unpack(">Ii", data[at + 12 : at + 20])
        data[at + 12 : at + 20] = struct.pack(">Ii", keep * 1000 // rate, begins + skip * ticks)
    return bytes(data)


def scenes(n: int, width: int, height: int, length: int = 20) -> np.ndarray:
    """Pictures of an edit that changes place every ``length`` frames: a bright block walks over each."""
    rng = np.random.default_rng(n // length)
    small = rng.integers(20, 235, (7, 12, 3)).astype(np.uint8)
    image = np.repeat(np.repeat(small, -(-height // 7), 0), -(-width // 12), 1)[:height, :width].copy()
    left = int((0.1 + 0.6 * (n // length % 2)) * width) + n % length // 2
    top = height // 3 + (n % 3)
    image[top : top + height // 3, left : left + width // 10] = 255 if n % 2 else 200
    return image
