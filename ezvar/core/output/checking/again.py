"""Checking movies that were made before: which rows they are of, and what the document was when they were."""

from __future__ import annotations

import os
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

import cv2
import numpy as np

from ezvar.core.media import MovieReader, read_still
from ezvar.core.model import Document, Finished, Row
from ezvar.core.names import longest_name
from ezvar.core.store import unpacked

from ..naming import row_names
from ..orders import Order
from ..segments import shown_of
from .witness import Witness


def order_again(doc: Document, finished: Finished) -> Order:
    """The order of a row that was made, of the document as it was then, where that is kept.

    Raises `ProjectError` where what is kept is damaged.
    """
    revision = doc.makings.revision(finished.revision)
    was = doc if revision is None else unpacked(revision, doc)
    return Order(was, finished.row, Path(finished.made.file), finished.made)


def made_in(doc: Document, rows: Sequence[Row], folder: str | os.PathLike[str]) -> dict[str, Order | None]:
    """The movies of rows, by their ids, in a folder; ``None`` where there is none.

    Those that the project knows to have been made are known by their names
    there, and meant as they were ordered; others have the names that they
    would get, and are meant as the document is now.
    """
    found: dict[str, Order | None] = {}
    names = row_names(doc, rows, longest_name(folder))
    for row, name in zip(rows, names, strict=True):
        finished = doc.makings.finished_of(row.id)
        if finished is not None and (there := Path(folder) / Path(finished.made.file).name).exists():
            found[row.id] = replace(order_again(doc, finished), target=there)
        else:
            there = Path(folder) / name.name
            found[row.id] = Order(doc, row, there) if there.exists() else None
    return found


def side_by_side(order: Order, frame: int) -> tuple[np.ndarray, np.ndarray]:
    """What a finished movie shows at a lock frame, and what it should: R'G'B' uint8, at a quarter of its size.

    Raises `MediaError` where it cannot be read.
    """
    number = frame - order.row.start
    if order.target.is_dir():
        made = read_still(sorted(order.target.iterdir())[number]).picture
    else:
        with MovieReader(order.target) as reader:
            made = reader.frame(min(number, reader.facts.frames - 1))
    with Witness(order.doc, order.master, shown_of(order.row)) as witness:
        stated = witness.seen(frame).rgb
        small = cv2.resize(made.rgb(), (witness.width, witness.height), interpolation=cv2.INTER_AREA)
    return np.asarray(small), np.asarray(np.clip(stated + 0.5, 0, 255), np.uint8)
