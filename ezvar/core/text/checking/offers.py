"""What can be done about a problem of a caption, ready to be done."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace

from ezvar.core import edits
from ezvar.core.evidence import Analysis
from ezvar.core.model import Caption, CaptionTrack, Document, Master, Span, joined_spans, time_of

from ..setting.breaking import pieces
from ..setting.layout import lay_out
from ..showing import asked_of, laid_out, language_used
from .clearing import cleared
from .problems import CaptionChecks, CaptionProblem, in_frame

_SMALLEST = 0.6  # of the style's size, that is offered for one caption
_STEP = 0.02
_MARGINS = (0.1, 0.14, 0.18, 0.22, 0.26, 0.3)  # at the sides, that are tried for a narrower caption
_WORTH = 0.5  # of the time that is missing, from which more of it is worth being offered

Change = Callable[[Document], Document]


@dataclass(frozen=True)
class Offer:
    """Something that can be done: what it says on its button, and the change of the document."""

    said: str
    change: Change


def caption_offers(
    doc: Document, track: CaptionTrack, caption: Caption, master: Master, problems: Iterable[CaptionProblem],
    checks: CaptionChecks, analysis: Analysis | None = None,
) -> list[Offer]:  # fmt: skip
    """What can be done about a caption's problems in a master, the likeliest first; each thing once."""
    made: dict[str, Offer] = {}
    for problem in problems:
        if problem.caption == caption.id and problem.master in ("", master.id):
            for offer in _offers(doc, track, caption, master, problem, checks, analysis):
                made.setdefault(offer.said, offer)
    return list(made.values())


def _offers(
    doc: Document, track: CaptionTrack, caption: Caption, master: Master, problem: CaptionProblem,
    checks: CaptionChecks, analysis: Analysis | None,
) -> Iterator[Offer]:  # fmt: skip
    name = problem.name
    if name in ("does not fit", "long line"):
        yield from _split(track, caption)
        if name == "does not fit":
            yield from _smaller(doc, track, caption, master)
        if laid_out(doc, track, caption, master).allowed < 3:
            yield _differing("Three lines, this one", caption, master, lines=3)
    elif name in ("too quick", "too short"):
        yield from _longer(doc, track, caption)
        if name == "too short":
            yield from _joined(track, caption)
    elif name == "too long":
        yield from _split(track, caption)
    elif name in ("overlaps", "gap"):
        following = track.captions[track.place_of(caption.id) + 1]
        yield Offer(
            "End it where the next begins",
            lambda d: edits.retime(d, track.id, caption.id, caption.start, following.start),
        )
        yield from _joined(track, caption)
    elif name == "not sure":
        yield Offer("The words are right", lambda d: edits.put_captions(d, track.id, [replace(caption, unsure=())]))
    elif name == "behind controls":
        yield from _narrower(doc, track, caption, master, checks, analysis)
        yield from _elsewhere(doc, track, caption, master, checks, analysis)
    elif name in ("over a face", "over writing", "over a title", "over captions"):
        yield from _elsewhere(doc, track, caption, master, checks, analysis)


def _differing(said: str, caption: Caption, master: Master, **values: object) -> Offer:
    return Offer(
        said,
        lambda d: edits.differ_by(d, [caption.id], [master.id], lambda old: replace(old, **values)),  # type: ignore[arg-type]
    )


def split_place(track: CaptionTrack, caption: Caption) -> int | None:
    """Before which letter a caption is best split in time: near its middle, where its sense parts."""
    text = caption.text
    parted = pieces(" ".join(text.split()), language_used(track))
    best, cheapest, at = None, 1e9, 0
    for piece in parted[:-1]:
        at = text.index(piece.text.split("\u00a0")[0], at) + len(piece.text)
        cost = piece.costs * 2 + abs(at / len(text) - 0.5)
        if cost < cheapest:
            best, cheapest = at, cost
    return best


def _split(track: CaptionTrack, caption: Caption) -> Iterator[Offer]:
    at = split_place(track, caption)
    if at is not None and caption.length >= 200:
        word = caption.text[at:].split()[0].strip(",.;:")
        yield Offer(f"Split at “{word}”", lambda d: edits.split_caption(d, track.id, caption.id, at))


def _smaller(doc: Document, track: CaptionTrack, caption: Caption, master: Master) -> Iterator[Offer]:
    asked = asked_of(doc, track, caption, master)
    size = asked.size - _STEP
    while size >= _SMALLEST:
        if lay_out(replace(asked, size=size), master.width, master.height).fits:
            yield _differing(f"Smaller, this one: {round(100 * size)}\u00a0%", caption, master, size=round(size, 2))
            return
        size -= _STEP


def _longer(doc: Document, track: CaptionTrack, caption: Caption) -> Iterator[Offer]:
    """Until it can be read, or as far as there is room before the next one."""
    limits = track.limits
    letters = sum(not sign.isspace() for sign in caption.text)
    wanted = caption.start + max(limits.shortest, round(1000 * letters / limits.letters_a_second) + 1)
    place = track.place_of(caption.id)
    last = round(1000 * doc.lock.rate.seconds(doc.lock.frames))
    if place + 1 < len(track.captions):
        last = track.captions[place + 1].start - time_of(limits.gap, doc.lock.rate)
    end = min(wanted, last)
    if end >= wanted or end - caption.end >= _WORTH * (wanted - caption.end):
        more = (end - caption.end) / 1000
        yield Offer(
            f"Let it stand {more:.1f} s longer",
            lambda d: edits.retime(d, track.id, caption.id, caption.start, end),
        )


def _joined(track: CaptionTrack, caption: Caption) -> Iterator[Offer]:
    place = track.place_of(caption.id)
    if place + 1 < len(track.captions):
        following = track.captions[place + 1]
        yield Offer("Join it with the next", lambda d: edits.join_captions(d, track.id, [caption.id, following.id]))


def _narrower(
    doc: Document, track: CaptionTrack, caption: Caption, master: Master, checks: CaptionChecks,
    analysis: Analysis | None,
) -> Iterator[Offer]:  # fmt: skip
    """In more and shorter lines, where these stand beside what is drawn over the picture."""
    asked = asked_of(doc, track, caption, master)
    for margin in _MARGINS:
        if margin <= asked.style.side_margin:
            continue
        narrow = replace(asked, style=replace(asked.style, side_margin=margin))
        laid = lay_out(narrow, master.width, master.height)
        rect = in_frame(laid.rect, master)
        if laid.fits and next(checks.collisions(doc, track, caption, master, rect, analysis), None) is None:
            spans: list[Span] = []
            for line in laid.lines:
                spans += [*([Span("\n")] if spans else []), *line.spans]
            yield _differing(f"Broken narrower, in {len(laid.lines)} lines", caption, master, spans=joined_spans(spans))
            return


def _elsewhere(
    doc: Document, track: CaptionTrack, caption: Caption, master: Master, checks: CaptionChecks,
    analysis: Analysis | None,
) -> Iterator[Offer]:  # fmt: skip
    raised = cleared(doc, track, caption, master, checks, analysis)
    if raised is not None:
        now = doc.differs(caption.id, master.id).raised
        by = round(100 * (raised - now))
        word = f"Raise it clear: {by}\u00a0% higher" if by > 0 else f"Lower it clear: {-by}\u00a0%"
        yield _differing(word, caption, master, raised=raised, spot=None)
