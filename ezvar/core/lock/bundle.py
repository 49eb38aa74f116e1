"""Unpacking the media that a bundle of a timeline brings with it, without trusting it."""

from __future__ import annotations

import os
import zipfile
from pathlib import Path

from ezvar.core.errors import TimelineError
from ezvar.core.store import in_place_of
from ezvar.core.timelines import opened_bundle


def unpack_bundle(path: str | os.PathLike[str], into: Path) -> None:
    """Put the media of an OpenTimelineIO bundle into a folder.

    Members whose names would leave the folder are refused, as is a bundle
    that would unpack to more than the disk has free.
    """
    with opened_bundle(path) as bundle:
        members = [m for m in bundle.infolist() if not m.is_dir()]
        for member in members:
            parts = Path(member.filename.replace("\\", "/")).parts
            if not parts or ".." in parts or parts[0].startswith("/") or ":" in parts[0]:
                raise TimelineError(f"it holds “{member.filename}”, which would leave its folder", file=path)
        _unpack(bundle, [m for m in members if m.filename.startswith("media/")], into, path)


def _unpack(bundle: zipfile.ZipFile, members: list[zipfile.ZipInfo], into: Path, path: str | os.PathLike[str]) -> None:
    into.mkdir(parents=True, exist_ok=True)
    total = sum(m.file_size for m in members)
    disk = os.statvfs(into)
    if total > disk.f_bavail * disk.f_frsize:
        raise TimelineError("its media need more room than the disk has", file=path, remedy="Free some space")
    for member in members:
        target = into / member.filename
        if target.is_file() and target.stat().st_size == member.file_size:
            continue
        target.parent.mkdir(parents=True, exist_ok=True)
        with bundle.open(member) as source, in_place_of(target, TimelineError) as part, part.open("wb") as out:
            left = member.file_size  # not more than it states, whatever it unpacks to
            while left and (block := source.read(min(left, 1 << 20))):
                out.write(block)
                left -= len(block)
