"""How loud sound is, by EBU R 128 and ITU-R BS.1770, as the media library's own filter measures it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from fractions import Fraction
from math import log10

import av
import numpy as np
from av.filter import Graph
from av.filter.context import FilterContext

from .sound import SOUND_RATE, sound_frame, sound_layout

_FORMAT = "flt"
_QUIETEST = -69.9  # LUFS: at the gate of the measure, there is nothing to be heard


@dataclass(frozen=True)
class Loudness:
    """``integrated`` in LUFS, ``None`` of what is silent or shorter than a block of the measure; ``peak``, the true
    peak, in dBTP."""

    integrated: float | None
    peak: float


def loudness_of(blocks: Iterable[np.ndarray], channels: int = 2) -> Loudness:
    """The loudness of sound at 48 kHz, given in float32 blocks (channels, any number)."""
    graph, layout = Graph(), sound_layout(channels)
    source = graph.add_abuffer(sample_rate=SOUND_RATE, format=_FORMAT, layout=layout, time_base=Fraction(1, SOUND_RATE))
    meter, sink = graph.add("ebur128", "metadata=1:peak=true"), graph.add("abuffersink")
    source.link_to(meter)
    meter.link_to(sink)
    graph.configure()
    told: dict[str, str] = {}
    at = 0
    for block in blocks:
        frame = sound_frame(block, layout)
        frame.pts = at
        at += block.shape[1]
        source.push(frame)
        told = _drained(sink) or told
    source.push(None)
    told = _drained(sink) or told
    integrated = float(told.get("lavfi.r128.I", _QUIETEST - 1))
    peak = float(told.get("lavfi.r128.true_peak", 0))
    return Loudness(integrated if integrated > _QUIETEST else None, 20 * log10(peak) if peak > 0 else -120.0)


def _drained(sink: FilterContext) -> dict[str, str]:
    """What the last of the frames that come out says."""
    told: dict[str, str] = {}
    while True:
        try:
            told = {k: str(v) for k, v in sink.pull().metadata.items()} or told
        except (av.BlockingIOError, av.EOFError):
            return told
