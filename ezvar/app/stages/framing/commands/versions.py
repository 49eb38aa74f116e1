"""Versions of a framing, held beside it."""

from __future__ import annotations

from ezvar.app.commands import loop
from ezvar.app.kit.commands import Menu
from ezvar.core import edits

from ..tools import FramingTools, framing_there

VERSIONS: Menu[FramingTools] = Menu("Framing › Versions", when=framing_there, everywhere=False)


@VERSIONS.command("framing.hold", "Hold this version beside", "V")
def hold(tools: FramingTools) -> None:
    place = tools.place
    if place.doc.framing(place.shot.id, place.master.id) is None:
        return
    try:
        doc = edits.hold(place.doc, place.shot.id, place.master.id)
    except ValueError as error:
        tools.messages.say(f"{error}. Keep one of them first.")
        return
    tools.project.edit(f"Hold a version, shot {doc.place_of(place.shot.id) + 1}", doc)


@VERSIONS.command("framing.next_held", "Next version", "Shift+V")
def next_version(tools: FramingTools) -> None:
    place = tools.place
    if not place.framing.held:
        tools.messages.say("No version is held beside yet.")
        return
    if tools.work.is_agreed():
        return
    doc = place.doc
    for k in range(len(place.framing.held)):  # the first comes, the present one goes to the end
        doc = edits.swap_held(doc, place.shot.id, place.master.id, k)
    tools.project.edit(f"Next version, shot {doc.place_of(place.shot.id) + 1}", doc)


@VERSIONS.command("framing.compare", "Play the versions side by side", "Ctrl+Shift+P")
def compare_versions(tools: FramingTools) -> None:
    tools.well.show_versions()
    loop.run(tools.bench)


@VERSIONS.command("framing.keep", "Keep this version only", "Ctrl+K")
def keep_version(tools: FramingTools) -> None:
    place = tools.place
    if place.framing.held:
        doc = edits.keep_present(place.doc, place.shot.id, place.master.id)
        tools.project.edit(f"Keep this version, shot {doc.place_of(place.shot.id) + 1}", doc)
