"""Unpacking the media that a bundle of a timeline brings with it, without trusting it."""

from __future__ import annotations

import os
from collections.abc import Mapping
from pathlib import Path

from ezvar.core.errors import TimelineError
from ezvar.core.store import in_place_of
from ezvar.core.timelines import Member, bundle_members, member_bytes


def unpack_bundle(path: str | os.PathLike[str], into: Path) -> None:
    """Put the media of an OpenTimelineIO bundle into a folder.

    Members whose names would leave the folder are refused, as is a bundle
    that would unpack to more than the disk has free.
    """
    members = bundle_members(path)
    for member in members:
        parts = Path(member.name.replace("\\", "/")).parts
        if not parts or ".." in parts or parts[0].startswith("/") or ":" in parts[0] or "\0" in member.name:
            raise TimelineError(f"it holds “{member.name}”, which would leave its folder", file=path)
    _unpack({k: member for k, member in enumerate(members) if member.name.startswith("media/")}, into, path)


def _unpack(members: Mapping[int, Member], into: Path, path: str | os.PathLike[str]) -> None:
    into.mkdir(parents=True, exist_ok=True)
    total = sum(member.size for member in members.values())
    disk = os.statvfs(into)
    if total > disk.f_bavail * disk.f_frsize:
        raise TimelineError("its media need more room than the disk has", file=path, remedy="Free some space")
    for number, member in members.items():
        target = into / member.name
        if target.is_file() and target.stat().st_size == member.size:
            continue
        target.parent.mkdir(parents=True, exist_ok=True)
        with in_place_of(target, TimelineError) as part, part.open("wb") as out:
            for piece in member_bytes(path, number, member.size):
                out.write(piece)
