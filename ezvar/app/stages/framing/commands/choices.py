"""What is asked of the solver for the present shot, or all that are chosen."""

from __future__ import annotations

from ezvar.app.kit.backdrops import BACKDROPS
from ezvar.app.kit.commands import Menu
from ezvar.core.framing import pace_of, pixel_zoom

from ..tools import FramingTools, framing_there

_PACE = 0.1
_PLACES = (0.5, 1 / 3, 2 / 3)
CHOICES: Menu[FramingTools] = Menu("Framing › Choices", when=framing_there, everywhere=False)


def _pace_by(tools: FramingTools, by: float) -> None:
    place = tools.place
    now = place.master.pace if place.pane.choices.pace is None else place.pane.choices.pace
    pace = round(min(1.0, max(0.0, now + by)), 2)
    tools.work.ask(f"Pace {pace:.2f}, at most {pace_of(pace).speed:.2f} widths a second", pace=pace)


@CHOICES.command("framing.quicker", "A quicker pace", ".")
def quicker(tools: FramingTools) -> None:
    _pace_by(tools, _PACE)


@CHOICES.command("framing.slower", "A calmer pace", ",")
def calmer(tools: FramingTools) -> None:
    _pace_by(tools, -_PACE)


@CHOICES.command("framing.place", "Subject at the next third", "H")
def next_third(tools: FramingTools) -> None:
    now = tools.pane.choices.place
    nearest = min(range(len(_PLACES)), key=lambda k: abs(_PLACES[k] - now))
    at = (nearest + 1) % len(_PLACES)
    said = ("in the middle", "at the left third", "at the right third")[at]
    tools.work.ask(f"Subject {said}", place=_PLACES[at])


@CHOICES.command("framing.look_room", "Look room on or off", "Y")
def turn_look_room(tools: FramingTools) -> None:
    on = not tools.pane.choices.look_room
    tools.work.ask("Look room" if on else "No look room", look_room=on)


@CHOICES.command("framing.text", "Keep text whole, or not", "T")
def turn_keep_text(tools: FramingTools) -> None:
    on = not tools.pane.choices.keep_text
    tools.work.ask("Keep text whole" if on else "Text need not be whole", keep_text=on)


@CHOICES.command("framing.bars", "Show the black bars of this shot, or not", "Shift+B")
def turn_bars(tools: FramingTools) -> None:
    on = not tools.pane.choices.with_bars
    tools.work.ask("With black bars" if on else "No black bars", with_bars=on)


@CHOICES.command("framing.gentle", "A gentle move over a still, or none", "Shift+M")
def turn_gentle_move(tools: FramingTools) -> None:
    move = "" if tools.pane.choices.move else "gentle"
    tools.work.ask("A gentle move" if move else "No gentle move", move=move)


@CHOICES.command("framing.pixels", "One pixel for one, or as it fills", "/")
def turn_pixel_for_pixel(tools: FramingTools) -> None:
    place, choices = tools.place, tools.pane.choices
    most = pixel_zoom(place.size, place.aspect, place.master.height * place.pane.rect.height)
    if choices.tightest is not None and abs(choices.tightest - most) < 1e-6:
        tools.work.ask("Filling", loosest=None, tightest=None)
    else:
        tools.work.ask("One pixel for one", loosest=most, tightest=most)


@CHOICES.command("framing.backdrop", "Next backdrop", "Shift+W")
def next_backdrop(tools: FramingTools) -> None:
    now, known = tools.pane.backdrop, [b for _, b in BACKDROPS]
    at = known.index(now) if now in known else -1
    name, backdrop = BACKDROPS[(at + 1) % len(BACKDROPS)]
    tools.work.set_backdrop(name, lambda _: backdrop)
