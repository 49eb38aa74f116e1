"""What a finished movie was checked for, and what was found wrong with it."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Flaw:
    """Something that is not as it should be, in a sentence; with the lock frames that it concerns, where it concerns
    some."""

    said: str
    start: int | None = None
    end: int | None = None


@dataclass(frozen=True, slots=True)
class Check:
    """One thing that was looked at, in a few words, and its flaws."""

    what: str
    flaws: tuple[Flaw, ...] = ()


@dataclass(frozen=True)
class Report:
    """All that a movie was checked for."""

    checks: tuple[Check, ...] = ()

    @property
    def flaws(self) -> tuple[Flaw, ...]:
        """All flaws, in the order of the checks."""
        return tuple(flaw for check in self.checks for flaw in check.flaws)

    @property
    def problems(self) -> tuple[str, ...]:
        """All flaws in sentences."""
        return tuple(flaw.said for flaw in self.flaws)
