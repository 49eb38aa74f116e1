"""How often what is looked for, in frames of a lock's rate: times are the same whatever the rate."""

from __future__ import annotations

from dataclasses import dataclass

_MOVING = 0.16  # seconds between the pictures that movement is seen in


@dataclass(frozen=True)
class Cadence:
    """The looks at a lock of ``rate`` frames a second.

    >>> Cadence(25).moving, Cadence(25).people, Cadence(50).people, Cadence(10).people
    (4, 16, 32, 8)
    """

    rate: float

    @property
    def moving(self) -> int:
        """Frames from one look for movement to the next; every other look falls on one of them."""
        return max(1, round(_MOVING * self.rate))

    @property
    def people(self) -> int:
        """Frames from one look for faces, people and things to the next: half of them where hardly anything moves, a
        quarter where nothing does, and twice where something moves quickly."""
        return 4 * self.moving

    @property
    def text(self) -> int:
        """Frames from one look for text, and from one still, to the next where little changes: two seconds."""
        return 12 * self.moving

    @property
    def before(self) -> int:
        """Frames before a stretch on which what is seen of it depends."""
        return 6 * self.moving

    def frames(self, seconds: float) -> int:
        """A time in frames, at least one.

        >>> Cadence(25).frames(3.0), Cadence(10).frames(0.01)
        (75, 1)
        """
        return max(1, round(seconds * self.rate))
