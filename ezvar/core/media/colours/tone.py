"""HDR pictures brought to SDR, as a table from what they are coded as to BT.709."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from .cube import ColourTable
from .tags import HDR, ColourTags

PEAK = 1000.0
"""The brightest light of a picture that does not say its own, in cd/m²: the nominal peak of HLG as well."""
WHITE = 203.0
"""The light of HDR that becomes SDR's white: the reference white of ITU-R BT.2408, in cd/m²."""
_PQ = HDR[0]
_SIDE = 49
_SDR = ColourTags(1, 1, 1, 1)
_GAMMA = 2.4  # of an SDR screen (ITU-R BT.1886)

_M1, _M2 = 2610 / 16384, 2523 / 4096 * 128
_C1, _C2, _C3 = 3424 / 4096, 2413 / 4096 * 32, 2392 / 4096 * 32
_HLG_A, _HLG_B, _HLG_C = 0.17883277, 0.28466892, 0.55991073
_TO_709 = np.array([  # linear light of BT.2020 in that of BT.709 (ITU-R BT.2087)
    [1.6605, -0.5876, -0.0728], [-0.1246, 1.1329, -0.0083], [-0.0182, -0.1006, 1.1187]
])  # fmt: skip
_LUMA_2020 = np.array([0.2627, 0.6780, 0.0593])


def _lattice() -> np.ndarray:
    """The R'G'B' that a table has values for, (blue, green, red, 3)."""
    steps = np.linspace(0, 1, _SIDE)
    blue, green, red = np.meshgrid(steps, steps, steps, indexing="ij")
    return np.stack([red, green, blue], axis=-1)


def light_of_pq(signal: np.ndarray) -> np.ndarray:
    """Light in cd/m² of PQ's signal, 0..1 (BT.2100, table 4)."""
    root = np.power(np.clip(signal, 0, 1), 1 / _M2)
    return np.asarray(10_000 * np.power(np.maximum(root - _C1, 0) / (_C2 - _C3 * root), 1 / _M1))


def pq_of_light(light: np.ndarray) -> np.ndarray:
    """PQ's signal, 0..1, of light in cd/m²."""
    part = np.power(np.clip(light, 0, 10_000) / 10_000, _M1)
    return np.asarray(np.power((_C1 + _C2 * part) / (1 + _C3 * part), _M2))


def light_of_hlg(signal: np.ndarray) -> np.ndarray:
    """Light in cd/m² of HLG's signal (…, 3) on a screen of 1000 cd/m²: its system's gamma is 1.2 (BT.2100, table 5)."""
    bent = (np.exp((np.clip(signal, 0, 1) - _HLG_C) / _HLG_A) + _HLG_B) / 12
    scene = np.where(signal <= 0.5, signal**2 / 3, bent)
    luma = np.maximum((scene @ _LUMA_2020)[..., None], 1e-9)
    return np.asarray(PEAK * np.power(luma, 0.2) * scene)


def compressed(light: np.ndarray, peak: float) -> np.ndarray:
    """Light up to a ``peak`` compressed into that up to `WHITE`, in cd/m²: the curve of ITU-R BT.2390, 5.4.1, without
    lift of black. Dark and middle tones stay as they are; from a knee on a cubic curve leads to white."""
    top = pq_of_light(np.array(peak))
    most = float(pq_of_light(np.array(WHITE)) / top)
    if most >= 1:
        return light
    knee = 1.5 * most - 0.5
    signal = np.clip(pq_of_light(light) / top, 0, 1)
    t = np.clip((signal - knee) / (1 - knee), 0, 1)
    bent = (2 * t**3 - 3 * t**2 + 1) * knee + (t**3 - 2 * t**2 + t) * (1 - knee) + (3 * t**2 - 2 * t**3) * most
    return light_of_pq(np.where(signal < knee, signal, bent) * top)


def pq_of_sdr(signal: np.ndarray) -> np.ndarray:
    """PQ's R'G'B' of BT.2020 for R'G'B' (…, 3) of BT.709, 0..1, whose white becomes `WHITE`."""
    return pq_of_light(np.power(np.clip(signal, 0, 1), _GAMMA) @ np.linalg.inv(_TO_709).T * WHITE)


def hlg_of_sdr(signal: np.ndarray) -> np.ndarray:
    """HLG's, as `pq_of_sdr`."""
    light = np.power(np.clip(signal, 0, 1), _GAMMA) @ np.linalg.inv(_TO_709).T * WHITE / PEAK
    luma = np.maximum((light @ _LUMA_2020)[..., None], 1e-9)
    scene = np.clip(light * np.power(luma, -0.2 / 1.2), 0, 1)
    bent = _HLG_A * np.log(np.maximum(12 * scene - _HLG_B, 1e-9)) + _HLG_C
    return np.asarray(np.where(scene <= 1 / 12, np.sqrt(3 * scene), bent))


def hdr_of_sdr(signal: np.ndarray, transfer: int) -> np.ndarray:
    """SDR's R'G'B' (…, 3), 0..1, in that of HDR with a transfer."""
    return pq_of_sdr(signal) if transfer == _PQ else hlg_of_sdr(signal)


@lru_cache(maxsize=2)
def raising_table(transfer: int) -> ColourTable:
    """The table that brings pictures and graphics of BT.709 among those of HDR with a transfer, for the screen that
    shows both: white becomes `WHITE`, and nothing becomes brighter (ITU-R BT.2408, 5.1)."""
    return ColourTable(hdr_of_sdr(_lattice(), transfer).astype(np.float32), tags=ColourTags(9, transfer, 9, 1))


@lru_cache(maxsize=8)
def tone_table(transfer: int, peak: float = PEAK) -> ColourTable:
    """The table that brings pictures of BT.2020 with a transfer of HDR, up to a ``peak`` in cd/m², to BT.709.

    The brightest of red, green and blue follows the curve of `compressed`, and
    the others in proportion, so that hues stay. What BT.709 cannot show is
    clipped.
    """
    signal = _lattice()
    light = light_of_pq(signal) if transfer == _PQ else light_of_hlg(signal)
    brightest = np.maximum(light.max(axis=-1, keepdims=True), 1e-6)
    shown = light * (compressed(brightest, peak) / brightest) / WHITE
    return ColourTable(np.power(np.clip(shown @ _TO_709.T, 0, 1), 1 / _GAMMA).astype(np.float32), tags=_SDR)
