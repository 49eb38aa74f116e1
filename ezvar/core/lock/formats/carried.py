"""What others say in a timeline's metadata, kept as it is, to be handed out again unchanged."""

from __future__ import annotations

import json
from typing import Any

import opentimelineio as otio

from .timeline_values import NAMESPACE

LARGEST = 65_536
"""Signs of one item's metadata that are kept."""


def carried_of(item: otio.core.SerializableObjectWithMetadata) -> dict[str, Any]:
    """The metadata of an item, but ours, in the library's own JSON; empty where there is none."""
    if not len(item.metadata) or set(item.metadata) == {NAMESPACE}:
        return {}
    values: dict[str, Any] = json.loads(otio.core.serialize_json_to_string(item.metadata))
    values.pop(NAMESPACE, None)
    return values


def carried_text(**items: otio.core.SerializableObjectWithMetadata | None) -> str | None:
    """The metadata of items by what they are, as text; empty where there is none, ``None`` where it is too much."""
    found = {name: values for name, item in items.items() if item is not None and (values := carried_of(item))}
    text = json.dumps(found, ensure_ascii=False) if found else ""
    return text if len(text) <= LARGEST else None
