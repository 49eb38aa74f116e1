"""What was seen of a stretch as arrays that can be kept, and back."""

from __future__ import annotations

import numpy as np

from ezvar.core.cuts import Signals

from .finders.bars import BARS
from .finders.flow import FLOW
from .gather import KINDS, LOOK, ROW, Evidence
from .looking import Seen
from .stills import STILL

_FORMS = {"rows": ROW, "looks": LOOK, "stills": STILL, "flows": FLOW, "bars": BARS, "damaged": np.dtype(np.int32)}


def to_arrays(seen: Seen) -> dict[str, np.ndarray]:
    """What was seen, by name."""
    evidence = seen.evidence
    return {
        **seen.signals.arrays(), "rows": evidence.rows, "looks": evidence.looks, "stills": evidence.stills,
        "flows": evidence.flows, "bars": evidence.bars, "damaged": seen.damaged,
        "finders": np.array([KINDS.index(k) for k in evidence.finders], np.uint8),
    }  # fmt: skip


def from_arrays(arrays: dict[str, np.ndarray] | None, start: int, end: int, rate: float) -> Seen | None:
    """What was seen of pictures ``start`` to ``end`` at a rate in frames a second, from its arrays.

    ``None`` where these are not what `to_arrays` gives.
    """
    signals = Signals.__dataclass_fields__
    if arrays is None or set(arrays) != {*signals, *_FORMS, "finders"}:
        return None
    if any(arrays[name].dtype != form for name, form in _FORMS.items()):
        return None
    finders, measured = arrays["finders"], Signals(**{name: arrays[name] for name in signals})
    if not all(0 <= k < len(KINDS) for k in finders) or len(measured.change) != end - start:
        return None
    rows, looks, stills, flows, bars, damaged = (arrays[name] for name in _FORMS)
    kinds = tuple(KINDS[k] for k in finders)
    return Seen(start, measured, Evidence(rows, looks, kinds, stills, flows, bars, rate), damaged)
