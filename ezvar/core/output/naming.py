"""What finished movies are called, and what must not be replaced by them."""

from __future__ import annotations

import os
import re
import stat
from collections.abc import Iterable, Sequence
from pathlib import Path
from string import Formatter

from ezvar.core.encoding import SUFFIXES, stem_of
from ezvar.core.errors import InputError, OutputError, from_os
from ezvar.core.model import Document, Row, media_named
from ezvar.core.names import LONGEST, FileName, file_names, longest_name
from ezvar.core.way_in import open_regular

FIELDS = ("lock", "master", "range", "width", "height", "frames", "preset")
"""What a pattern may name."""
_LONG = 64  # signs that a number of a pattern may be padded to
_BEGINS = 12  # bytes that tell a movie: a length and the name of its first box (ISO/IEC 14496-12), or EBML (RFC 8794)
_BOXES = (b"ftyp", b"moov", b"mdat", b"free", b"skip", b"wide")
_EBML = b"\x1a\x45\xdf\xa3"
_IMAGE = re.compile(r"\d{6,}\.(png|jpg|tif)")


def named(pattern: str, doc: Document, row: Row) -> str:
    """What a row is called by a pattern in Python's brace format, without a suffix.

    Knows `FIELDS`, of a number also how it is padded. Raises `InputError` for
    what is no such pattern.
    """
    master = doc.master(row.master)
    values: dict[str, str | int] = {
        "lock": doc.lock.name, "master": master.name, "range": row.label, "width": master.width,
        "height": master.height, "frames": row.end - row.start, "preset": row.preset.name,
    }  # fmt: skip
    remedy = "Write it like {lock} {master} {range}"
    try:
        said = []
        for text, field, spec, conversion in Formatter().parse(pattern):
            said.append(text)
            if field is None:
                continue
            if field not in values or conversion:
                raise InputError(f"the pattern names {{{field}}}, which is nothing here", remedy=remedy)
            if any(int(n) > _LONG for n in re.findall(r"\d+", spec or "")):
                raise InputError(f"the pattern makes {{{field}}} too long", remedy=remedy)
            said.append(format(values[field], spec or ""))
    except ValueError as error:
        raise InputError(f"the pattern {pattern} makes no sense ({error})", remedy=remedy) from error
    return " ".join("".join(said).split())


def row_names(doc: Document, rows: Sequence[Row], most: int = LONGEST) -> list[FileName]:
    """The file names of rows that stand in one folder, all different, at most ``most`` bytes long."""
    suffix = max((SUFFIXES[r.preset.picture.container] for r in rows), key=len, default="")
    found = file_names((named(r.pattern, doc, r) for r in rows), suffix, most)
    return [
        FileName(n.name.removesuffix(suffix) + SUFFIXES[r.preset.picture.container], n.shortened, n.numbered)
        for n, r in zip(found, rows, strict=True)
    ]


def renamed(doc: Document, rows: Sequence[Row], wanted: Iterable[Row] = (), most: int = LONGEST) -> list[str]:
    """What is to be said of the names that the ``wanted`` of some rows get, all by default, in sentences: those
    numbered or shortened."""
    which = {row.id for row in wanted} or {row.id for row in rows}
    names = zip(row_names(doc, rows, most), rows, strict=True)
    return [said for name, row in names if row.id in which for said in name.told(told_as(doc, row))]


def told_as(doc: Document, row: Row) -> str:
    """What a row is called when it is spoken of."""
    return f"{doc.master(row.master).name} {row.label}".strip()


def targets(
    doc: Document, rows: Sequence[Row], folder: str | os.PathLike[str], wanted: Iterable[Row] = ()
) -> dict[str, Path]:
    """Where the ``wanted`` of some rows are made, all by default, by their ids: each in its own folder, or in the one
    given. Of two that come to one name the second is numbered.

    Raises `OutputError` where something stands there that must stay.
    """
    which = {row.id for row in wanted} or {row.id for row in rows}
    by_folder: dict[Path, list[Row]] = {}
    for row in rows:
        by_folder.setdefault(Path(row.folder or folder), []).append(row)
    found = {}
    for place, those in by_folder.items():
        for name, row in zip(row_names(doc, those, longest_name(place)), those, strict=True):
            if row.id in which:
                found[row.id] = _where(doc, row, place / name.name)
    return found


def _where(doc: Document, row: Row, target: Path) -> Path:
    if row.exists == "number":
        number = 1
        suffix = SUFFIXES[row.preset.picture.container]
        stem = target.name.removesuffix(suffix)
        while os.path.lexists(target):
            number += 1
            target = target.with_name(f"{stem} ({number}){suffix}")
    elif row.exists == "leave" and os.path.lexists(target):
        raise OutputError("it is there already and stays", file=target, remedy="Remove it, or choose to replace it")
    may_write(doc, row, target)
    return target


def may_write(doc: Document, row: Row, target: Path) -> None:
    """Raise `OutputError` where something stands at a target that must not be replaced: media of the document, or
    anything but a movie, or images that were made."""
    try:
        facts = target.stat()
        there = [m for m in media_named(doc) if os.path.exists(m)]
        if any(os.path.samefile(path, target) for media in there for path in (media, os.path.dirname(media))):
            raise OutputError(
                "it is the lock itself, which is never changed", file=target, remedy="Choose another folder"
            )
        if row.preset.picture.container == "images":
            ours = stat.S_ISDIR(facts.st_mode) and all(_is_image(target, each) for each in os.listdir(target))
        else:
            ours = stat.S_ISREG(facts.st_mode) and (not facts.st_size or _is_movie(target))
    except FileNotFoundError:
        return
    except OSError as error:
        raise from_os(error, "written", target, OutputError) from error
    if not ours:
        raise OutputError("it is there already and no movie, so it stays", file=target, remedy="Choose another folder")


def _is_image(folder: Path, name: str) -> bool:
    """Whether something in a folder is named as the images are that are made there."""
    stem = stem_of(folder)
    return name.startswith(stem) and _IMAGE.fullmatch(name.removeprefix(stem)) is not None


def _is_movie(path: Path) -> bool:
    with open_regular(path, OutputError, "a movie") as file:
        begins = file.read(_BEGINS)
    return begins[4:8] in _BOXES or begins.startswith(_EBML)
