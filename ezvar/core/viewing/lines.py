"""How each master's windows are drawn, wherever they are: told apart by dash as well as by colour."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class MasterLine:
    """A line's colours, as #rrggbb, over paper and over pictures, and its dash: lengths of strokes and gaps in widths
    of the line, none for a whole line."""

    on_paper: str
    on_picture: str
    dash: tuple[float, ...]


MASTER_LINES = (
    MasterLine("#a56a10", "#f0b64d", ()),
    MasterLine("#1f7593", "#74cbe2", (4, 2)),
    MasterLine("#a3325f", "#f093b4", (1, 1.6)),
    MasterLine("#4f6b1c", "#b7d977", (6, 2, 1, 2)),
    MasterLine("#5b4a9c", "#b6a8f0", (9, 3)),
)


def master_line(place: int) -> MasterLine:
    """The line of the master at a place in the list, from 0; after the last they begin again."""
    return MASTER_LINES[place % len(MASTER_LINES)]
