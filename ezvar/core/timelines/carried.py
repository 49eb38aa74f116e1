"""What others say in a timeline's metadata, kept as it is, to be handed out again unchanged."""

from __future__ import annotations

import json
from collections.abc import Iterable
from typing import Any

import opentimelineio as otio

from .values import NAMESPACE, WINDOW

LARGEST = 65_536
"""Signs of one item's metadata that are kept."""


def carried_of(item: otio.core.SerializableObjectWithMetadata) -> dict[str, Any]:
    """The metadata of an item, but ours, in the library's own JSON; empty where there is none."""
    if not len(item.metadata) or set(item.metadata) == {NAMESPACE}:
        return {}
    values: dict[str, Any] = json.loads(otio.core.serialize_json_to_string(item.metadata))
    values.pop(NAMESPACE, None)
    return values


def carried_text(
    effects: Iterable[otio.schema.Effect] = (), **items: otio.core.SerializableObjectWithMetadata | None
) -> str | None:
    """The metadata of items by what they are, as text; empty where there is none, ``None`` where it is too much.

    Effects are kept whole, but those that say windows; of what gives a clip
    its speed, which is a clip's own, the metadata is.
    """
    found: dict[str, Any] = {
        name: values for name, item in items.items() if item is not None and (values := carried_of(item))
    }
    for effect in effects:
        if isinstance(effect, otio.schema.LinearTimeWarp):
            if values := carried_of(effect):
                found.setdefault("speed", {}).update(values)
        elif effect.effect_name != WINDOW:
            found.setdefault("effects", []).append(json.loads(effect.to_json_string()))
    text = json.dumps(found, ensure_ascii=False) if found else ""
    return text if len(text) <= LARGEST else None


def with_mixes(text: str, comes: str = "", goes: str = "") -> str:
    """What is carried of a clip, with what is carried of the transitions by which it comes and goes."""
    found = json.loads(text) if text else {}
    for name, mix in (("comes", comes), ("goes", goes)):
        if mix:
            found[name] = json.loads(mix)["transition"]
    return json.dumps(found, ensure_ascii=False) if found else ""
