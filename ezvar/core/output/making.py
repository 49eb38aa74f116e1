"""Making rows: all that share pictures in one pass over them, each in segments, which are joined and checked."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from contextlib import ExitStack
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from ezvar.core import compose
from ezvar.core.compose import LockPictures, Pictures, Shown
from ezvar.core.encoding import (
    join,
    join_images,
    stem_of,
)
from ezvar.core.errors import EzvarError
from ezvar.core.lock import LockReader, is_deep
from ezvar.core.media import Planes
from ezvar.core.model import Check, Document, Flaw, MadePart, Report
from ezvar.core.progress import Cancelled, CancelToken, Progress, portion, silent
from ezvar.core.threads import ahead
from ezvar.core.timing import FrameRange, can_drop, timecode
from ezvar.core.work import Task

from .captions import embedded_in, write_beside
from .checking import check_row
from .checks import check_task
from .damage import damage_in
from .job import RowJob
from .orders import Made, OnPart, Order, nobody
from .parted import segment_tasks
from .refused import folder_in_its_place, in_its_place
from .sounds import Sounds
from .stills import write_poster

_AHEAD = 2  # lock frames that are drawn before they are coded
_TRIES = 3  # to come below a size that one pass has missed
Elsewhere = Callable[[Sequence[Task], Progress, CancelToken | None], Iterator[Any]]
"""Does tasks of these rows on other machines."""
_PASS, _JOIN = 0.8, 0.1  # of all the work up to the end of the pass, and of what is left for a row, joining it


def make_rows(
    orders: Sequence[Order], progress: Progress = silent, cancel: CancelToken | None = None, on_part: OnPart = nobody,
) -> list[Made]:  # fmt: skip
    """Make rows as `made_rows` does, and have all that they came to."""
    return list(made_rows(orders, progress, cancel, on_part))


def made_rows(
    orders: Sequence[Order], progress: Progress = silent, cancel: CancelToken | None = None, on_part: OnPart = nobody,
    elsewhere: Elsewhere | None = None,
) -> Iterator[Made]:  # fmt: skip
    """Make rows of one document, each to its own file, in a single pass over the pictures that they share.

    Gives what each came to, in their order, as soon as it is joined and checked.

    A row is made in segments under names by content, in a hidden folder
    beside its target, from which an unfinished one goes on; segments that a
    finished movie of it has are taken from there. They are joined without
    coding again, moved to the final name, and checked. What goes wrong with
    one row is told in its `Made` and costs no other; `Cancelled` is raised
    when all are told to stop. Raises `MediaError` for a flat lock that cannot
    be read. Segments are made, and movies checked, ``elsewhere`` where that is
    given; it raises what that raises.
    """
    if not orders:
        return
    doc = orders[0].doc
    missing: list[str] = []

    def note_missing(media: str, error: EzvarError) -> None:
        if doc.lock.flat:
            raise error
        missing.append(f"Black where it should show: {error}")

    with ExitStack() as stack:
        deep = any(order.row.preset.picture.depth > 8 for order in orders) and is_deep(doc)
        reader = stack.enter_context(LockReader(doc, note_missing, deep))
        pictures = stack.enter_context(LockPictures(reader))
        jobs = [RowJob(order, pictures, on_part) for order in orders]
        for job in jobs:
            stack.callback(job.tidy)
        sounds = Sounds([(job.order, job.folder) for job in jobs if job.on])
        stack.callback(sounds.close)
        if elsewhere is not None:
            missing += _parts_elsewhere(jobs, deep, elsewhere, portion(progress, 0, _PASS), cancel)
        at = _first_passes(doc, jobs, pictures, progress, cancel, stack)
        _pass(doc, jobs, pictures, portion(progress, at, _PASS), cancel)
        for job in jobs:
            if job.budget is not None:
                job.budget.heard(sum(sound.bits for sound in sounds.of(job.order)))
        for _ in range(_TRIES):
            if over := [job for job in jobs if job.make_again_smaller()]:
                _pass(doc, over, pictures, portion(progress, _PASS, _PASS), cancel)
        stated = not doc.lock.flat or ((facts := reader.facts) is not None and facts.timecode_stated)
        missing += pictures.problems
        for k, job in enumerate(jobs):
            share = portion(progress, *(_PASS + (1 - _PASS) * n / len(jobs) for n in (k, k + 1)))
            made = _finished(job, sounds, stated, tuple(missing), share, cancel, elsewhere)
            job.finished = bool(made.parts)
            yield made


def _parts_elsewhere(
    jobs: Sequence[RowJob], deep: bool, elsewhere: Elsewhere, progress: Progress, cancel: CancelToken | None
) -> list[str]:
    """Have the segments made elsewhere that can be; what could not be read there. Those that are not there then are
    made here."""
    tasks = segment_tasks(jobs, deep)
    problems: dict[str, None] = {}
    for each, made in zip(tasks, elsewhere(tasks, progress, cancel), strict=True):
        span = FrameRange(each.number("start"), each.number("end"))
        for job in jobs:
            job.take_up(span)
        problems.update(dict.fromkeys(made.problems))
    return list(problems)


def _first_passes(
    doc: Document, jobs: Sequence[RowJob], pictures: LockPictures, progress: Progress, cancel: CancelToken | None,
    stack: ExitStack,
) -> float:  # fmt: skip
    """Look at the pictures of rows that are made in two passes. Returns how far all the work is then."""
    those = [job for job in jobs if job.on and job.two_passes]
    if not those:
        return 0.0
    for job in those:
        job.begin_first_pass(Path(stack.enter_context(TemporaryDirectory(prefix="ezvar-passes-"))))
    _pass(doc, those, pictures, portion(progress, 0, _PASS / 2), cancel)
    for job in those:
        job.end_first_pass()
    return _PASS / 2


def _pass(
    doc: Document, jobs: Sequence[RowJob], pictures: LockPictures, progress: Progress, cancel: CancelToken | None
) -> None:
    """Draw every picture that is wanted, once for all rows that show it, and give it to each."""
    wants = [(job, job.wants()) for job in jobs]
    frames = sorted({frame for _, spans in wants for span in spans for frame in range(span.start, span.end)})
    drawn = ahead(_drawn(doc, wants, frames, pictures), _AHEAD)
    try:
        for n, (frame, made) in enumerate(drawn):
            if cancel is not None:
                cancel.check()
            for job, planes in made:
                if job.on:
                    job.add(frame, planes, frame in pictures.damaged)
            progress((n + 1) / len(frames), "Making")
            if not any(job.on for job in jobs):
                return
    finally:
        drawn.close()
        for job in jobs:
            job.abandon()


def _drawn(
    doc: Document, wants: Sequence[tuple[RowJob, list[FrameRange]]], frames: Sequence[int], pictures: LockPictures
) -> Iterator[tuple[int, list[tuple[RowJob, Planes]]]]:
    """Every wanted picture with the rows that want it; those that show the same get the same."""
    for frame in frames:
        done: dict[tuple[str, Shown, Pictures], Planes] = {}
        made = []
        for job, spans in wants:
            while spans and spans[0].end <= frame:
                spans.pop(0)
            if spans and spans[0].start <= frame:
                own = pictures.in_bits(job.form.coding.depth)
                key = job.master.id, job.shown, own
                if key not in done:
                    done[key] = compose.frame(doc, job.master, frame, own, shown=job.shown)
                made.append((job, done[key]))
        yield frame, made


def _finished(
    job: RowJob, sounds: Sounds, stated: bool, missing: tuple[str, ...], progress: Progress,
    cancel: CancelToken | None, elsewhere: Elsewhere | None,
) -> Made:  # fmt: skip
    """A row whose segments are all there, joined and checked; else what became of it."""
    order, doc, span = job.order, job.order.doc, job.order.row.range
    if not job.on:
        return Made(order.target, 0, error=job.error, stopped=job.stopped)
    label = timecode(doc.lock.start + span.start, doc.lock.rate, doc.lock.drop and can_drop(doc.lock.rate))
    heard = sounds.of(order)
    if wrong := [sound.error for sound in heard if sound.error is not None]:
        return Made(order.target, 0, error=wrong[0])
    files = [sound.file for sound in heard if sound.file is not None]

    def on_progress(fraction: float, message: str) -> None:
        progress(fraction, message)
        for token in (cancel, order.cancel):
            if token is not None:
                token.check()

    def on_frame(count: int) -> None:
        on_progress(_JOIN * count / len(span), "Joining")

    try:
        segments = [part.segment for part in job.parts if part.segment]
        captions = embedded_in(order)
        if job.images:
            with folder_in_its_place(order.target) as temp:
                join_images(segments, temp, stem_of(order.target), job.form.coding.codec, on_frame)
        else:
            with in_its_place(order.target) as temp:
                join(segments, temp, job.form, files, captions, label if stated else None, on_frame)
        write_beside(order)
        write_poster(order)
        within = portion(on_progress, _JOIN, 1)
        if elsewhere is None:
            report = check_row(order, job.unchecked, within, cancel)
        else:
            (report,) = elsewhere([check_task(order, job.unchecked)], within, cancel)
    except Cancelled:
        if cancel is not None and cancel.cancelled:
            raise
        return Made(order.target, 0, stopped=True)
    except EzvarError as error:
        return Made(order.target, 0, error=error)
    parts = tuple(MadePart(p.span.start, p.span.end, p.name, tuple(sorted(p.damaged))) for p in job.parts)
    unheard = dict.fromkeys(said for sound in heard for said in sound.said)
    there = Check("all media there", (*(Flaw(said) for said in (*missing, *unheard)), *damage_in(doc, span, parts)))
    names = " ".join(sound.name for sound in heard)
    return Made(order.target, len(span), Report((there, *report.checks)), parts, names)
