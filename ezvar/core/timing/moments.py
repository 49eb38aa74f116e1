"""Moments of the day, as they are written down."""

from __future__ import annotations

from datetime import UTC, datetime


def moment_now() -> str:
    """This moment in UTC, to the second (ISO 8601): 2026-01-31T12:00:00Z."""
    return datetime.now(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")


def said_here(moment: str) -> str:
    """A moment as it is read where we are: 31 January, 13:00."""
    return datetime.fromisoformat(moment).astimezone().strftime("%d %B, %H:%M")
