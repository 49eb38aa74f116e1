"""Single pictures of masters, and contact sheets of them."""

from __future__ import annotations

import os
from collections.abc import Callable, Sequence
from pathlib import Path

import cv2
import numpy as np

from ezvar.core import compose
from ezvar.core.compose import ALL, LockPictures, Shown
from ezvar.core.encoding import SUFFIXES
from ezvar.core.errors import EzvarError, OutputError
from ezvar.core.lock import LockReader
from ezvar.core.model import Document, Master, Shot
from ezvar.core.names import file_names, longest_name
from ezvar.core.progress import CancelToken, Progress, silent
from ezvar.core.review import THUMB, small_scale, thumb_sheets
from ezvar.core.store import write_atomically

from .orders import Order
from .segments import shown_of

_CODERS: dict[str, tuple[str, list[int]]] = {
    ".png": (".png", []), ".tif": (".tif", []), ".tiff": (".tif", []),
    ".jpg": (".jpg", [cv2.IMWRITE_JPEG_QUALITY, 95]), ".jpeg": (".jpg", [cv2.IMWRITE_JPEG_QUALITY, 95]),
}  # fmt: skip
STILLS = "PNG, JPEG or TIFF"


def write_still(doc: Document, master: Master, frame: int, path: str | os.PathLike[str], shown: Shown = ALL) -> Path:
    """Write a master's picture at a lock frame as PNG, JPEG or TIFF, by the path's suffix.

    Raises `MediaError` where a flat lock cannot be read, and `OutputError` for
    another suffix and for what the disk refuses.
    """
    data_of = _coder(path)

    def missing(media: str, error: EzvarError) -> None:
        if doc.lock.flat:
            raise error

    with LockReader(doc, missing) as reader, LockPictures(reader) as pictures:
        drawn = compose.frame(doc, master, frame, pictures, shown=shown).rgb()
    data = data_of(drawn)
    write_atomically(path, lambda file: file.write(data), OutputError)
    return Path(path)


def poster_of(order: Order) -> Path | None:
    """The file beside a row's movie that holds its master's poster; ``None`` where that has none within the row."""
    poster, row = order.master.poster, order.row
    if poster is None or not row.start <= poster < row.end:
        return None
    stem = order.target.name.removesuffix(SUFFIXES[row.preset.picture.container])
    (name,) = file_names([f"{stem} poster"], ".jpg", longest_name(order.target.parent))
    return order.target.with_name(name.name)


def write_poster(order: Order) -> None:
    """Write the poster of a row beside its movie, as JPEG, where it has one. Raises as `write_still` does."""
    path, poster = poster_of(order), order.master.poster
    if path is not None and poster is not None:
        write_still(order.doc, order.master, poster, path, shown_of(order.row))


def write_contact_sheets(
    doc: Document, master: Master, shots: Sequence[Shot], path: str | os.PathLike[str], progress: Progress = silent,
    cancel: CancelToken | None = None,
) -> list[Path]:  # fmt: skip
    """Write the middles of shots as a master shows them, many on a sheet, as JPEG; a second sheet has a 2 in its name.

    Raises as `write_still` does.
    """
    thumbs = []
    with LockReader(doc, lambda media, error: None) as reader, LockPictures(reader) as pictures:
        for k, shot in enumerate(shots):
            if cancel is not None:
                cancel.check()
            progress(k / len(shots), "Drawing contact sheets")
            drawn = compose.frame(doc, master, (shot.start + shot.end) // 2, pictures, small_scale(master, 2 * THUMB))
            thumbs.append((shot, drawn.rgb()))
    first, written = Path(path), []
    for number, data in enumerate(thumb_sheets(doc, master, thumbs), 1):
        sheet = first if number == 1 else first.with_name(f"{first.stem} {number}{first.suffix}")
        write_atomically(sheet, lambda file, data=data: file.write(data), OutputError)  # type: ignore[misc]
        written.append(sheet)
    return written


def _coder(path: str | os.PathLike[str]) -> Callable[[np.ndarray], bytes]:
    """What makes a file's bytes of a picture, R'G'B' uint8."""
    suffix = Path(path).suffix.lower()
    if suffix not in _CODERS:
        what = suffix or "a name without an ending"
        raise OutputError(f"{what} is no still picture", file=path, remedy=f"Choose {STILLS}")
    form, options = _CODERS[suffix]

    def coded(rgb: np.ndarray) -> bytes:
        good, data = cv2.imencode(form, np.ascontiguousarray(rgb[..., ::-1]), options)
        if not good:
            raise OutputError("the picture cannot be coded", file=path)
        return data.tobytes()

    return coded
