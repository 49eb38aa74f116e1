"""What is done to the colours of a lock's pictures before they are framed."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class MediaTable:
    """A colour table of one media's own, in place of the lock's: its ``path``, empty for none."""

    media: str
    path: str


@dataclass(frozen=True)
class Colouring:
    """Colour tables and tone mapping.

    ``table`` is the path of a `.cube` file for the pictures of all media, empty
    for none; ``own`` are those of single media. They are applied while they
    are ``on``. Pictures of HDR are brought to SDR before, where they are to be
    ``tone_mapped``. Titles, captions, layers of the lock and backdrops are not changed.
    """

    table: str = ""
    own: tuple[MediaTable, ...] = ()
    on: bool = True
    tone_mapped: bool = False

    def __post_init__(self) -> None:
        if len({each.media for each in self.own}) != len(self.own):
            raise ValueError("a media has one table of its own")

    @property
    def any(self) -> bool:
        """Whether there is a table, on or not."""
        return bool(self.table or any(each.path for each in self.own))

    @property
    def plain(self) -> bool:
        """Whether pictures stay as they are."""
        return not self.tone_mapped and not (self.on and self.any)

    def table_of(self, media: str) -> str:
        """The path of the table that a media's pictures go through now; empty for none."""
        if not self.on:
            return ""
        return next((each.path for each in self.own if each.media == media), self.table)
