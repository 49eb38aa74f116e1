"""Framings put in place, held beside, and the subjects that an editor draws."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from ezvar.core.model import Document, Drawn, Framing, Held, Keyframe, Pane


def set_framings(doc: Document, framings: Iterable[Framing]) -> Document:
    """Put framings in place of those for the same shots and masters, or add them."""
    return doc.with_framings(framings)


def hold(doc: Document, shot: str, master: str) -> Document:
    """Hold the present framing beside, as an alternative. Raises `ValueError` where `MOST_HELD` are held already."""
    old = framing_of(doc, shot, master)
    held = Held(old.panes, old.arrangement, old.decided, old.why, old.reasons)
    return set_framings(doc, [replace(old, held=(*old.held, held))])


def swap_held(doc: Document, shot: str, master: str, number: int) -> Document:
    """Put the alternative ``number`` (from 0) in place and hold the present framing in its stead."""
    old = framing_of(doc, shot, master)
    chosen = old.held[number]
    beside = Held(old.panes, old.arrangement, old.decided, old.why, old.reasons)
    held = (*old.held[:number], beside, *old.held[number + 1 :])
    return set_framings(
        doc,
        [
            replace(
                old, panes=chosen.panes, arrangement=chosen.arrangement, decided=chosen.decided, why=chosen.why,
                reasons=chosen.reasons, verdict="open", held=held, sound=min(old.sound, len(chosen.panes) - 1),
            )
        ],
    )  # fmt: skip


def keep_present(doc: Document, shot: str, master: str) -> Document:
    """Keep the present framing and let go of those that are held beside it."""
    return set_framings(doc, [replace(framing_of(doc, shot, master), held=())])


def let_go_aside(doc: Document, framing: Framing) -> Document:
    """Keep a decision no longer aside that was on a shot which is gone."""
    return replace(doc, aside=tuple(f for f in doc.aside if f is not framing))


def draw_subject(doc: Document, drawn: Drawn) -> Document:
    """Add a drawn subject, or put it in place of the one with its id."""
    others = tuple(d for d in doc.drawn if d.id != drawn.id)
    return replace(doc, drawn=(*others, drawn))


def set_keyframe(pane: Pane, key: Keyframe) -> Pane:
    """Set one keyframe of a pane, in place of another at the same frame."""
    keys = [k for k in pane.keys if k.frame != key.frame]
    return replace(pane, keys=tuple(sorted([*keys, key], key=lambda k: k.frame)))


def framing_of(doc: Document, shot: str, master: str) -> Framing:
    """The framing of a shot in a master. Raises `KeyError` where nothing is decided."""
    framing = doc.framing(shot, master)
    if framing is None:
        raise KeyError((shot, master))
    return framing
