"""Font files that a project names: looked at, measured and drawn apart, since what reads fonts is not safe against
damaged ones."""

from __future__ import annotations

import hashlib
import os
from dataclasses import astuple, dataclass, replace
from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np
import skia

from ezvar.core.apart import Answer, Done, Plain, Task, run_apart, task
from ezvar.core.errors import EzvarError, InputError
from ezvar.core.way_in import check_regular, read_bytes

from .type import SHIPPED, USING, Face, Families, Pieces, Reach, Writing, typeface

_WIDEST = 16_384  # pixels of a side of what is drawn


@dataclass(frozen=True)
class FontFile:
    """A font file: what its family is called, and the digest of its content."""

    path: str
    family: str
    content: str


def read_font(path: str | os.PathLike[str]) -> FontFile:
    """What a font file is. Raises `InputError` for what is none that can be used."""
    check_regular(path, InputError)
    told: Any = run_apart(task("font", [os.fspath(path)]), InputError).told
    return FontFile(os.fspath(path), str(told["family"]), str(told["content"]))


def font_here(task: Task) -> Done:
    """Do a task that is about a font: what it is, or what of text that is set in it."""
    doing = {"font": _file, "lacking": _lacking, "width": _width, "reach": _reach, "line": _line}
    return doing[task.kind](task)


def _file(task: Task) -> Done:
    path = task.inputs[0]
    data = read_bytes(path, InputError, "a font")
    face = typeface(data)
    if face is None or face.countGlyphs() == 0:
        raise InputError("it is no font that can be read", file=path, remedy="Choose a TrueType or OpenType font")
    return {"family": face.getFamilyName() or Path(path).stem, "content": _digest(data)}, ()


def font_problem(face: Face) -> str:
    """Why a face cannot be used as it is named; empty where it can."""
    if not face.font:
        return "" if face.family in SHIPPED else f"the family {face.family} is not shipped, and no file of it is named"
    try:
        found = _read(face.font, *_stamp(face.font))
    except EzvarError as error:
        return f"the font {face.family} cannot be used: {error.what}"
    if face.font_content and found.content != face.font_content:
        return f"the font file of {face.family} is another one than when it was chosen"
    type_ = families(face)
    return type_.failed if isinstance(type_, _Apart) else ""


def families(face: Face) -> Families:
    """The families of a face, loaded once, and anew where its file has changed."""
    return _families(face, *(_stamp(face.font) if face.font else (0, 0)))


@lru_cache(maxsize=8)
def _families(face: Face, changed: int, size: int) -> Families:
    if not face.font:
        return Families(face)
    try:
        found = _read(face.font, changed, size)
    except EzvarError:
        return Families(face)  # `font_problem` says it
    return Families(face) if face.font_content not in ("", found.content) else _Apart(face)


def _digest(data: bytes) -> str:
    return hashlib.sha256(data).hexdigest()[:32]


def _stamp(path: str) -> tuple[int, int]:
    """By which it is noticed that a file has changed."""
    try:
        facts = os.stat(path)
    except (OSError, ValueError):
        return 0, 0
    return facts.st_mtime_ns, facts.st_size


@lru_cache(maxsize=32)
def _read(path: str, changed: int, size: int) -> FontFile:
    return read_font(path)


class _Apart(Families):
    """The families of a face with a font of its own, asked for apart; the shipped ones where that fails over it."""

    def __init__(self, face: Face) -> None:
        super().__init__(face)
        self._face = face
        self.failed = ""
        """Why the font is not used any more; empty while it is."""

    def _ask(self, kind: str, **asked: Plain) -> Answer | None:
        if self.failed:
            return None
        face = list(astuple(replace(self._face, font="")))
        try:
            return run_apart(task(kind, [self._face.font], face=face, **asked), InputError)
        except InputError as error:
            self.failed = f"the font {self._face.family} cannot be used: {error.what}"
            return None

    @lru_cache(maxsize=4096)  # noqa: B019 - there is one for each face, and it stays
    def lacks(self, text: str) -> str:
        found = self._ask("lacking", text=text)
        return super().lacks(text) if found is None else str(found.told)

    @lru_cache(maxsize=65536)  # noqa: B019
    def width(self, text: str, writing: Writing) -> float:
        found = self._ask("width", text=text, writing=list(astuple(writing)))
        return super().width(text, writing) if found is None else float(str(found.told))

    @lru_cache(maxsize=16384)  # noqa: B019
    def reach(self, text: str, writing: Writing) -> Reach:
        found: Any = self._ask("reach", text=text, writing=list(astuple(writing)))
        return super().reach(text, writing) if found is None else Reach(*found.told)

    def paint(
        self, canvas: skia.Canvas, pieces: Pieces, size: float, spacing: float, paint: skia.Paint,
        place: tuple[float, float],
    ) -> None:  # fmt: skip
        whole, turn = canvas.getBaseLayerSize(), canvas.getTotalMatrix()
        found = self._ask(
            "line", pieces=[[text, *astuple(writing), line] for text, writing, line in pieces],
            size=size, spacing=spacing, place=list(place), canvas=[whole.width(), whole.height()],
            turn=[float(turn.get(k)) for k in range(9)],
            paint=[paint.getColor(), int(paint.getStyle()), paint.getStrokeWidth(), int(paint.getStrokeJoin())],
        )  # fmt: skip
        if found is None:
            super().paint(canvas, pieces, size, spacing, paint, place)
            return
        drawn = np.frombuffer(found.data, np.uint8).reshape(whole.height(), whole.width(), 4)
        canvas.save()
        canvas.resetMatrix()
        canvas.drawImage(
            skia.Image.fromarray(drawn, skia.kRGBA_8888_ColorType, skia.kPremul_AlphaType, copy=False), 0, 0
        )
        canvas.restore()


@lru_cache(maxsize=4)
def _here(font: str, changed: int, size: int, face: tuple[str, ...]) -> Families:
    return Families(Face(*face), read_bytes(font, InputError, "a font"))


def _of(task: Task) -> Families:
    font, face = task.inputs[0], task["face"]
    assert isinstance(face, list)
    return _here(font, *_stamp(font), tuple(str(each) for each in face))


def _text_of(task: Task) -> tuple[str, Writing]:
    writing: Any = task["writing"]
    return str(task["text"]), Writing(*writing)


def _lacking(task: Task) -> Done:
    return _of(task).lacks(str(task["text"])), ()


def _width(task: Task) -> Done:
    return _of(task).width(*_text_of(task)), ()


def _reach(task: Task) -> Done:
    return list(astuple(_of(task).reach(*_text_of(task)))), ()


def _line(task: Task) -> Done:
    """Samples (height, width, 4), premultiplied RGBA."""
    said: Any = dict(task.parameters)
    width, height = (min(int(side), _WIDEST) for side in said["canvas"])
    image = np.zeros((height, width, 4), np.uint8)
    canvas = skia.Canvas(image, skia.kRGBA_8888_ColorType, skia.kPremul_AlphaType)
    canvas.setMatrix(skia.Matrix.MakeAll(*said["turn"]))
    colour, style, stroke, join = said["paint"]
    paint = skia.Paint(AntiAlias=True, Color=colour)
    paint.setStyle(skia.Paint.Style(style))
    paint.setStrokeWidth(stroke)
    paint.setStrokeJoin(skia.Paint.Join(join))
    pieces = [(text, Writing(bold, italic), line) for text, bold, italic, line in said["pieces"]]
    with USING:
        x, y = said["place"]
        _of(task).paint(canvas, pieces, said["size"], said["spacing"], paint, (x, y))
    return None, [image]
