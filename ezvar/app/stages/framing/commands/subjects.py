"""Subjects by their numbers, and what is offered against a doubt."""

from __future__ import annotations

from functools import partial

from ezvar.app.background.framing_work import at_most
from ezvar.app.kit.commands import Menu
from ezvar.core.framing import Place, apply_remedy, follow, follow_from, follow_too

from ..tools import FramingTools, framing_there

SUBJECTS: Menu[FramingTools] = Menu("Framing › Subjects", when=framing_there, everywhere=False)
OFFERS: Menu[FramingTools] = Menu("Framing › Offers", when=framing_there, everywhere=False)
_NUMBERS = range(1, 10)


def _follow(tools: FramingTools, number: int) -> None:
    pane = tools.at.pane_number
    tools.solve(f"Follow {number}", lambda d, s, m, a: follow(d, s, m, [number], a, at_most(d, s, m, pane)))


def _follow_as_well(tools: FramingTools, number: int) -> None:
    frame, pane = tools.at.shot_frame, tools.at.pane_number
    tools.solve(
        f"Follow {number} as well",
        lambda d, s, m, a: follow_too(d, s, m, number, frame, a, at_most(d, s, m, pane)),
    )


def _follow_from_here(tools: FramingTools, number: int) -> None:
    frame, pane = tools.at.shot_frame, tools.at.pane_number
    tools.solve(
        f"From here on {number}",
        lambda d, s, m, a: follow_from(d, s, m, number, frame, a, at_most(d, s, m, pane)),
    )


def _take_offer(tools: FramingTools, number: int) -> None:
    offers, pane = tools.desk.of_shot.known.offers, tools.at.pane_number
    if number <= len(offers):
        offer = offers[number - 1]
        tools.solve(offer.title, lambda d, s, m, a: apply_remedy(Place(d, s, m, pane), offer, a))


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
