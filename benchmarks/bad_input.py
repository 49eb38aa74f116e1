"""Movies with flipped bits, cut short, and with odd headers: what is opened, what is refused, what is named.

    python -m benchmarks.bad_input [DAMAGED [HEADERS]]

By default 200 movies of seven codecs and containers are damaged (bits flipped
in the middle, or cut short) and 100 get odd headers. Each is opened and read
to its end in a process of its own, which may not crash or hang; beside it the
library alone decodes what it can. None that decodes at all may be refused;
what could not be decoded, or was drawn on from such, is to be named.
"""

from __future__ import annotations

import random
import subprocess
import sys
import tempfile
from collections import Counter
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
import numpy as np

MAKES = (
    ("h264", "libx264", "mp4"), ("hevc", "libx265", "mp4"), ("mpeg4", "mpeg4", "avi"), ("prores", "prores_ks", "mov"),
    ("vp9", "libvpx-vp9", "mkv"), ("mjpeg", "mjpeg", "mov"), ("mpeg2", "mpeg2video", "ts"),
)  # fmt: skip
FRAMES, SIZE = 90, (96, 54)
_LONGEST = 60  # seconds for one movie
_READ = """
import sys
from ezvar.core.errors import EzvarError
from ezvar.core.media import MovieReader
try:
    with MovieReader(sys.argv[1]) as reader:
        damaged = sum(p.damaged for p in reader.frames())
        print("opened", damaged)
except EzvarError as error:
    print("refused", 0, error)
"""
_BARE = """
import sys, av
shown = errors = 0
try:
    with av.open(sys.argv[1]) as movie:
        for packet in movie.demux(movie.streams.video[0]):
            try:
                shown += sum(1 for _ in packet.decode())
            except av.FFmpegError:
                errors += 1
except (av.FFmpegError, IndexError, ValueError):
    errors += 1
print(shown, errors)
"""


@dataclass(frozen=True)
class Outcome:
    """What became of a movie: ``ended`` "opened", "refused", "crashed" or "hung"; how many of its pictures the library
    alone decoded, and at how many it failed; how many are named as damaged."""

    kind: str
    ended: str
    decodes: int
    fails: int
    named: int

    @property
    def wrongly_refused(self) -> bool:
        return self.ended == "refused" and self.decodes > 0

    @property
    def untold(self) -> bool:
        return self.ended == "opened" and self.decodes > 0 and self.fails > 0 and not self.named


def whole_movies(folder: Path) -> dict[str, bytes]:
    made = {}
    rng = np.random.default_rng(7)
    place = rng.integers(0, 255, (SIZE[1], SIZE[0] * 2, 3)).astype(np.uint8)
    for name, codec, container in MAKES:
        path = folder / f"{name}.{container}"
        with av.open(str(path), "w") as out:
            stream = out.add_stream(codec, rate=25)
            stream.width, stream.height = SIZE
            stream.pix_fmt = {"prores": "yuv422p10le", "mjpeg": "yuvj420p"}.get(name, "yuv420p")
            stream.gop_size = 24
            if name == "hevc":
                stream.options = {"x265-params": "log-level=none"}
            for n in range(FRAMES):
                frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(place[:, n % 96 : n % 96 + SIZE[0]]))
                frame.pts, frame.time_base = n, Fraction(1, 25)
                out.mux(stream.encode(frame))
            out.mux(stream.encode(None))
        made[path.name] = path.read_bytes()
    return made


def damaged(data: bytes, rng: random.Random) -> tuple[str, bytes]:
    if rng.random() < 0.35:
        return "cut short", data[: int(len(data) * rng.uniform(0.2, 0.97))]
    changed = bytearray(data)
    for _ in range(rng.choice((1, 3, 10, 40))):
        at = int(len(data) * rng.uniform(0.1, 0.9))
        changed[at] ^= 1 << rng.randrange(8)
    return "bits flipped", bytes(changed)


def odd_header(data: bytes, rng: random.Random) -> tuple[str, bytes]:
    """Bytes changed where a container keeps what it says of itself: at its beginning, or in its table at the end."""
    changed = bytearray(data)
    table = data.rfind(b"moov")
    start, end = (table, len(data)) if table > 0 and rng.random() < 0.7 else (0, min(600, len(data)))
    for _ in range(rng.choice((1, 2, 5))):
        changed[rng.randrange(start, end)] = rng.choice((0, 1, 127, 255, rng.randrange(256)))
    return "odd header", bytes(changed)


def run(script: str, path: Path) -> tuple[str, list[str]]:
    try:
        done = subprocess.run(
            [sys.executable, "-c", script, str(path)], capture_output=True, text=True, timeout=_LONGEST, check=False
        )
    except subprocess.TimeoutExpired:
        return "hung", []
    return ("ended", done.stdout.split()) if done.returncode == 0 else ("crashed", [done.stderr[-300:]])


def outcome(kind: str, path: Path) -> Outcome:
    how, said = run(_READ, path)
    _, bare = run(_BARE, path)
    shown, fails = (int(v) for v in bare) if len(bare) == 2 else (0, 1)
    if how != "ended":
        print(f"{path.name}: {how} {' '.join(said)}", flush=True)
    made = Outcome(kind, said[0] if how == "ended" else how, shown, fails, int(said[1]) if how == "ended" else 0)
    if made.wrongly_refused or made.untold:
        what = "is refused though it decodes" if made.wrongly_refused else "is opened and its damage not named"
        print(f"{path.name} ({kind}) {what}: {' '.join(said[2:])} ({shown} decoded, {fails} failed)", flush=True)
    return made


def main() -> None:
    counts = [int(n) for n in sys.argv[1:]] or [200, 100]
    rng, found = random.Random(11), []
    with tempfile.TemporaryDirectory() as temp:
        folder = Path(temp)
        movies = whole_movies(folder)
        for change, count in zip((damaged, odd_header), counts, strict=False):
            for n in range(count):
                name = list(movies)[n % len(movies)]
                kind, data = change(movies[name], rng)
                path = folder / f"{n:03}-{name}"
                path.write_bytes(data)
                found.append(outcome(kind, path))
                path.unlink()
    for kind in dict.fromkeys(o.kind for o in found):
        those = [o for o in found if o.kind == kind]
        ends = Counter(o.ended for o in those)
        wrongly, silent = (sum(flags) for flags in zip(*((o.wrongly_refused, o.untold) for o in those), strict=True))
        print(
            f"{kind:13} {len(those):4}: {ends['opened']} opened, {ends['refused']} refused ({wrongly} that decode), "
            f"{ends['crashed']} crashed, {ends['hung']} hung; the library fails in "
            f"{sum(o.fails > 0 for o in those)}, of which {silent} are opened and not named"
        )


if __name__ == "__main__":
    main()
