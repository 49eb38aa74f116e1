"""Keyframes, their eases, and a stretch of the path."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

from ezvar.app.kit.commands import Menu
from ezvar.core.framing import Size, copied_keys, key_at, with_key, without_keys
from ezvar.core.model import EASES, Ease, Master, Pane
from ezvar.core.timing import FrameRange

from ..tools import FramingTools, framing_there

KEYFRAMES: Menu[FramingTools] = Menu("Framing › Keyframes", when=framing_there, everywhere=False)
STRETCH: Menu[FramingTools] = Menu("Framing › Stretch", when=framing_there, everywhere=False)


@KEYFRAMES.command("framing.key", "Set a keyframe here", "A")
def set_keyframe(tools: FramingTools) -> None:
    frame = tools.at.shot_frame
    tools.by_hand("Set keyframe", lambda p, m, size: with_key(p, m, size, replace(key_at(p, frame), frame=frame)))


@KEYFRAMES.command("framing.unkey", "Take the keyframes away", "Delete")
def take_keyframes_away(tools: FramingTools) -> None:
    chosen = tools.work.chosen_keys or {tools.at.shot_frame}
    if not chosen & {k.frame for k in tools.pane.keys}:
        tools.messages.say("There is no keyframe here. Choose some in the chart, or go to one.")
        return

    def without(pane: Pane, master: Master, size: Size) -> Pane:
        for frame in sorted(chosen):
            pane = without_keys(pane, frame, frame)
        return pane

    tools.by_hand("Take keyframes away", without)
    tools.work.chosen_keys = frozenset()


def _to_keyframe(tools: FramingTools, forwards: bool) -> None:
    shot, here = tools.place.shot, tools.at.shot_frame
    frames = [k.frame for k in tools.pane.keys if 0 <= k.frame < shot.frames]
    found = [f for f in frames if f > here] if forwards else [f for f in frames[::-1] if f < here]
    if found:
        tools.at.go(shot.start + found[0])
    else:
        tools.messages.say(f"There is no keyframe {'after' if forwards else 'before'} this in the shot.")


@KEYFRAMES.command("framing.key_back", "Previous keyframe", "Ctrl+Left")
def previous_keyframe(tools: FramingTools) -> None:
    _to_keyframe(tools, False)


@KEYFRAMES.command("framing.key_on", "Next keyframe", "Ctrl+Right")
def next_keyframe(tools: FramingTools) -> None:
    _to_keyframe(tools, True)


@KEYFRAMES.command("framing.ease", "Next ease", "Shift+E")
def next_ease(tools: FramingTools) -> None:
    frames = tools.work.eased()
    now = next((k.ease for k in tools.pane.keys if k.frame in frames), "both")
    tools.work.run_ease(EASES[(EASES.index(now) + 1) % len(EASES)])


def _ease(tools: FramingTools, ease: Ease) -> None:
    tools.work.run_ease(ease)


KEYFRAMES.add("framing.ease_linear", "Ease: linear", partial(_ease, ease="linear"))
KEYFRAMES.add("framing.ease_in", "Ease: in", partial(_ease, ease="ease in"))
KEYFRAMES.add("framing.ease_out", "Ease: out", partial(_ease, ease="ease out"))
KEYFRAMES.add("framing.ease_both", "Ease: both", partial(_ease, ease="both"))
KEYFRAMES.add("framing.ease_hold", "Ease: hold", partial(_ease, ease="hold"))


@KEYFRAMES.command("framing.copy_keys", "Copy the chosen keyframes", "Ctrl+Alt+C")
def copy_keyframes(tools: FramingTools) -> None:
    chosen = tools.work.chosen_keys or {tools.at.shot_frame}
    keys = tuple(k for k in tools.pane.keys if k.frame in chosen)
    tools.work.copied_keys = keys or (key_at(tools.pane, tools.at.shot_frame),)
    tools.messages.say(f"{len(tools.work.copied_keys)} keyframes copied.")


@KEYFRAMES.command("framing.paste_keys", "Paste keyframes here", "Ctrl+Alt+V")
def paste_keyframes(tools: FramingTools) -> None:
    keys, frame = tools.work.copied_keys, tools.at.shot_frame
    if not keys:
        tools.messages.say("No keyframes were copied yet.")
    else:
        tools.by_hand("Paste keyframes", lambda p, m, size: copied_keys(p, m, size, keys, frame))


def _mark(tools: FramingTools, start: int | None, end: int | None) -> None:
    old = tools.work.stretch or FrameRange(0, tools.place.shot.frames)
    start = old.start if start is None else start
    end = old.end if end is None else end
    tools.work.stretch = FrameRange(start, end) if start < end else FrameRange(*sorted((start, end + 1)))
    tools.sweep.update()


@STRETCH.command("framing.mark_in", "Stretch begins here", "I")
def begin_stretch(tools: FramingTools) -> None:
    _mark(tools, tools.at.shot_frame, None)


@STRETCH.command("framing.mark_out", "Stretch ends here", "O")
def end_stretch(tools: FramingTools) -> None:
    _mark(tools, None, tools.at.shot_frame + 1)


@STRETCH.command("framing.mark_none", "No stretch", "Shift+O")
def forget_stretch(tools: FramingTools) -> None:
    tools.work.stretch = None
    tools.sweep.update()


@STRETCH.command("framing.unkey_stretch", "Delete the path in the stretch", "Shift+Delete")
def delete_path_in_stretch(tools: FramingTools) -> None:
    stretch = tools.work.stretch
    if stretch is None:
        tools.messages.say("No stretch is marked. Mark where it begins and ends first.")
    else:
        tools.by_hand(
            "Delete the path in the stretch", lambda p, m, size: without_keys(p, stretch.start, stretch.end - 1)
        )
