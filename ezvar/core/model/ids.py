"""Ids of shots, masters and drawn subjects."""

from __future__ import annotations

import secrets


def new_id() -> str:
    """An id that is new everywhere."""
    return secrets.token_hex(4)
