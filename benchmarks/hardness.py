"""Making masters of damaged media, and killed at any moment: nothing wrong without a word, nothing half under a name.

    python -m benchmarks.hardness [DAMAGED [KILLS]]

By default 200 movies with flipped bits are locks: half are damaged before they
are opened, half after they were planned. A master is made of each in a process
of its own, which may not crash or hang. It ends with a sentence, or with a
movie whose pictures are those of the sound lock but for stretches that its
report names, or for what a plain player shows as well and finds nothing wrong
with: not all damage can be told from pictures. Then one making is killed 20 times at random moments and gone on
with; what stands under the final name is whole each time, and the last one
equals one made in one go, picture by picture.
"""

from __future__ import annotations

import json
import random
import subprocess
import sys
import tempfile
from collections import Counter
from dataclasses import replace
from pathlib import Path

import av
import numpy as np

from ezvar.core.errors import EzvarError
from ezvar.core.lock import take_lock
from ezvar.core.model import Document, Framing, Keyframe, Master, Pane
from ezvar.core.store import load_project, save_project
from ezvar.demo import DEMO_PROJECT

FRAMES, SIZE = 150, (320, 180)
_LONGEST = 120  # seconds for one movie
_ALIKE = 30.0  # dB from which a made picture shows what the sound lock does
_MAKES = (("libx264", "mp4"), ("libx264", "mkv"), ("mpeg4", "mov"), ("prores_ks", "mov"))
_MAKE = """
import json, sys
from pathlib import Path
from ezvar.core.encoding import DELIVERY
from ezvar.core.errors import EzvarError
from ezvar.core.output import Order, make_rows, row_of
from ezvar.core.output import segments
from ezvar.core.store import load_project
segments.LEAST, segments.MOST = 0.7, 2
doc = load_project(sys.argv[1])
row = row_of(doc, doc.masters[0], DELIVERY)
try:
    def told(id, start, end, doing):
        print(doing, flush=True)
    (made,) = make_rows([Order(doc, row, Path(sys.argv[2]))], on_part=told if len(sys.argv) > 3 else lambda *said: None)
    if made.error is not None:
        raise made.error
    spans = [(f.start, f.end) for f in made.report.flaws if f.start is not None]
    print(json.dumps({"flaws": [f.said for f in made.report.flaws], "spans": spans}))
except EzvarError as error:
    print(json.dumps({"error": str(error)}))
"""


def painted(path: Path, codec: str) -> Path:
    """A sound lock: a bright block walks over a picture that changes every second and a half."""
    with av.open(str(path), "w") as out:
        stream = out.add_stream(codec, rate=25, options={"g": "25", "crf": "18"} if codec == "libx264" else {"g": "25"})
        stream.width, stream.height = SIZE
        stream.pix_fmt = "yuv422p10le" if codec == "prores_ks" else "yuv420p"
        for n in range(FRAMES):
            rng = np.random.default_rng(n // 37)
            image = np.repeat(np.repeat(rng.integers(30, 220, (9, 16, 3)), 20, 0), 20, 1).astype(np.uint8)
            image[60:120, 2 * n % 280 : 2 * n % 280 + 40] = 250
            frame = av.VideoFrame.from_ndarray(image, format="rgb24")
            frame.pts = n
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    return path


def flipped(data: bytes, seed: int) -> bytes:
    """Bits flipped: a few, or a run of them, anywhere behind the first hundredth."""
    rng = random.Random(seed)
    hurt = bytearray(data)
    start = rng.randrange(len(hurt) // 100, len(hurt) - 64)
    for _ in range(rng.choice((1, 3, 10))):
        hurt[rng.randrange(len(hurt) // 100, len(hurt))] ^= 1 << rng.randrange(8)
    if rng.random() < 0.4:
        hurt[start : start + 48] = rng.randbytes(48)
    return bytes(hurt)


def luma(path: Path) -> list[np.ndarray]:
    with av.open(str(path)) as movie:
        return [f.to_ndarray(format="gray").astype(np.float32) for f in movie.decode(video=0)]


def made(project: Path, target: Path) -> dict[str, object]:
    """What came of making: what it said, or that it crashed or hung."""
    try:
        done = subprocess.run(
            [sys.executable, "-c", _MAKE, project, target], capture_output=True, text=True, timeout=_LONGEST
        )
    except subprocess.TimeoutExpired:
        return {"hung": True}
    if done.returncode or not done.stdout.strip():
        return {"crashed": done.stderr[-400:]}
    return dict(json.loads(done.stdout.splitlines()[-1]))


def _alike(a: np.ndarray, b: np.ndarray) -> bool:
    return 10 * float(np.log10(255**2 / max(1e-6, float(np.mean((a - b) ** 2))))) >= _ALIKE


def lenient(path: Path) -> dict[int, np.ndarray]:
    """The middles of those of a movie's pictures, by their numbers, with which a plain player finds nothing wrong."""
    left = (SIZE[0] - SIZE[1]) // 2
    found = {}
    try:
        with av.open(str(path)) as movie:
            for packet in movie.demux(video=0):
                try:
                    frames = packet.decode()
                except av.FFmpegError:
                    continue
                for frame in frames:
                    if not frame.is_corrupt and frame.time is not None:
                        middle = frame.to_ndarray(format="gray")[:, left : left + SIZE[1]]
                        found[round(frame.time * 25)] = middle.astype(np.float32)
    except av.FFmpegError:
        return found
    return found


def judged(said: dict[str, object], target: Path, sound: list[np.ndarray], hurt: Path) -> str:
    """What is to be counted of one case."""
    if "hung" in said or "crashed" in said:
        return "HUNG" if "hung" in said else "CRASHED"
    if "error" in said:
        return "a sentence"
    found = luma(target)
    if len(found) != len(sound):
        return "a movie of another length, said" if said["flaws"] else "ANOTHER LENGTH WITHOUT A WORD"
    plain = lenient(hurt)
    named = {n for a, b in said["spans"] for n in range(a, b)}  # type: ignore[attr-defined]
    wrong = [n for n, (a, b) in enumerate(zip(found, sound, strict=True)) if not _alike(a, b)]
    if not wrong:
        return "as the sound lock" if not said["flaws"] else "as the sound lock, damage named"
    if set(wrong) <= named:
        return "wrong, and named"
    if all(n in plain and _alike(plain[n], found[n]) for n in set(wrong) - named):
        return "as a player shows it, which finds nothing wrong"
    return "WRONG WITHOUT A WORD"


def in_the_middle(doc: Document) -> Document:
    """A lock with a square master that shows its middle."""
    framings = tuple(Framing(shot.id, "m", (Pane((Keyframe(0),)),)) for shot in doc.shots)
    return replace(doc, masters=(Master("m", "m", 180, 180),), framings=framings)


def damaged(count: int, folder: Path) -> None:
    counts: Counter[str] = Counter()
    for k, (codec, suffix) in enumerate(_MAKES):
        good = painted(folder / f"good-{k}.{suffix}", codec)
        doc = in_the_middle(take_lock(good).doc)
        save_project(doc, folder / f"good-{k}.ezvar")
        whole = folder / f"whole-{k}.mp4"
        made(folder / f"good-{k}.ezvar", whole)
        sound, data = luma(whole), good.read_bytes()
        for n in range(count // len(_MAKES)):
            hurt, project, target = (folder / f"hurt.{end}" for end in (suffix, "ezvar", "mp4"))
            hurt.write_bytes(flipped(data, 1000 * k + n))
            target.unlink(missing_ok=True)
            try:
                if n % 2:  # damaged after it was planned
                    media = (replace(doc.lock.media[0], path=str(hurt)),)
                    save_project(replace(doc, lock=replace(doc.lock, media=media)), project)
                else:
                    save_project(in_the_middle(take_lock(hurt).doc), project)
            except EzvarError:
                counts["not opened, a sentence"] += 1
                continue
            result = judged(made(project, target), target, sound, hurt)
            counts[result] += 1
            if result.isupper():
                kept = Path(tempfile.gettempdir()) / f"hardness-{k}-{n}.{suffix}"
                kept.write_bytes(hurt.read_bytes())
                print(f"    {result}: {kept}", flush=True)
    print(f"{'damaged':14}{count} locks: " + ", ".join(f"{c} {what}" for what, c in counts.most_common()), flush=True)


def killed(times: int, folder: Path) -> None:
    """The demo's first master, small, killed so many times on its way."""
    doc = load_project(DEMO_PROJECT)
    small = replace(doc.masters[0], width=270, height=480)
    project, target, once = folder / "demo.ezvar", folder / "killed.mp4", folder / "once.mp4"
    save_project(replace(doc, masters=(small, *doc.masters[1:])), project)
    said = made(project, once)
    wanted, rng, left = luma(once), random.Random(7), Counter[str]()
    for _ in range(times):
        process = subprocess.Popen(
            [sys.executable, "-c", _MAKE, project, target, "told"], stdout=subprocess.PIPE, stderr=subprocess.DEVNULL
        )
        try:
            process.wait(rng.uniform(1.5, 9.0))
        except subprocess.TimeoutExpired:
            process.kill()
            process.wait()
        assert process.stdout is not None
        process.stdout.close()
        if target.exists():
            same = target.read_bytes() == once.read_bytes()
            left["whole under its name" if same else "HALF UNDER ITS NAME"] += 1
            target.unlink()
        else:
            left["nothing under its name"] += 1
    again = made(project, target)
    found = luma(target)
    same = len(found) == len(wanted) and all(np.array_equal(a, b) for a, b in zip(found, wanted, strict=True))
    hidden = [p.name for p in folder.iterdir() if p.name.startswith(".ezvar-") and p.name.endswith(".parts")]
    print(f"{'killed':14}{times} times: {dict(left)}; then picture by picture as in one go: {same}, "
          f"flaws {again.get('flaws')} (in one go {said.get('flaws')}), parts left {hidden}", flush=True)  # fmt: skip


def main() -> None:
    counts = [int(text) for text in sys.argv[1:3]]
    with tempfile.TemporaryDirectory() as temp:
        damaged(counts[0] if counts else 200, Path(temp))
    with tempfile.TemporaryDirectory() as temp:
        killed(counts[1] if len(counts) > 1 else 20, Path(temp))


if __name__ == "__main__":
    main()
