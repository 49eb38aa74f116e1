"""Subjects by their numbers, and what is offered against a doubt."""

from __future__ import annotations

from functools import partial

from ezvar.app.kit.commands import Menu
from ezvar.core.framing import apply_remedy, follow, follow_from, follow_too

from ..tools import FramingTools, framing_there

SUBJECTS: Menu[FramingTools] = Menu("Framing › Subjects", when=framing_there, everywhere=False)
OFFERS: Menu[FramingTools] = Menu("Framing › Offers", when=framing_there, everywhere=False)
_NUMBERS = range(1, 10)


def _follow(tools: FramingTools, number: int) -> None:
    tools.solve(f"Follow {number}", lambda p, a: follow(p, [number], a))


def _follow_as_well(tools: FramingTools, number: int) -> None:
    frame = tools.at.shot_frame
    tools.solve(f"Follow {number} as well", lambda p, a: follow_too(p, number, frame, a))


def _follow_from_here(tools: FramingTools, number: int) -> None:
    frame = tools.at.shot_frame
    tools.solve(f"From here on {number}", lambda p, a: follow_from(p, number, frame, a))


def _take_offer(tools: FramingTools, number: int) -> None:
    offers = tools.desk.of_shot.known.offers
    if number <= len(offers):
        offer = offers[number - 1]
        tools.solve(offer.title, lambda p, a: apply_remedy(p, offer, a))


def _writing_is_cut(tools: FramingTools) -> bool:
    framing, doc = tools.at.framing, tools.project.doc
    return (
        framing is not None and doc is not None and not doc.unwritten(framing.shot)
        and any(reason.name == "text cut" for reason in framing.reasons)
    )  # fmt: skip


def _title_anew(tools: FramingTools) -> None:
    """A title in the place of the writing, whose words are then written in the text stage."""
    if tools.desk.title_work.title_anew() and (title := tools.at.title) is not None:
        tools.at.set_stage("text")  # which goes to what waits there
        tools.desk.title_work.choose(title.id)


follow_number = tuple(
    SUBJECTS.add(f"framing.follow_{n}", f"Follow {n}", partial(_follow, number=n), f"{n}") for n in _NUMBERS
)
follow_as_well = tuple(
    SUBJECTS.add(
        f"framing.too_{n}", f"Follow {n} as well, or no more", partial(_follow_as_well, number=n), f"Shift+{n}"
    )
    for n in _NUMBERS
)
follow_from_here = tuple(
    SUBJECTS.add(f"framing.from_{n}", f"From here on follow {n}", partial(_follow_from_here, number=n), f"Alt+{n}")
    for n in _NUMBERS
)
take_offer = tuple(
    OFFERS.add(f"framing.offer_{n}", f"Take offer {n}", partial(_take_offer, number=n), key)
    for n, key in enumerate(("F6", "F7", "F8"), 1)
)
title_anew = OFFERS.add("framing.title_anew", "Title the writing anew", _title_anew, "F9", when=_writing_is_cut)
