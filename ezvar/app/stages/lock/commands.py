"""The lock menu."""

from __future__ import annotations

from PyQt6.QtWidgets import QFileDialog

from ezvar.app.commands import Workbench, lock_open
from ezvar.app.commands.file import OPENS
from ezvar.app.kit.commands import Menu
from ezvar.core import edits
from ezvar.core.errors import EzvarError
from ezvar.core.media import CUBE_SUFFIX, read_cube

LOCK: Menu[Workbench] = Menu("Lock", when=lock_open)


@LOCK.command("lock.look", "Look for missing media in a folder…", "Ctrl+L")
def look_for_media(bench: Workbench) -> None:
    folder = QFileDialog.getExistingDirectory(bench.widget, "Where to look for missing media")
    if folder:
        bench.desk.lock_work.search_media([folder])


@LOCK.command("lock.uses", "Frame the full source, or what the edit showed", "E", everywhere=False)
def turn_uses(bench: Workbench) -> None:
    project, shot = bench.session.project, bench.session.at.shot
    if shot is not None:
        doc = edits.turn_uses(project.document, shot.id)
        place = doc.place_of(shot.id)
        project.edit(f"Frame {doc.shots[place].uses}, shot {place + 1}", doc)
        bench.session.messages.say(f"Shot {place + 1} frames {doc.shots[place].uses} now.")


@LOCK.command("lock.rule", "Blend frames of other rates, or show the nearest")
def turn_rule(bench: Workbench) -> None:
    doc = edits.turn_rule(bench.session.project.document)
    bench.session.project.edit(f"Frames of other rates: {doc.lock.rule}", doc)
    bench.session.messages.say(f"Media of another rate show their frames {doc.lock.rule} now.")


@LOCK.command("lock.compare", "Compare with a reference movie…")
def compare(bench: Workbench) -> None:
    path, _ = QFileDialog.getOpenFileName(bench.widget, "The flat reference movie of this lock")
    if path:
        bench.desk.lock_work.compare(path)


@LOCK.command("lock.placements", "Find placements by a reference movie…")
def find_placements(bench: Workbench) -> None:
    path, _ = QFileDialog.getOpenFileName(bench.widget, "The flat movie that shows where the pictures were placed")
    if path:
        bench.desk.lock_work.find_placements(path)


@LOCK.command("lock.relock", "Take a changed lock or a shorter edit in…")
def relock(bench: Workbench) -> None:
    path, _ = QFileDialog.getOpenFileName(bench.widget, "The changed lock, or the shorter edit", "", OPENS)
    if path:
        bench.desk.lock_work.relock(path)


def _has_table(bench: Workbench) -> bool:
    doc = bench.session.project.doc
    return doc is not None and doc.colouring.any


def _table_here(bench: Workbench, title: str) -> str:
    """A colour table that somebody chooses, once it was read; empty where none was."""
    path, _ = QFileDialog.getOpenFileName(bench.widget, title, "", f"Colour tables (*{CUBE_SUFFIX})")
    try:
        if path:
            read_cube(path)
    except EzvarError as error:
        bench.session.messages.say_problem(str(error))
        return ""
    return path


@LOCK.command("lock.table", "Colour table for all media…")
def choose_table(bench: Workbench) -> None:
    project = bench.session.project
    if path := _table_here(bench, "A colour table for the pictures of all media"):
        project.edit("Choose a colour table", edits.set_table(project.document, path))


@LOCK.command("lock.table_off", "Take the colour table off", when=_has_table)
def take_table_off(bench: Workbench) -> None:
    project = bench.session.project
    project.edit("Take the colour table off", edits.set_table(project.document, ""))


@LOCK.command("lock.media_table", "Colour table for the media shown here…")
def choose_media_table(bench: Workbench) -> None:
    project, shot = bench.session.project, bench.session.at.shot
    if shot is None:
        return
    media = project.document.media_of(shot)
    if path := _table_here(bench, f"A colour table for {media.name or media.path} alone"):
        doc = edits.set_table(project.document, path, media.id)
        project.edit("Choose a colour table for a media", doc)


@LOCK.command("lock.media_table_off", "No colour table for the media shown here", when=_has_table)
def take_media_table_off(bench: Workbench) -> None:
    project, shot = bench.session.project, bench.session.at.shot
    if shot is not None:
        doc = edits.set_table(project.document, "", project.document.media_of(shot).id)
        project.edit("No colour table for a media", doc)


@LOCK.command("lock.tables", "Colour tables on or off", "Ctrl+J", when=_has_table)
def turn_tables(bench: Workbench) -> None:
    project = bench.session.project
    doc = edits.turn_tables(project.document)
    project.edit(f"Colour tables {'on' if doc.colouring.on else 'off'}", doc)
    bench.session.messages.say(f"Colour tables are {'on' if doc.colouring.on else 'off'} now.")


@LOCK.command("lock.tone", "HDR pictures as SDR, or as they are")
def turn_tone_mapping(bench: Workbench) -> None:
    project = bench.session.project
    doc = edits.set_tone_mapped(project.document, not project.document.colouring.tone_mapped)
    project.edit("HDR pictures as SDR" if doc.colouring.tone_mapped else "HDR pictures as they are", doc)
