"""How well cuts are found in edits spliced from real footage, and how many right ones are asked about.

    python -m benchmarks.spliced FOLDER [EDITS]

Pieces of the folder's movies, some mirrored or tighter, follow one another by
hard cuts and dissolves. Two pieces of one movie follow each other only where
one of them is mirrored or tighter: with a resting camera nobody sees the join.
"""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

import cv2
import numpy as np

from ezvar.core.cuts import measure
from ezvar.core.media import MovieReader

from .cut_scenes import FPS, Made, True_
from .cuts import Score, add, table
from .edits import HEIGHT, WIDTH, encode

PIECES, MOST = 34, 400  # pieces of an edit, and pictures of each movie


def pictures_of(path: Path) -> list[np.ndarray]:
    with MovieReader(path) as reader:
        found = [frame.rgb(WIDTH, HEIGHT) for frame in reader.frames(0, min(reader.facts.frames, MOST))]
    return [cv2.resize(picture, (WIDTH, HEIGHT)) for picture in found]


def spliced(path: Path, movies: list[list[np.ndarray]], seed: int) -> Made:
    """An edit of random pieces, with where they meet."""
    rng = np.random.default_rng(seed)
    made = Made(path)
    out: list[np.ndarray] = []
    last: tuple[int, bool, bool] | None = None
    while len(made.cuts) < PIECES - 1:
        turned, tight = (bool(rng.random() < 0.3) for _ in range(2))
        which = int(rng.integers(len(movies)))
        if last == (which, turned, tight):
            continue
        source = movies[which]
        length = min(int(rng.integers(18, 90)), len(source) - 1)
        first = int(rng.integers(0, len(source) - length))
        piece = [_changed(p, turned, tight) for p in source[first : first + length]]
        mix = min(int(rng.integers(8, 20)), len(piece) - 4) if rng.random() < 0.2 and len(out) > 40 else 0
        if mix:
            shares = [(k + 1) / (mix + 1) for k in range(mix)]
            mixed = [cv2.addWeighted(a, 1 - t, b, t, 0) for a, b, t in zip(out[-mix:], piece, shares, strict=False)]
            out[-mix:] = mixed
            made.cuts.append(True_("dissolve", len(out) - mix, len(out), "dissolve"))
        elif out:
            made.cuts.append(True_("cut", len(out), len(out), "other place"))
        out += piece[mix:]
        last = which, turned, tight
    made.frames = len(out)
    encode(path, out, int(rng.integers(18, 32)))
    return made


def _changed(picture: np.ndarray, turned: bool, tight: bool) -> np.ndarray:
    if turned:
        picture = np.ascontiguousarray(picture[:, ::-1])
    return cv2.resize(picture[30:240, 60:420], (WIDTH, HEIGHT)) if tight else picture


def main() -> None:
    folder, edits = Path(sys.argv[1]), int(sys.argv[2]) if len(sys.argv) > 2 else 16
    movies = [pictures_of(p) for p in sorted(folder.iterdir()) if p.suffix in {".mp4", ".mov", ".mkv", ".webm"}]
    score = Score()
    with tempfile.TemporaryDirectory() as temp:
        for seed in range(edits):
            truth = spliced(Path(temp) / f"{seed}.mp4", movies, seed)
            with MovieReader(truth.path) as reader:
                add(score, truth, measure(reader.frames(), reader.facts.frames))
            truth.path.unlink()
    print(f"{score.frames / FPS / 60:.0f} minutes spliced from {len(movies)} movies")
    print(table(score))
    print("\n".join(score.errors))


if __name__ == "__main__":
    main()
