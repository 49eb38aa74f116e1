"""Where the files are that a project names: beside it as far as they can be, so that all move together."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path
from typing import Any

Values = dict[str, Any]


def beside(document: Values, folder: Path) -> None:
    """Let a document's plain values name files in a folder, or below it, by their way from there.

    Others stay absolute, with the way from the folder as a second guess.
    """
    for holder, key in named_files(document):
        way = os.path.relpath(holder[key], folder)
        if way.startswith(".."):
            holder[f"{key} beside"] = way
        else:
            holder[key] = way


def found(document: Values, folder: Path) -> None:
    """Let plain values, as `beside` left them, name files absolutely again, from where the project is now."""
    for holder, key in named_files(document):
        way = holder.pop(f"{key} beside", None) or holder.pop("beside", None)  # as formats to 5 called it
        if isinstance(way, str) and not os.path.isfile(holder[key]) and (folder / way).is_file():
            holder[key] = way
        holder[key] = os.path.realpath(folder / holder[key])


def named_files(document: Values) -> Iterator[tuple[Values, str]]:
    """Each place in a document's values that holds the path of a file, as what holds it and under which key."""
    lock = document["lock"]
    if lock.get("file"):
        yield lock, "file"
    for media in lock["media"]:
        # What was never found has no content: its path is the timeline's own word.
        if media.get("kind") != "black" and (media.get("content") or "kind" not in media):
            yield media, "path"
    if document.get("shared"):
        yield document, "shared"
    if document.get("textless"):
        yield document["textless"], "path"
    colouring = document.get("colouring", {})
    for holder, key in ((colouring, "table"), *((own, "path") for own in colouring.get("own", ()))):
        if holder.get(key):
            yield holder, key
    for row in document.get("listed", ()):
        if row.get("heard", {}).get("file"):
            yield row["heard"], "file"
    for track in document.get("tracks", ()):
        if track.get("source"):
            yield track, "source"
    for chosen in document.get("styles", ()):
        if chosen["style"].get("font"):
            yield chosen["style"], "font"
    for title in document.get("titles", ()):
        for key in ("font", "icon"):
            if title["design"].get(key):
                yield title["design"], key
    for master in document.get("masters", ()):
        yield from _backdrop(master)
    past = (each["framing"] for each in document.get("past", ()))
    versions = document.get("versions", ())
    for framing in (*document.get("framings", ()), *document.get("aside", ()), *versions, *past):
        for panes in (framing["panes"], *(held["panes"] for held in framing.get("held", ()))):
            for pane in panes:
                yield from _backdrop(pane)


def _backdrop(holder: Values) -> Iterator[tuple[Values, str]]:
    backdrop = holder.get("backdrop")
    if isinstance(backdrop, dict) and backdrop.get("media"):
        yield backdrop, "media"
