"""The sound of "Lantern night", made up from sines and noise: a music box, a drum, a murmur, fireworks."""

from __future__ import annotations

import numpy as np
from scipy.signal import butter, sosfilt

RATE = 48_000
SCALE = (293.66, 349.23, 392.0, 440.0, 523.25, 587.33, 698.46)


def _place(track: np.ndarray, at: float, sound: np.ndarray, pan: float = 0.0) -> None:
    start = int(at * RATE)
    end = min(start + len(sound), track.shape[1])
    if end > start >= 0:
        track[0, start:end] += sound[: end - start] * (0.5 - 0.5 * pan)
        track[1, start:end] += sound[: end - start] * (0.5 + 0.5 * pan)


def _bell(pitch: float, length: float = 1.8) -> np.ndarray:
    t = np.arange(int(length * RATE)) / RATE
    tone = sum(
        a * np.sin(2 * np.pi * pitch * m * t) * np.exp(-d * t)
        for m, a, d in ((1, 1.0, 2.6), (2.0, 0.35, 4), (3.01, 0.18, 7))
    )
    return np.asarray(tone * np.minimum(1, t * 400), dtype=np.float64)


def _drum() -> np.ndarray:
    t = np.arange(int(0.4 * RATE)) / RATE
    return np.asarray(np.sin(2 * np.pi * (62 * t + 30 * (1 - np.exp(-30 * t)) / 30)) * np.exp(-9 * t))


def _burst(rng: np.random.Generator) -> np.ndarray:
    t = np.arange(int(1.4 * RATE)) / RATE
    noise = rng.standard_normal(t.size)
    boom = sosfilt(butter(2, 240, fs=RATE, output="sos"), noise) * np.exp(-4 * t) * 2.4
    crackle = noise * (rng.random(t.size) > 0.9985) * np.exp(-2.2 * t) * 0.8
    return np.asarray(boom + crackle)


def _murmur(rng: np.random.Generator, seconds: float) -> np.ndarray:
    t = np.arange(int(seconds * RATE)) / RATE
    noise = sosfilt(butter(2, (180, 900), btype="band", fs=RATE, output="sos"), rng.standard_normal(t.size))
    syllables = np.clip(np.sin(2 * np.pi * 2.7 * t) + 0.6 * np.sin(2 * np.pi * 4.3 * t + 1), 0, None)
    return np.asarray(noise * syllables * 0.35)


def score(starts: dict[str, list[tuple[float, float]]], seconds: float) -> np.ndarray:
    """The whole track as float32 (2, samples), -1..1; ``starts`` gives each shot's start and length in seconds."""
    rng = np.random.default_rng(1234)
    track = np.zeros((2, round(seconds * RATE)))
    for beat in np.arange(0, seconds, 0.46):
        if rng.random() < 0.72:
            pitch = float(rng.choice(SCALE)) * float(rng.choice((1, 2), p=(0.65, 0.35)))
            _place(track, float(beat), 0.10 * _bell(pitch), float(rng.uniform(-0.5, 0.5)))
    for name in ("Ilma, lower third", "Ilma again", "Ilma, third", "Dunn and Meira", "Dunn and Meira again"):
        for start, length in starts[name]:
            _place(track, start + 0.2, _murmur(rng, length - 0.4), -0.1)
    for start, length in starts["drummer at the edge"]:
        for beat in np.arange(0, length, 0.4):
            _place(track, start + float(beat), 0.6 * _drum(), 0.5)
    for start, _ in starts["fireworks"]:
        for at in (0.9, 2.2, 3.1):
            _place(track, start + at, 0.5 * _burst(rng))
    fade = np.minimum(1, np.minimum(np.arange(track.shape[1]), np.arange(track.shape[1])[::-1]) / (0.4 * RATE))
    return np.asarray(np.tanh(track) * fade, dtype=np.float32)
