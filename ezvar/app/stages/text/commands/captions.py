"""The text menu."""

from __future__ import annotations

from functools import partial

from PyQt6.QtWidgets import QApplication, QFileDialog, QInputDialog

from ezvar.app.kit.commands import Menu
from ezvar.core import edits
from ezvar.core.errors import EzvarError
from ezvar.core.model import Title, time_of
from ezvar.core.text import (
    FORMATS,
    service_named,
    split_place,
)

from ..dialogs import ask_about_track, ask_find, ask_giving, ask_spreading
from ..taking_dialog import ask_taking
from ..tools import TextTools, caption_there, captions_there, item_there, lock_there, placed_there

TEXT: Menu[TextTools] = Menu("Text", when=caption_there, everywhere=False)
OFFERS: Menu[TextTools] = Menu("Text › Offers", when=caption_there, everywhere=False)


@TEXT.command("text.take", "Take captions in…", "Ctrl+I", when=lock_there, everywhere=True)
def take(tools: TextTools) -> None:
    patterns = " ".join(FORMATS.values())
    file, _ = QFileDialog.getOpenFileName(tools.bench.widget, "Take captions in", "", f"Captions ({patterns});;All (*)")
    if file:
        ask_taking(tools, file)


@TEXT.command("text.give", "Give captions out…", "Ctrl+E", when=captions_there, everywhere=True)
def give(tools: TextTools) -> None:
    ask_giving(tools)


@TEXT.command("text.transcribe", "Write the speech down", when=lock_there)
def write_down(tools: TextTools) -> None:
    """By the transcription service, see docs/TRANSCRIPTION.md."""
    if not tools.session.project.document.lock.has_sound:
        tools.session.messages.say("The lock has no sound.")
        return
    try:
        tools.work.transcribe(service_named())
    except EzvarError as error:
        tools.session.messages.say_problem(str(error))


@TEXT.command("text.spread", "Spread a text over time…", when=lock_there)
def spread(tools: TextTools) -> None:
    ask_spreading(tools)


@TEXT.command("text.right", "Right as it is, next", "Return", when=item_there)
def right(tools: TextTools) -> None:
    tools.work.let_stand()
    to_next(tools)


def to_next(tools: TextTools) -> None:
    """Go to the next caption that something is wrong with."""
    tools.bench.player.stop()
    found = tools.work.next_waiting()
    if found is None:
        tools.session.messages.say("Every caption is right, or was let stand.")
    else:
        (tools.titles.choose if isinstance(found, Title) else tools.work.choose)(found.id)


def _step(tools: TextTools, by: int) -> None:
    listed = [c for _, c in tools.work.all()]
    present = tools.work.present
    at = next((k for k, c in enumerate(listed) if present and c.id == present[1].id), -1)
    if listed:
        tools.work.choose(listed[max(0, min(len(listed) - 1, at + by))].id)


@TEXT.command("text.next", "Next caption", "PgDown", when=captions_there)
def next_caption(tools: TextTools) -> None:
    _step(tools, 1)


@TEXT.command("text.before", "Caption before", "PgUp", when=captions_there)
def caption_before(tools: TextTools) -> None:
    _step(tools, -1)


@TEXT.command("text.write", "Write in the text", "T", when=item_there)
def write(tools: TextTools) -> None:
    part = tools.title_text if tools.titles.present is not None else tools.text
    if part is not None:
        part.field.setFocus()
        part.field.selectAll()


@TEXT.command("text.new", "New caption here", "A", when=lock_there)
def new(tools: TextTools) -> None:
    tools.work.begin_here()
    write.run(tools)


@TEXT.command("text.split", "Split the caption", "X")
def split(tools: TextTools) -> None:
    """At the cursor where somebody writes, else where its sense parts."""
    present = tools.work.present
    if present is None:
        return
    field = tools.text.field if tools.text is not None else None
    inside = field is not None and QApplication.focusWidget() is field
    letter = field.letter() if field is not None and inside else split_place(*present)
    if letter is None:
        tools.session.messages.say("There is nothing to split it at.")
    else:
        tools.work.split(letter)


@TEXT.command("text.join", "Join with the next", "Shift+X")
def join(tools: TextTools) -> None:
    tools.work.join()


@TEXT.command("text.remove", "Remove the caption or title", "Delete", when=item_there)
def remove(tools: TextTools) -> None:
    (tools.titles if tools.titles.present is not None else tools.work).remove()


def _now(tools: TextTools) -> int:
    return time_of(tools.session.at.frame, tools.session.project.document.lock.rate)


@TEXT.command("text.begin", "It begins at the playhead", "I", when=item_there)
def begins_here(tools: TextTools) -> None:
    present, title = tools.work.present, tools.titles.present
    if title is not None:
        tools.titles.retime(min(tools.session.at.frame, title.end - 1), title.end)
    if present is not None:
        tools.work.retime(min(_now(tools), present[1].end - 40), present[1].end)


@TEXT.command("text.end", "It ends at the playhead", "O", when=item_there)
def ends_here(tools: TextTools) -> None:
    present, title = tools.work.present, tools.titles.present
    if title is not None:
        tools.titles.retime(title.start, max(tools.session.at.frame, title.start + 1))
    if present is not None:
        tools.work.retime(present[1].start, max(_now(tools), present[1].start + 40))


def _nudge(tools: TextTools, frames: int) -> None:
    present, title = tools.work.present, tools.titles.present
    if title is not None:
        tools.titles.retime(title.start + frames, title.end + frames)
    if present is not None:
        by = time_of(abs(frames), tools.session.project.document.lock.rate) * (1 if frames > 0 else -1)
        tools.work.retime(present[1].start + by, present[1].end + by)


@TEXT.command("text.earlier", "One frame earlier", "[", when=item_there)
def earlier(tools: TextTools) -> None:
    _nudge(tools, -1)


@TEXT.command("text.later", "One frame later", "]", when=item_there)
def later(tools: TextTools) -> None:
    _nudge(tools, 1)


@TEXT.command("text.find", "Find and replace…", "Ctrl+F", when=captions_there)
def find(tools: TextTools) -> None:
    ask_find(tools)


@TEXT.command("text.shift", "Move all captions in time…", when=captions_there)
def shift(tools: TextTools) -> None:
    track = tools.work.track
    if track is None:
        return
    seconds, ok = QInputDialog.getDouble(
        tools.bench.widget, "Move all captions", f"Seconds by which “{track.name}” is to come later:", 0.0,
        -36000.0, 36000.0, 3,
    )  # fmt: skip
    if ok and seconds:
        tools.work.edit(
            f"Move {track.name} by {seconds:g} s", lambda d: edits.shift_captions(d, track.id, round(1000 * seconds))
        )


@TEXT.command("text.track", "The track…", "Shift+I", when=captions_there)
def about_track(tools: TextTools) -> None:
    ask_about_track(tools)


@TEXT.command("text.remove_track", "Remove the track", when=captions_there)
def remove_track(tools: TextTools) -> None:
    track = tools.work.track
    if track is not None:
        tools.work.edit(f"Remove {track.name}", lambda d: edits.remove_track(d, track.id))


@TEXT.command("text.raise", "Raise all captions clear", "Shift+R", when=captions_there)
def raise_all(tools: TextTools) -> None:
    tools.work.raise_all()


def _move(tools: TextTools, x: float, y: float) -> None:
    """Move the present title, or raise the present caption, in the active master."""
    if tools.titles.item:
        tools.titles.move(x, y)
    elif y:
        tools.work.higher(-y)
    else:
        tools.session.messages.say("A caption is moved up and down; its track's look sets it left or right.")


for _id, _title, _key, _x, _y in (
    ("higher", "Higher, here", "Alt+PgUp", 0.0, -0.01), ("lower", "Lower, here", "Alt+PgDown", 0.0, 0.01),
    ("left", "Title to the left, here", "Alt+Left", -0.01, 0.0),
    ("right_side", "Title to the right, here", "Alt+Right", 0.01, 0.0),
):  # fmt: skip
    TEXT.add(f"text.{_id}", _title, partial(_move, x=_x, y=_y), _key, when=placed_there)


def _grow(tools: TextTools, by: float) -> None:
    if tools.titles.item:
        tools.titles.scale(1 + by)
    else:
        tools.work.larger(by)


@TEXT.command("text.larger", "Larger, here", "+", when=placed_there)
def larger(tools: TextTools) -> None:
    _grow(tools, 0.02)


@TEXT.command("text.smaller", "Smaller, here", "-", when=placed_there)
def smaller(tools: TextTools) -> None:
    _grow(tools, -0.02)


@TEXT.command("text.hide", "Show it here, or not", "H", when=placed_there)
def hide(tools: TextTools) -> None:
    (tools.titles if tools.titles.item else tools.work).hide()


@TEXT.command("text.as_track", "As it began, here", "S", when=placed_there)
def as_track(tools: TextTools) -> None:
    if tools.titles.item:
        tools.titles.back()
    else:
        tools.work.as_track()


@TEXT.command("text.safe", "Show the safe areas, or not", "Shift+Z", when=lock_there)
def safe(tools: TextTools) -> None:
    tools.board.turn_safe()


@TEXT.command("text.zones", "Show the overlay zones, or not", "Z", when=lock_there)
def zones(tools: TextTools) -> None:
    tools.board.turn_zones()


take_offer = tuple(
    OFFERS.add(f"text.offer_{n}", f"Take offer {n}", partial(lambda tools, n: tools.work.take_offer(n - 1), n=n), key)
    for n, key in enumerate(("F6", "F7", "F8"), 1)
)
