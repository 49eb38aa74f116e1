"""What waits in each stage of the work, said of a document."""

from __future__ import annotations

from collections.abc import Sequence

from .framing import Tally
from .model import Document, Listed, Makings, cut_places

_TALLY = Tally()  # counts on from the document that was asked about last


class _WaitingCuts:
    """Counts the cuts that wait, anew only where they are others than those counted last."""

    def __init__(self) -> None:
        self._of: tuple[object, object] = (None, None)
        self._count = 0

    def count(self, doc: Document) -> int:
        if self._of[0] is not doc.shots or self._of[1] is not doc.passed:
            self._of = doc.shots, doc.passed
            self._count = sum(place.waits for place in cut_places(doc))
        return self._count


_CUTS = _WaitingCuts()


def masters_waiting(doc: Document, looked_through: bool) -> int | None:
    """In the lock stage nothing waits once there is a master; nothing can be said before."""
    return 0 if doc.masters else None


def cuts_waiting(doc: Document, looked_through: bool) -> int | None:
    """The cuts, and changes passed over, that need a look; ``None`` before a movie's cuts were looked for."""
    if not looked_through and len(doc.shots) == 1:
        return None
    return _CUTS.count(doc)


def framings_waiting(doc: Document, looked_through: bool) -> int | None:
    """The framings of all masters that need a look; ``None`` before there are any."""
    return len(_TALLY.count(doc.framings).waiting) if doc.framings else None


def verdicts_waiting(doc: Document, looked_through: bool) -> int | None:
    """The framings that a reviewer wants changed; where there are none, 0 once all are agreed."""
    tally = _TALLY.count(doc.framings)
    return tally.changes or (0 if tally.all_agreed else None)


def rows_waiting(listed: Sequence[Listed], makings: Makings) -> int | None:
    """The rows of the output list that are not made, or have failed their check; ``None`` before any was ordered."""
    if not makings.finished and not makings.ordered:
        return None
    good = {f.row.id for f in makings.finished if not f.report.flaws} - {o.row.id for o in makings.ordered}
    return sum(row.id not in good for row in listed)
