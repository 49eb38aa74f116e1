"""Whether the captions of a row are there: in its movie, or in files beside it."""

from __future__ import annotations

from collections import Counter

from ezvar.core.errors import EzvarError
from ezvar.core.media import open_movie
from ezvar.core.model import Check, Flaw
from ezvar.core.text import read_captions

from ..captions import beside_of, captions_in
from ..orders import Order


def check_captions(order: Order) -> Check | None:
    """Whether every caption of the row's range is there, as often as it should be; ``None`` where they are burnt in or
    not wanted."""
    wanted = [(track.name or track.id, len(captions)) for track, captions in captions_in(order)]
    if order.row.preset.captions == "embedded":
        found = _embedded(str(order.target))
        said = [f"It has {len(found)} tracks of captions, not {len(wanted)}."] if len(found) != len(wanted) else []
        for (name, count), there in zip(wanted, found, strict=False):
            if there != count:
                said.append(f"Its captions {name} are {there}, not {count}.")
    elif order.row.preset.captions == "beside":
        said = []
        for path, (_, count) in zip(beside_of(order), wanted, strict=True):
            try:
                there = len(read_captions(path).captions)
            except EzvarError as error:
                said.append(str(error))
                continue
            if there != count:
                said.append(f"{path.name} holds {there} captions, not {count}.")
    else:
        return None
    return Check("captions present", tuple(Flaw(each) for each in said))


def _embedded(path: str) -> list[int]:
    """How many captions each track in a movie has."""
    with open_movie(path) as container:
        streams = container.streams.subtitles
        if not streams:
            return []
        found = Counter(p.stream_index for p in container.demux(*streams) if p.size > 2)
        return [found[stream.index] for stream in streams]
