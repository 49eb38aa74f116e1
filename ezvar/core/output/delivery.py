"""What is to be made, and what it will be called."""

from __future__ import annotations

import os
import stat
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

from ezvar.core.errors import OutputError, from_os
from ezvar.core.model import Document, Master, NamedRange, media_named
from ezvar.core.names import LONGEST, FileName, file_names, longest_name

_BEGINS = 12  # bytes that tell a movie of this family: a length, and the name of its first box (ISO/IEC 14496-12)
_BOXES = (b"ftyp", b"moov", b"mdat", b"free", b"skip", b"wide")


@dataclass(frozen=True)
class Delivery:
    """A movie to be made: a master from end to end, or one of its named ranges."""

    master: Master
    named: NamedRange | None = None

    @property
    def name(self) -> str:
        return f"{self.master.name} {self.named.name}" if self.named else self.master.name

    @property
    def key(self) -> str:
        """What tells it from all others of a document."""
        return f"{self.master.id}/{self.master.ranges.index(self.named)}" if self.named else self.master.id


def deliveries(master: Master) -> tuple[Delivery, ...]:
    """What is made of a master: its named ranges where it has any, else the whole."""
    return tuple(Delivery(master, named) for named in master.ranges) or (Delivery(master),)


def output_name(doc: Document, delivery: Delivery, most: int = LONGEST) -> str:
    """The file name of a delivery: the lock's name, the master's and the range's, safe on any disk.

    A shape 9:16 is written 9x16. No other delivery of the document has the
    same, whichever of them are made. Names have at most ``most`` bytes.
    """
    return _names(doc, most)[delivery.key].name


def renamed(doc: Document, wanted: Iterable[Delivery], most: int = LONGEST) -> list[str]:
    """What is to be said of the names that deliveries get, in sentences: those numbered or shortened."""
    names = _names(doc, most)
    return [said for delivery in wanted for said in names[delivery.key].told(delivery.name)]


def _names(doc: Document, most: int) -> dict[str, FileName]:
    every = [d for m in doc.masters for d in (Delivery(m), *(Delivery(m, named) for named in m.ranges))]
    named = file_names((f"{doc.lock.name} {d.name}" for d in every), ".mp4", most)
    return {d.key: name for d, name in zip(every, named, strict=True)}


def output_path(doc: Document, delivery: Delivery, folder: str | os.PathLike[str]) -> Path:
    """Where a delivery is made in a folder.

    Raises `OutputError` where something stands there that must not be
    replaced: media of the document, or anything but a movie.
    """
    target = Path(folder) / output_name(doc, delivery, longest_name(folder))
    try:
        facts = target.stat()
        if any(os.path.exists(m) and os.path.samefile(m, target) for m in media_named(doc)):
            raise OutputError(
                "it is the lock itself, which is never changed", file=target, remedy="Choose another folder"
            )
        movie = stat.S_ISREG(facts.st_mode) and (not facts.st_size or _is_movie(target))
    except FileNotFoundError:
        return target
    except OSError as error:
        raise from_os(error, "written", target, OutputError) from error
    if not movie:
        raise OutputError("it is there already and no movie, so it stays", file=target, remedy="Choose another folder")
    return target


def _is_movie(path: Path) -> bool:
    with path.open("rb") as file:
        return file.read(_BEGINS)[4:8] in _BOXES
