"""The whole check of a row that was made."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from pathlib import Path

from ezvar.core.encoding import CODERS, tags_in
from ezvar.core.errors import EzvarError
from ezvar.core.media import Loudness, MovieReader, Picture, read_still
from ezvar.core.model import Check, Flaw, Report
from ezvar.core.progress import CancelToken, Progress, silent
from ezvar.core.timing import FrameRange

from ..heard import sounds_of
from ..listed.listing import colours_of
from ..orders import Order
from ..receiving import check_receiver
from ..segments import form_of
from .captions import check_captions
from .facts import Expected, check_facts
from .pictures import compare_pictures
from .sound import check_sound


def check_row(
    order: Order, spans: Sequence[FrameRange] | None = None, progress: Progress = silent,
    cancel: CancelToken | None = None,
) -> Report:  # fmt: skip
    """Check what was made of a row, at its target, against the document that it was ordered with.

    ``spans`` are the lock frames within the row whose pictures are compared, all
    by default.
    """
    row, doc, coding = order.row, order.doc, order.row.preset.picture
    sounds = sounds_of(doc, row)
    expected = Expected(
        order.master.width, order.master.height, doc.lock.rate, len(row.range), len(sounds),
        int(coding.megabytes * 1e6) if coding.rating == "size" else None,
        tags_in(form_of(doc, row, colours_of(doc))), CODERS[coding.codec].lit,
    )  # fmt: skip
    report = check_facts(order.target, expected)
    if any(check.what == "opens" for check in report.checks):
        return report
    checks = list(report.checks)
    loudness: Loudness | None = None
    try:
        if sounds and not any(check.what == "sound" for check in checks):
            for number, sound in enumerate(sounds, 1):
                heard, loud = check_sound(sound, order.target, number)
                checks.append(heard)
                loudness = loudness or loud
        if row.receiver is not None:
            checks.append(check_receiver(doc, row, order.target, row.receiver, loudness))
        if (captions := check_captions(order)) is not None:
            checks.append(captions)
        inside = [row.range] if spans is None else list(spans)
        if _miscounted(report):  # pictures cannot be told apart by their numbers then
            inside = []
        count, flaws = compare_pictures(doc, row, _pictures(order, inside), inside, progress, cancel)
        checks.append(Check(f"{count} pictures as decided", flaws))
    except EzvarError as error:
        checks.append(Check("opens", (Flaw(str(error)),)))
    return replace(report, checks=tuple(checks))


def _miscounted(report: Report) -> bool:
    """Whether pictures are missing, or too many."""
    return any("frames, not" in flaw.said or "images, not" in flaw.said for flaw in report.flaws)


def _pictures(order: Order, spans: Sequence[FrameRange]) -> Iterator[tuple[int, Picture]]:
    """The pictures of a finished movie within lock frames."""
    first = order.row.start
    if Path(order.target).is_dir():
        images = sorted(Path(order.target).iterdir())
        for span in spans:
            for frame in range(span.start, span.end):
                yield frame, read_still(images[frame - first]).picture
        return
    with MovieReader(order.target) as reader:
        for span in spans:
            for frame, picture in enumerate(reader.frames(span.start - first, span.end - first), span.start):
                yield frame, picture
