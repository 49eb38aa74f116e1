"""What framings were before they were changed, and by whom."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime

from ezvar.core.model import Document, Framing, Past

MOST_PAST, MOST_OF_ONE = 2000, 12
"""Earlier framings that are kept, of all and of one."""
_AT_ONCE = 500  # more are changed by no hand
_TOGETHER = 30  # seconds in which changes of one kind by one hand count as one


def remember(before: Document, after: Document, who: str, step: str, moment: str) -> Document:
    """The changed document with what its framings were before, where somebody decided something else.

    ``moment`` is when, in UTC, as `Past` has it. Steps of one kind that follow
    each other within half a minute leave what was before the first of them;
    what more than a few hundred shots were before at once is not kept.
    """
    if after.framings is before.framings:
        return after
    changed = _changed(before, after)
    if not changed or len(changed) > _AT_ONCE:
        return after
    last = {(p.framing.shot, p.framing.master): p for p in after.past}
    new = [
        Past(replace(old, held=()), moment, who, step)
        for old in changed
        if not _goes_on(last.get((old.shot, old.master)), who, step, moment)
    ]
    return replace(after, past=_bounded((*after.past, *new))) if new else after


def _changed(before: Document, after: Document) -> list[Framing]:
    """The framings that were there before and are decided otherwise now."""
    if len(before.framings) == len(after.framings):
        pairs = [(a, b) for a, b in zip(before.framings, after.framings, strict=True) if a is not b]
        if all((a.shot, a.master) == (b.shot, b.master) for a, b in pairs):
            return [a for a, b in pairs if _differ(a, b)]
    found = ((old, after.framing(old.shot, old.master)) for old in before.framings)
    return [old for old, new in found if new is not None and new is not old and _differ(old, new)]


def _differ(a: Framing, b: Framing) -> bool:
    return (a.panes, a.arrangement, a.sound, a.verdict) != (b.panes, b.arrangement, b.sound, b.verdict)


def _goes_on(last: Past | None, who: str, step: str, moment: str) -> bool:
    if last is None or (last.who, last.step) != (who, step):
        return False
    return (datetime.fromisoformat(moment) - datetime.fromisoformat(last.moment)).total_seconds() <= _TOGETHER


def _bounded(past: tuple[Past, ...]) -> tuple[Past, ...]:
    """The newest of all, and of each framing."""
    counts: dict[tuple[str, str], int] = {}
    kept: list[Past] = []
    for each in reversed(past):
        key = each.framing.shot, each.framing.master
        counts[key] = counts.get(key, 0) + 1
        if counts[key] <= MOST_OF_ONE and len(kept) < MOST_PAST:
            kept.append(each)
    return tuple(reversed(kept))


def past_of(doc: Document, shot: str, master: str) -> list[Past]:
    """What a framing was before, the newest first."""
    return [p for p in reversed(doc.past) if (p.framing.shot, p.framing.master) == (shot, master)]


def bring_back(doc: Document, past: Past) -> Document:
    """The document with a framing as it was; what is held beside it stays."""
    now = doc.framing(past.framing.shot, past.framing.master)
    return doc.with_framings([replace(past.framing, held=now.held if now is not None else ())])


def set_shared(doc: Document, folder: str) -> Document:
    """The document with another shared folder; none where it is empty."""
    return replace(doc, shared=folder)


def note_returns(doc: Document, digests: tuple[str, ...]) -> Document:
    """The document with files noted, by their digests, that are seen to; the newest of them."""
    return replace(doc, returns=tuple(dict.fromkeys((*doc.returns, *digests)))[-MOST_PAST:])
