"""How much of a movie of half a gigabyte is read before its first picture is there, and how long that takes.

Counted through a file object that the movie is read from. Movies: pictures at
even times in MP4, MOV and Matroska, and at uneven ones with and without
pictures that refer to later ones.

Run by `make bench`, or ``python -m benchmarks.opening``.
"""

from __future__ import annotations

import tempfile
import time
from fractions import Fraction
from pathlib import Path

import av
import numpy as np

from ezvar.core.media import MovieReader, container, fingerprint

LENGTH = 520 * 1024**2
TICKS = Fraction(1, 12800)
_opened = av.open


class Counted:
    """A file that counts what is read of it."""

    read_in_all = 0

    def __init__(self, path: str) -> None:
        self._file = open(path, "rb", buffering=0)  # noqa: SIM115

    def read(self, size: int) -> bytes:
        data = self._file.read(size)
        Counted.read_in_all += len(data)
        return data

    def seek(self, offset: int, whence: int = 0) -> int:
        return self._file.seek(offset, whence)

    def tell(self) -> int:
        return self._file.tell()


def coded(name: str, options: dict[str, str], pixels: str) -> tuple[object, list[tuple[bytes, int, int, bool]]]:
    """A second of noise, coded: an open container of it, and its packets with their times in frames."""
    rng = np.random.default_rng(1)
    path = Path(tempfile.mkdtemp()) / "small.mov"
    with av.open(str(path), "w") as out:
        stream = out.add_stream(name, rate=25, options=options)
        stream.width, stream.height, stream.pix_fmt = 1920, 1080, pixels
        for _ in range(25):
            noise = rng.integers(0, 255, (1080, 1920, 3), np.uint8)
            out.mux(stream.encode(av.VideoFrame.from_ndarray(noise).reformat(format=pixels)))
        out.mux(stream.encode(None))
    movie = av.open(str(path))
    given = movie.streams.video[0]
    step = Fraction(1, 25) / given.time_base
    packets = [(bytes(p), int(p.pts / step), int(p.dts / step), p.is_keyframe) for p in movie.demux(given) if p.size]
    return movie, packets


def write(path: Path, movie: object, packets: list[tuple[bytes, int, int, bool]], uneven: bool) -> None:
    """A movie of ``LENGTH`` bytes of packets over and over, every fifth picture half as long again where ``uneven``."""
    with av.open(str(path), "w") as out:
        stream = out.add_stream_from_template(movie.streams.video[0])
        written = k = 0
        while written < LENGTH:
            for data, pts, dts, key in packets:
                packet = av.Packet(data)
                at = [n + k * len(packets) for n in (pts, dts)]
                packet.pts, packet.dts = (n * 512 + (n // 5 * 256 if uneven else 0) for n in at)
                packet.time_base, packet.is_keyframe, packet.stream = TICKS, key, stream
                out.mux(packet)
                written += len(data)
            k += 1


def main() -> None:
    print(f"{'movie':34}{'MB':>6}{'read before the first picture':>32}{'s':>8}")
    made = {
        "H.264": coded("libx264", {"crf": "18", "g": "25", "preset": "ultrafast"}, "yuv420p"),
        "H.264 with B-frames": coded("libx264", {"crf": "18", "g": "25", "bf": "2", "preset": "veryfast"}, "yuv420p"),
        "ProRes": coded("prores_ks", {}, "yuv422p10le"),
    }
    cases = [("H.264", "mp4"), ("H.264 with B-frames", "mov"), ("H.264 with B-frames", "mkv"), ("ProRes", "mov"),
             ("H.264 uneven", "mp4"), ("H.264 with B-frames uneven", "mp4"), ("ProRes uneven", "mov"),
             ("H.264 uneven", "mkv")]  # fmt: skip
    for name, kind in cases:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / f"movie.{kind}"
            write(path, *made[name.removesuffix(" uneven")], uneven=name.endswith("uneven"))
            size = path.stat().st_size
            Counted.read_in_all = 0
            container.av.open = lambda file, **how: _opened(Counted(file.removeprefix("file:")), **how)
            begun = time.monotonic()
            fingerprint(path)
            with MovieReader(path) as reader:
                reader.frame(0)
            took = time.monotonic() - begun
            container.av.open = _opened
            share = 100 * (Counted.read_in_all + 17 * 65_536) / size
            print(f"{name + ', ' + kind:34}{size >> 20:6}{share:30.2f} %{took:8.2f}", flush=True)
    print("aim: under 2 %, a second at most; uneven pictures that no table tells are read through, with progress")


if __name__ == "__main__":
    main()
