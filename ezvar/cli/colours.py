"""The colours of a project's pictures."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from ezvar.core.progress import CancelToken

from .parser import command, say_who_has_it

if TYPE_CHECKING:
    from ezvar.core.model import Document

    from .parser import Commands


def add(commands: Commands) -> None:
    """Declare this command."""
    colours = command(commands, "colours", _colours, "choose colour tables, bring HDR to SDR, and say how it stands")
    colours.add_argument("project")
    table = colours.add_mutually_exclusive_group()
    table.add_argument("--table", metavar="FILE", help="a .cube file for the pictures of all media")
    table.add_argument("--no-table", action="store_true", help="none")
    colours.add_argument("--media", metavar="NAME", help="for the media of this name alone")
    way = colours.add_mutually_exclusive_group()
    way.add_argument("--sdr", action="store_true", help="bring HDR pictures to SDR")
    way.add_argument("--hdr", action="store_true", help="leave HDR pictures as they are")


def _colours(options: argparse.Namespace, cancel: CancelToken) -> int:
    from ezvar.core import edits
    from ezvar.core.media import read_cube
    from ezvar.core.store import load_project, update_project

    def change(doc: Document) -> tuple[Document, Document]:
        media = _media_named(doc, options.media) if options.media else None
        if options.table or options.no_table:
            path = str(Path(options.table).resolve()) if options.table else ""
            doc = edits.set_table(doc, path, media)
        if options.sdr or options.hdr:
            doc = edits.set_tone_mapped(doc, options.sdr)
        return doc, doc

    if options.table:
        read_cube(options.table)  # which says what is wrong with it, before anything is changed
    changes = options.table or options.no_table or options.sdr or options.hdr
    if changes:
        say_who_has_it(options.project)
    doc = update_project(options.project, change) if changes else load_project(options.project)
    for line in _said(doc):
        print(line)
    return 0


def _media_named(doc: Document, name: str) -> str:
    from ezvar.core.errors import InputError
    from ezvar.core.names import readable

    found = [m.id for m in doc.lock.media if name in (m.name, Path(m.path).name)]
    if len(found) != 1:
        names = ", ".join(readable(m.name or Path(m.path).name) for m in doc.lock.media if m.kind != "black")
        raise InputError(f"there is no one media “{name}”", remedy=f"Choose one of {names}")
    return found[0]


def _said(doc: Document) -> list[str]:
    from ezvar.core.names import readable

    asked, known = doc.colouring, {m.id: m.name or Path(m.path).name for m in doc.lock.media}
    said = [f"table: {readable(asked.table) or 'none'}{'' if asked.on else ', off'}"]
    said += [f"{readable(known.get(each.media, each.media))}: {readable(each.path) or 'none'}" for each in asked.own]
    return [*said, f"HDR: {'as SDR' if asked.tone_mapped else 'as it is'}"]
