"""What the reviewer says of the decisions that were handed out."""

from __future__ import annotations

import copy
import random
from datetime import UTC, datetime, timedelta
from typing import Any

KIND = "ezvar decisions"
NOTES = (
    "Hold on the face, let the lantern go.", "A little more room above.", "Good, but it comes too late.",
    "Must the sign stay readable here?", "折り紙の手を中央に。", "الرجاء إبقاء الوجه في الوسط.",
    "Lieber ruhig lassen, es wackelt.", "Both of them, please, if it can be.",
)  # fmt: skip
_AGREES, _MOVES = 0.7, 0.15  # parts of the framings; the rest is noted and wants a change


def answered(data: dict[str, Any], name: str, seed: int) -> dict[str, Any]:
    """The decisions as they come back: most agreed, some windows moved, some with a note. The same for a seed."""
    chance, made = random.Random(seed), copy.deepcopy(data)
    begun = datetime.now(UTC).replace(microsecond=0)
    for master in made["masters"]:
        for number, decision in enumerate(master["decisions"]):
            framing, luck = decision["framing"], chance.random()
            if luck < _AGREES:
                framing["verdict"] = "agreed"
            elif luck < _AGREES + _MOVES:
                _move(framing, chance)
            else:
                framing["verdict"] = "change"
                at = chance.randrange(max(1, decision["frames"]))
                note = {
                    "id": f"{chance.randrange(16**8):08x}", "shot": decision["shot"], "master": master["id"],
                    "start": at, "end": at + 1, "author": name, "text": chance.choice(NOTES),
                    "moment": (begun + timedelta(seconds=number)).strftime("%Y-%m-%dT%H:%M:%SZ"),
                }  # fmt: skip
                told = {"start": decision["start"], "frames": decision["frames"], "note": note}
                master.setdefault("notes", []).append(told)
    return made


def _move(framing: dict[str, Any], chance: random.Random) -> None:
    """Move all windows of the first pane a little to a side."""
    by = chance.choice((-1, 1)) * chance.uniform(0.02, 0.08)
    for key in framing["panes"][0].get("keys", ()):
        key["cx"] = min(1.0, max(0.0, key.get("cx", 0.5) + by))


# Every kind of damage that files suffer on their way


def truncated(text: str, chance: random.Random) -> str:
    """Its end is missing."""
    return text[: chance.randrange(len(text) // 3, len(text) - 2)]


def reordered(data: dict[str, Any], chance: random.Random) -> None:
    """Masters and decisions come in another order."""
    chance.shuffle(data["masters"])
    for master in data["masters"]:
        chance.shuffle(master["decisions"])


def stripped(data: dict[str, Any], chance: random.Random) -> None:
    """What says which decision both sides had is gone, and so is all that only tells."""
    for decision in _decisions(data):
        for name in ("base", "number", "doubt", "why"):
            decision.pop(name, None)


def rounded(data: dict[str, Any], chance: random.Random) -> None:
    """Numbers have three places left."""
    for decision in _decisions(data):
        decision["framing"] = _rounded(decision["framing"])


def another_lock(data: dict[str, Any], chance: random.Random) -> None:
    """It is about another edit, of other media."""
    for decision in _decisions(data):
        decision["source"] = {"media": "another", "start": "0", "step": "1"}
    data["lock"] = {**data["lock"], "identity": f"{chance.randrange(16**12):012x}"}


def doubled(data: dict[str, Any], chance: random.Random) -> None:
    """All is there twice."""
    for master in data["masters"]:
        master["decisions"] += copy.deepcopy(master["decisions"])


def senseless(data: dict[str, Any], chance: random.Random) -> None:
    """Some values are of another kind, or far too large."""
    for decision in _decisions(data):
        if chance.random() < 0.3:
            decision["framing"]["panes"] = chance.choice(
                ([], "none", [{"keys": [{"frame": 0, "zoom": 1e300}]}], None, 7)
            )


def hostile(data: dict[str, Any], chance: random.Random) -> None:
    """Notes hold formulas and scripts, and a framing names a file elsewhere."""
    for master in data["masters"]:
        for told in master.get("notes", ()):
            told["note"]["text"] = chance.choice(
                ("=HYPERLINK(1)", "<script>alert(1)</script>", "\u202e../../etc", "x" * 99_999)
            )
    for decision in _decisions(data):
        if chance.random() < 0.1:
            decision["framing"]["panes"][0]["backdrop"] = {"kind": "media", "media": "/etc/passwd"}


DAMAGES = {
    "reordered": reordered, "stripped": stripped, "rounded": rounded, "another-lock": another_lock, "doubled": doubled,
    "senseless": senseless, "hostile": hostile,
}  # fmt: skip
"""By name; ``truncated`` is one of texts."""


def _decisions(data: dict[str, Any]) -> list[dict[str, Any]]:
    return [decision for master in data["masters"] for decision in master["decisions"]]


def _rounded(values: Any) -> Any:
    if isinstance(values, dict):
        return {name: _rounded(value) for name, value in values.items()}
    if isinstance(values, list):
        return [_rounded(value) for value in values]
    return round(values, 3) if isinstance(values, float) else values
