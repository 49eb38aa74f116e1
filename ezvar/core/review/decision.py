"""What a decision is, and its name: by which both sides of a handoff tell what has changed."""

from __future__ import annotations

import hashlib
import json
from typing import Any

from ezvar.core.model import Framing
from ezvar.core.store import dump_decisions

VERSION = 1
_DECIDED = ("panes", "arrangement", "sound", "verdict")
"""What of a framing is the decision: not how it came about, its reasons and wording, nor what is held beside it."""


def digest(framing: Framing) -> str:
    """A short name for the decision in a framing, wherever it hangs, with the version of what it covers."""
    values = dump_decisions(framing)
    text = json.dumps({name: values[name] for name in _DECIDED}, sort_keys=True)
    if "-0.0" in text:
        text = json.dumps(_unsigned({name: values[name] for name in _DECIDED}), sort_keys=True)
    return f"{VERSION}-{hashlib.sha256(text.encode()).hexdigest()[:16]}"


def same(one: Framing, other: Framing) -> bool:
    """Whether two framings are the same decision, as their digests are, which take longer."""
    decided = [(f.panes, f.arrangement, f.sound, f.verdict) for f in (one, other)]
    return decided[0] == decided[1]


def _unsigned(values: Any) -> Any:
    """Values in which a zero has no sign: it is the same decision, and files do not tell both apart."""
    if isinstance(values, dict):
        return {name: _unsigned(value) for name, value in values.items()}
    if isinstance(values, list):
        return [_unsigned(value) for value in values]
    return values + 0.0 if isinstance(values, float) else values


def is_as(framing: Framing, said: str) -> bool:
    """Whether a framing's decision is the one that a digest names, of whatever version that is."""
    return digest(framing) == said if "-" in said else _first(framing) == said


def _first(framing: Framing) -> str:
    """The digest as it was before its versions had names: of everything, with the shot and the master."""
    text = json.dumps(dump_decisions(framing), sort_keys=True)
    return hashlib.sha256(text.encode()).hexdigest()[:16]
