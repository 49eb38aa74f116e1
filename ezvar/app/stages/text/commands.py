"""The text menu."""

from __future__ import annotations

from functools import partial

from PyQt6.QtWidgets import QApplication, QFileDialog, QInputDialog

from ezvar.app.kit.commands import Menu
from ezvar.core import edits
from ezvar.core.errors import EzvarError
from ezvar.core.model import time_of
from ezvar.core.text import FORMATS, NamedStyle, load_styles, read_font, save_styles, split_place, styles_file

from .dialogs import ask_find, ask_giving, ask_taking
from .tools import TextTools, caption_there, captions_there, lock_there

TEXT: Menu[TextTools] = Menu("Text", when=caption_there, everywhere=False)
OFFERS: Menu[TextTools] = Menu("Text › Offers", when=caption_there, everywhere=False)
LOOK: Menu[TextTools] = Menu("Text › Look", when=captions_there, everywhere=False)


@TEXT.command("text.take", "Take captions in…", "Ctrl+I", when=lock_there, everywhere=True)
def take(tools: TextTools) -> None:
    patterns = " ".join(FORMATS.values())
    file, _ = QFileDialog.getOpenFileName(tools.bench.widget, "Take captions in", "", f"Captions ({patterns});;All (*)")
    if file:
        ask_taking(tools, file)


@TEXT.command("text.give", "Give captions out…", "Ctrl+E", when=captions_there, everywhere=True)
def give(tools: TextTools) -> None:
    ask_giving(tools)


@TEXT.command("text.right", "Right as it is, next", "Return")
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
        tools.work.choose(found.id)


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


@TEXT.command("text.write", "Write in the text", "T")
def write(tools: TextTools) -> None:
    if tools.text is not None:
        tools.text.field.setFocus()
        tools.text.field.selectAll()


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


@TEXT.command("text.remove", "Remove the caption", "Delete")
def remove(tools: TextTools) -> None:
    tools.work.remove()


def _now(tools: TextTools) -> int:
    return time_of(tools.session.at.frame, tools.session.project.document.lock.rate)


@TEXT.command("text.begin", "It begins at the playhead", "I")
def begins_here(tools: TextTools) -> None:
    present = tools.work.present
    if present is not None:
        tools.work.retime(min(_now(tools), present[1].end - 40), present[1].end)


@TEXT.command("text.end", "It ends at the playhead", "O")
def ends_here(tools: TextTools) -> None:
    present = tools.work.present
    if present is not None:
        tools.work.retime(present[1].start, max(_now(tools), present[1].start + 40))


def _nudge(tools: TextTools, frames: int) -> None:
    present = tools.work.present
    if present is not None:
        by = time_of(abs(frames), tools.session.project.document.lock.rate) * (1 if frames > 0 else -1)
        tools.work.retime(present[1].start + by, present[1].end + by)


@TEXT.command("text.earlier", "One frame earlier", "[")
def earlier(tools: TextTools) -> None:
    _nudge(tools, -1)


@TEXT.command("text.later", "One frame later", "]")
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


@TEXT.command("text.remove_track", "Remove the track", when=captions_there)
def remove_track(tools: TextTools) -> None:
    track = tools.work.track
    if track is not None:
        tools.work.edit(f"Remove {track.name}", lambda d: edits.remove_track(d, track.id))


@TEXT.command("text.raise", "Raise all captions clear", "Shift+R", when=captions_there)
def raise_all(tools: TextTools) -> None:
    tools.work.raise_all()


@TEXT.command("text.higher", "This one higher, here", "Alt+PgUp")
def higher(tools: TextTools) -> None:
    tools.work.higher(0.01)


@TEXT.command("text.lower", "This one lower, here", "Alt+PgDown")
def lower(tools: TextTools) -> None:
    tools.work.higher(-0.01)


@TEXT.command("text.larger", "This one larger, here", "+")
def larger(tools: TextTools) -> None:
    tools.work.larger(0.02)


@TEXT.command("text.smaller", "This one smaller, here", "-")
def smaller(tools: TextTools) -> None:
    tools.work.larger(-0.02)


@TEXT.command("text.hide", "Show it here, or not", "H")
def hide(tools: TextTools) -> None:
    tools.work.hide()


@TEXT.command("text.as_track", "As its track here", "S")
def as_track(tools: TextTools) -> None:
    tools.work.as_track()


@TEXT.command("text.zones", "Show the overlay zones, or not", "Z", when=lock_there)
def zones(tools: TextTools) -> None:
    tools.board.turn_zones()


take_offer = tuple(
    OFFERS.add(f"text.offer_{n}", f"Take offer {n}", partial(lambda tools, n: tools.work.take_offer(n - 1), n=n), key)
    for n, key in enumerate(("F6", "F7", "F8"), 1)
)


@LOOK.command("text.same", "The same look in all masters")
def same_in_all(tools: TextTools) -> None:
    style, doc = tools.work.style(), tools.session.project.document
    if style is not None:
        tools.work.set_style(style, doc.masters)


@LOOK.command("text.keep_look", "Keep this look as…")
def keep_look(tools: TextTools) -> None:
    style = tools.work.style()
    name, ok = QInputDialog.getText(tools.bench.widget, "Keep this look", "Its name:")
    if style is None or not ok or not name.strip():
        return
    try:
        path = styles_file()
        save_styles((*load_styles(path), NamedStyle(name.strip(), style)), path)
        tools.session.messages.say(f"“{name.strip()}” is kept for other masters and projects.")
    except EzvarError as error:
        tools.session.messages.say_problem(str(error))


@LOOK.command("text.use_look", "Use a kept look…")
def use_look(tools: TextTools) -> None:
    try:
        known = {s.name: s.style for s in load_styles(styles_file())}
    except EzvarError as error:
        tools.session.messages.say_problem(str(error))
        return
    if not known:
        tools.session.messages.say("No look is kept yet.")
        return
    name, ok = QInputDialog.getItem(tools.bench.widget, "Use a kept look", "Which:", list(known), 0, False)
    if ok:
        tools.work.set_style(known[name])


@LOOK.command("text.give_looks", "Write the kept looks to a file…")
def give_looks(tools: TextTools) -> None:
    file, _ = QFileDialog.getSaveFileName(tools.bench.widget, "Write the kept looks", "looks.json", "Looks (*.json)")
    if file:
        try:
            save_styles(load_styles(styles_file()), file)
        except EzvarError as error:
            tools.session.messages.say_problem(str(error))


@LOOK.command("text.take_looks", "Take looks from a file…")
def take_looks(tools: TextTools) -> None:
    file, _ = QFileDialog.getOpenFileName(tools.bench.widget, "Take looks in", "", "Looks (*.json)")
    if file:
        try:
            new = load_styles(file)
            save_styles((*load_styles(styles_file()), *new), styles_file())
            tools.session.messages.say(f"{len(new)} looks were taken.")
        except EzvarError as error:
            tools.session.messages.say_problem(str(error))


@LOOK.command("text.font", "Use a font file…")
def use_font(tools: TextTools) -> None:
    file, _ = QFileDialog.getOpenFileName(tools.bench.widget, "Use a font file", "", "Fonts (*.ttf *.otf *.ttc)")
    if file:
        try:
            font = read_font(file)
        except EzvarError as error:
            tools.session.messages.say_problem(str(error))
            return
        tools.work.change_style(family=font.family, font=font.path, font_content=font.content)
