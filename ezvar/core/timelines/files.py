"""Opening timeline files without trusting them."""

from __future__ import annotations

import os
import zipfile
import zlib
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from typing import Any

import opentimelineio as otio

from ezvar.core.errors import TimelineError, from_os
from ezvar.core.way_in import LARGEST, check_depth, decoded, open_regular, read_bytes

SUFFIXES = frozenset({".otio", ".otioz", ".edl", ".aaf"})
"""The endings of timeline files."""


def plain(value: Any) -> Any:
    """OTIO's own containers as dicts and lists."""
    if isinstance(value, Mapping):
        return {str(k): plain(v) for k, v in value.items()}
    if isinstance(value, (str, bytes)) or value is None:
        return value
    if hasattr(value, "__iter__"):
        return [plain(v) for v in value]
    return value


def read_text(path: str | os.PathLike[str]) -> str:
    """The text of an edit decision list, in UTF-8, UTF-16 or an old eight-bit encoding."""
    data = read_bytes(path, TimelineError, "an edit decision list")
    wide = data.startswith((b"\xff\xfe", b"\xfe\xff"))
    if not wide and b"\0" in data[:65_536]:
        raise TimelineError("it is not an edit decision list", file=path, remedy="Choose another file")
    text = decoded(data, ("utf-16",) if wide else ("utf-8-sig", "cp1252", "latin-1"))
    if text is None:
        raise TimelineError("its text is damaged", file=path, remedy="Export it again")
    return text


def open_otio(path: str | os.PathLike[str], remedy: str = "Export it again as OTIO") -> otio.schema.Timeline:
    """An OpenTimelineIO file (.otio). Raises `TimelineError` for what is none, or holds nothing."""
    return parse_otio(read_bytes(path, TimelineError, "a timeline"), path, remedy)


def parse_otio(data: bytes, path: str | os.PathLike[str], remedy: str) -> otio.schema.Timeline:
    """OpenTimelineIO's JSON as a timeline; ``path`` is only for what is said."""
    text = decoded(data, ("utf-8",))
    if text is None:
        raise TimelineError("it is not a timeline that can be read", file=path, remedy=remedy)
    try:
        check_depth(data)
    except ValueError as error:
        raise TimelineError("timelines are nested in it too deeply", file=path, remedy="Flatten the edit") from error
    try:
        found = otio.adapters.read_from_string(text, "otio_json")
    except (otio.exceptions.OTIOError, ValueError, KeyError, TypeError, RuntimeError) as error:  # its readers' own
        raise TimelineError("it is not a timeline that can be read", file=path, remedy=remedy) from error
    if not isinstance(found, otio.schema.Timeline):
        raise TimelineError("it holds no timeline", file=path, remedy=remedy)
    if not any(True for _ in found.find_clips()):
        raise TimelineError("there is nothing in it", file=path, remedy=remedy)
    return found


def bundled_timeline(path: str | os.PathLike[str]) -> otio.schema.Timeline:
    """The timeline of an OpenTimelineIO bundle (.otioz)."""
    remedy = "Bundle the edit again"
    with opened_bundle(path) as bundle:
        content = next((m for m in bundle.infolist() if m.filename == "content.otio"), None)
        if content is None or content.file_size > LARGEST["a timeline"]:
            raise TimelineError("there is no timeline in it", file=path, remedy=remedy)
        with bundle.open(content) as member:
            data = member.read(LARGEST["a timeline"])
    return parse_otio(data, path, remedy)


@contextmanager
def opened_bundle(path: str | os.PathLike[str]) -> Iterator[zipfile.ZipFile]:
    """An archive, opened; what is wrong with it, put into a `TimelineError`."""
    with (
        reading_bundle(path),
        open_regular(path, TimelineError, "a bundle") as file,
        zipfile.ZipFile(file) as bundle,
    ):
        yield bundle


@contextmanager
def reading_bundle(path: str | os.PathLike[str]) -> Iterator[None]:
    """Put what goes wrong while an archive is read into a `TimelineError`."""
    try:
        yield
    except OSError as error:
        raise from_os(error, "opened", path, TimelineError) from error
    except (zipfile.BadZipFile, zlib.error, EOFError, RuntimeError, ValueError, NotImplementedError) as error:
        raise TimelineError(
            "it is not a bundle that can be read", file=path, remedy="Bundle the edit again"
        ) from error  # fmt: skip


def open_aaf(path: str | os.PathLike[str]) -> otio.schema.Timeline:
    """An AAF file, through OpenTimelineIO's adapter."""
    with open_regular(path, TimelineError, "a timeline") as head:
        if head.read(8) != b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1":
            raise TimelineError("it is not an AAF file", file=path, remedy="Export it again as AAF")
    try:
        found = otio.adapters.read_from_file(str(path), "AAF")
    except Exception as error:  # the adapter raises whatever its parser runs into
        raise TimelineError(
            f"it is not an AAF that can be read ({type(error).__name__})",
            file=path,
            remedy="Export it again, or as OTIO",
        ) from error
    if isinstance(found, otio.schema.SerializableCollection):
        found = next((t for t in found if isinstance(t, otio.schema.Timeline)), None)
    if not isinstance(found, otio.schema.Timeline):
        raise TimelineError("there is no timeline in it", file=path, remedy="Export the edit itself as AAF")
    return found
