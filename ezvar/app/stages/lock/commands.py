"""The lock menu."""

from __future__ import annotations

from PyQt6.QtWidgets import QFileDialog

from ezvar.app.commands import Workbench, lock_open
from ezvar.app.commands.file import OPENS
from ezvar.app.kit.commands import Menu
from ezvar.core import edits

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
