"""The review page of a handoff: one HTML file that needs no network and no server, beside its stills and movies."""

from __future__ import annotations

import base64
import hashlib
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from ezvar.core.framing import framed, picture_size
from ezvar.core.model import Document, Master, Shot
from ezvar.core.names import readable
from ezvar.core.store import dump_decisions, dump_note, dump_plain
from ezvar.core.timing import timecode
from ezvar.core.viewing import master_line

from ..out.timeline import lock_told
from ..out.told import Common, said_doubt
from .stills import moments, outlines

_PARTS = Path(__file__).with_name("page_parts")
_TYPE = Path(__file__).resolve().parents[3] / "type"
_FONTS = (
    ("Reading", 400, "AtkinsonHyperlegibleNext-Regular.ttf"), ("Reading", 700, "AtkinsonHyperlegibleNext-Bold.ttf"),
    ("Figures", 400, "AtkinsonHyperlegibleMono-Regular.ttf"),
)  # fmt: skip
_EVERY = 6  # frames of a moving window that are told


def still_name(shot: Shot, doc: Document, master: int = 0) -> str:
    """What a still is called: of a shot's own picture, or of a master, by its place from 1."""
    return f"{doc.place_of(shot.id) + 1:04d}-{master}.jpg"


def movie_name(master: int = 0) -> str:
    """What a movie is called: the edit's own, or that of a master, by its place from 1."""
    return f"{master}.mp4"


def page(
    doc: Document, masters: Sequence[Master], shots: Sequence[Shot], folder: str, movies: bool, answer: str,
    common: Common | None = None,
) -> bytes:  # fmt: skip
    """The page for some masters and shots.

    Its pictures are in a ``folder`` beside it, by `still_name` and
    `movie_name`, movies only where there are ``movies``, which show the shots
    one after the other. What is said is saved under the name ``answer``, in
    which "@" stands for whoever says it.
    """
    data = _data(doc, masters, shots, folder, movies, answer, common or Common(doc))
    text = dump_plain(data).decode().replace("<", "\\u003c").replace("\u2028", "\\u2028").replace("\u2029", "\\u2029")
    page = (_PARTS / "page.html").read_text()
    title = readable(doc.lock.name).replace("&", "&amp;").replace("<", "&lt;")
    for name, value in (
        ("@TYPE@", _type()), ("@STYLE@", (_PARTS / "page.css").read_text()),
        ("@SCRIPT@", (_PARTS / "page.js").read_text()), ("@TITLE@", title), ("@DATA@", text),
    ):  # fmt: skip
        before, _, after = page.partition(name)
        page = before + value + after
    return page.encode("utf-8", "replace")


def _type() -> str:
    faces = []
    for family, weight, file in _FONTS:
        data = base64.b64encode((_TYPE / file).read_bytes()).decode()
        faces.append(
            f"@font-face {{ font-family: {family}; font-weight: {weight}; src: url(data:font/ttf;base64,{data}); }}"
        )
    return "\n".join(faces)


def _data(
    doc: Document, masters: Sequence[Master], shots: Sequence[Shot], folder: str, movies: bool, answer: str,
    common: Common,
) -> dict[str, Any]:  # fmt: skip
    lock, ids = doc.lock, {shot.id for shot in shots}
    told, at = [], 0
    for shot in shots:
        told.append(_shot(doc, masters, shot, folder, at, common))
        at += shot.frames
    notes = [dump_note(n) for n in doc.notes if n.stands and n.shot in ids and _is_on(n.master, masters)]
    known = lock_told(doc)
    states = [each["base"] for shot in told for each in shot["framings"].values()]
    return {
        "ezvar review": 1, "lock": known, "name": readable(lock.name), "begins": lock.start, "drop": lock.drop,
        "rate": [lock.rate.numerator, lock.rate.denominator], "answer": answer,
        "key": "ezvar " + hashlib.sha256("".join([known["identity"], *states]).encode()).hexdigest()[:16],
        "masters": [_master(doc, m) for m in masters], "shots": told, "notes": notes,
        "movies": {name: f"{folder}/{movie_name(k)}" for k, name in enumerate(("edit", *(m.id for m in masters)))}
        if movies else {},
    }  # fmt: skip


def _is_on(master: str, masters: Sequence[Master]) -> bool:
    return not master or any(m.id == master for m in masters)


def _master(doc: Document, master: Master) -> dict[str, Any]:
    line = master_line(doc.masters.index(master))
    return {
        "id": master.id, "name": master.name, "width": master.width, "height": master.height,
        "line": {"ink": line.on_picture, "paper": line.on_paper, "dash": list(line.dash)},
    }  # fmt: skip


def _shot(
    doc: Document, masters: Sequence[Master], shot: Shot, folder: str, at: int, common: Common
) -> dict[str, Any]:  # fmt: skip
    lock, size = doc.lock, picture_size(doc, shot)
    framings = {}
    for place, master in enumerate(masters, 1):
        framing = doc.framing(shot.id, master.id) or framed(doc, shot, master)
        figure, why = said_doubt(framing)
        framings[master.id] = {
            "still": f"{folder}/{still_name(shot, doc, place)}", "verdict": framing.verdict, "doubt": figure,
            "doubtful": why, "why": framing.why, "framing": dump_decisions(framing, briefly=True),
            "base": common.sent(framing), "windows": _windows(doc, shot, master),
        }  # fmt: skip
    return {
        "id": shot.id, "number": doc.place_of(shot.id) + 1, "start": shot.start, "frames": shot.frames, "at": at,
        "source": common.source(shot),
        "timecode": timecode(lock.start + shot.start, lock.rate, lock.drop), "size": [size.width, size.height],
        "picture": f"{folder}/{still_name(shot, doc)}", "framings": framings,
    }  # fmt: skip


def _windows(doc: Document, shot: Shot, master: Master) -> list[tuple[int, list[list[list[float]]]]]:
    """A master's windows at some frames of a shot: of one that rests at its middle alone."""
    framing = framed(doc, shot, master)
    moves = any(len(pane.keys) > 1 for pane in framing.panes)
    frames = sorted({*range(0, shot.frames, _EVERY), shot.frames - 1}) if moves else [moments(shot)[1] - shot.start]
    return [(n, [c.round(4).tolist() for c in outlines(doc, shot, master, n)]) for n in frames]
