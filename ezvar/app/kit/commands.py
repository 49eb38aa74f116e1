"""Every command as data: id, title, key, when. Menus, the finder, tooltips and the key sheet are made from these."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

When = Literal["always", "open", "framed"]
"""When a command can be run: always, with a lock open, or with a shot and a master to frame it in."""


@dataclass(frozen=True)
class Command:
    """What can be done. ``stages`` empty means in every stage. ``menu`` names the menu, and after › the part of it."""

    id: str
    title: str
    key: str = ""
    menu: str = ""
    stages: tuple[str, ...] = ()
    when: When = "open"


def _framing(what: str, title: str, key: str = "", part: str = "") -> Command:
    menu = f"Framing › {part}" if part else "Framing"
    return Command(f"framing.{what}", title, key, menu, ("Framing",), "framed")


STAGES = ("Lock", "Cuts", "Framing", "Text", "Review", "Output")

COMMANDS: tuple[Command, ...] = (
    Command("file.open", "Open a movie, timeline or project…", "Ctrl+O", "File", when="always"),
    Command("file.clips", "Open loose clips…", "Ctrl+Shift+O", "File", when="always"),
    Command("file.demo", "Open the demo edit", "", "File", when="always"),
    Command("file.demo_timeline", "Open the demo edit as a timeline", "", "File", when="always"),
    Command("file.save", "Save", "Ctrl+S", "File"),
    Command("file.save_as", "Save as…", "Ctrl+Shift+S", "File"),
    Command("file.quit", "Quit", "Ctrl+Q", "File", when="always"),
    Command("edit.undo", "Undo", "Ctrl+Z", "Edit"),
    Command("edit.redo", "Redo", "Ctrl+Shift+Z", "Edit"),
    Command("edit.all", "Choose all shots", "Ctrl+A", "Edit"),
    Command("edit.finder", "Find a command…", "Ctrl+Space", "Edit", when="always"),
    Command("lock.look", "Look for missing media in a folder…", "Ctrl+L", "Lock"),
    Command("lock.uses", "Frame the full source, or what the edit showed", "E", "Lock", ("Lock", "Framing")),
    Command("lock.rule", "Blend frames of other rates, or show the nearest", "", "Lock"),
    Command("lock.compare", "Compare with a reference movie…", "", "Lock"),
    Command("lock.placements", "Find placements by a reference movie…", "", "Lock"),
    Command("lock.relock", "Take a changed lock in…", "", "Lock"),
    Command("cuts.keep", "Keep the cut, next", "Y", "Cuts", ("Cuts",)),
    Command("cuts.remove", "Not a cut, next", "U", "Cuts", ("Cuts",)),
    Command("cuts.earlier", "Cut one frame earlier", "[", "Cuts", ("Cuts",)),
    Command("cuts.later", "Cut one frame later", "]", "Cuts", ("Cuts",)),
    Command("cuts.add", "Cut here", "X", "Cuts", ("Cuts", "Framing")),
    Command("cuts.find", "Find the cuts anew", "F", "Cuts", ("Cuts",)),
    Command("cuts.find_in_shot", "Search this shot for cuts", "Shift+F", "Cuts", ("Cuts",)),
    _framing("agree", "Looks right, next", "Return"),
    _framing("solve", "Back to solved", "S"),
    _framing("static", "Best static window", "R"),
    _framing("middle", "Window to the middle", "M"),
    _framing("whole", "Whole picture on its backdrop", "W"),
    _framing("both", "Keep both", "B"),
    _framing("panes", "Both, in two panes", "U"),
    _framing("one_pane", "Back to one pane", "Ctrl+B"),
    _framing("arrange", "Next arrangement of panes", "Shift+U"),
    _framing("share", "Panes and backdrop…", "Ctrl+U"),
    _framing("draw", "Draw a subject", "D"),
    _framing("here", "Follow what the window shows", "F"),
    _framing("copy", "Copy the framing", "Ctrl+C", "Several shots"),
    _framing("paste", "Paste the framing", "Ctrl+V", "Several shots"),
    _framing("paste_part", "Paste a part of the framing…", "Ctrl+Shift+V", "Several shots"),
    _framing("give", "Give to the set-up", "G", "Several shots"),
    _framing("give_choices", "Give the choices to the set-up, solve each", "Shift+G", "Several shots"),
    _framing("carry", "Carry over from the master before", "C", "Several shots"),
    _framing("look", "Look at the chosen shots first…", "Ctrl+G", "Several shots"),
    _framing("quicker", "A quicker pace", ".", "Choices"),
    _framing("slower", "A calmer pace", ",", "Choices"),
    _framing("place", "Subject at the next third", "H", "Choices"),
    _framing("look_room", "Look room on or off", "Y", "Choices"),
    _framing("text", "Keep text whole, or not", "T", "Choices"),
    _framing("gentle", "A gentle move over a still, or none", "Shift+M", "Choices"),
    _framing("pixels", "One pixel for one, or as it fills", "/", "Choices"),
    _framing("backdrop", "Next backdrop", "Shift+W", "Choices"),
    _framing("tighter", "Tighter", "+", "Window"),
    _framing("looser", "Looser", "-", "Window"),
    _framing("left", "A little left", "Alt+Left", "Window"),
    _framing("right", "A little right", "Alt+Right", "Window"),
    _framing("up", "A little up", "Alt+Up", "Window"),
    _framing("down", "A little down", "Alt+Down", "Window"),
    _framing("far_left", "Far left", "Alt+Shift+Left", "Window"),
    _framing("far_right", "Far right", "Alt+Shift+Right", "Window"),
    _framing("far_up", "Far up", "Alt+Shift+Up", "Window"),
    _framing("far_down", "Far down", "Alt+Shift+Down", "Window"),
    _framing("turn_left", "Turn against the clock", "Alt+[", "Window"),
    _framing("turn_right", "Turn with the clock", "Alt+]", "Window"),
    _framing("pane", "Next pane", "Ctrl+P", "Window"),
    _framing("stand_higher", "Picture higher in the frame", "Alt+PgUp", "Window"),
    _framing("stand_lower", "Picture lower in the frame", "Alt+PgDown", "Window"),
    _framing("key", "Set a keyframe here", "A", "Keyframes"),
    _framing("unkey", "Take the keyframes away", "Delete", "Keyframes"),
    _framing("key_back", "Previous keyframe", "Ctrl+Left", "Keyframes"),
    _framing("key_on", "Next keyframe", "Ctrl+Right", "Keyframes"),
    _framing("ease", "Next ease", "Shift+E", "Keyframes"),
    _framing("ease_linear", "Ease: linear", "", "Keyframes"),
    _framing("ease_in", "Ease: in", "", "Keyframes"),
    _framing("ease_out", "Ease: out", "", "Keyframes"),
    _framing("ease_both", "Ease: both", "", "Keyframes"),
    _framing("ease_hold", "Ease: hold", "", "Keyframes"),
    _framing("copy_keys", "Copy the chosen keyframes", "Ctrl+Alt+C", "Keyframes"),
    _framing("paste_keys", "Paste keyframes here", "Ctrl+Alt+V", "Keyframes"),
    _framing("mark_in", "Stretch begins here", "I", "Stretch"),
    _framing("mark_out", "Stretch ends here", "O", "Stretch"),
    _framing("mark_none", "No stretch", "Shift+O", "Stretch"),
    _framing("unkey_stretch", "Delete the path in the stretch", "Shift+Delete", "Stretch"),
    _framing("hold", "Hold this version beside", "V", "Versions"),
    _framing("next_held", "Next version", "Shift+V", "Versions"),
    _framing("compare", "Play the versions side by side", "Ctrl+Shift+P", "Versions"),
    _framing("keep", "Keep this version only", "Ctrl+K", "Versions"),
    *(
        _framing(f"{what}_{n}", title.format(n=n), f"{shift}{n}", "Subjects")
        for what, title, shift in (
            ("follow", "Follow {n}", ""),
            ("too", "Follow {n} as well, or no more", "Shift+"),
            ("from", "From here on follow {n}", "Alt+"),
        )
        for n in range(1, 10)
    ),
    *(_framing(f"offer_{n}", f"Take offer {n}", key, "Offers") for n, key in enumerate(("F6", "F7", "F8"), 1)),
    Command("review.write", "Write the handoff…", "Ctrl+H", "Review"),
    Command("review.write_cuts", "Write the cuts alone…", "", "Review"),
    Command("review.take", "Take decisions in…", "Ctrl+T", "Review"),
    Command("review.agreed", "Agreed", "A", "Review", ("Review",)),
    Command("review.change", "Change", "C", "Review", ("Review",)),
    Command("review.open", "Open again", "O", "Review", ("Review",)),
    Command("output.make", "Make the master", "Ctrl+M", "Output"),
    Command("output.make_all", "Make all masters", "Ctrl+Shift+M", "Output"),
    Command("go.play", "Play or pause", "Space", "Go"),
    Command("go.back", "Play backwards", "J", "Go"),
    Command("go.stop", "Stop", "K", "Go"),
    Command("go.forward", "Play, again for double speed", "L", "Go"),
    Command("go.frame_back", "One frame back", "Left", "Go"),
    Command("go.frame_on", "One frame on", "Right", "Go"),
    Command("go.shot_back", "Previous shot", "Up", "Go"),
    Command("go.shot_on", "Next shot", "Down", "Go"),
    Command("go.first", "First frame", "Home", "Go"),
    Command("go.last", "Last frame", "End", "Go"),
    Command("go.doubt", "Next that needs a look", "N", "Go"),
    Command("go.master", "Next master", "Q", "Go"),
    Command("go.half", "Half speed", "Shift+K", "Go"),
    Command("go.play_shot", "Play this shot from its start", "P", "Go"),
    Command("go.loop", "Play this shot round and round", "Shift+Space", "Go"),
    Command("go.across_before", "Play across the cut before", "Shift+J", "Go"),
    Command("go.across_after", "Play across the cut after", "Shift+L", "Go"),
    Command("go.unplayed", "Play all that was not played since it changed", "Shift+P", "Go"),
    Command("view.guides", "Guides: thirds, middle, safe area", "Shift+T", "View"),
    Command("view.wipe", "Wipe between source and result", "Z", "View", ("Framing",)),
    Command("view.enlarge", "Enlarge the next master", "Shift+Z", "View", ("Framing",)),
    Command("view.closer", "Closer to the picture", "Ctrl++", "View"),
    Command("view.farther", "Farther from the picture", "Ctrl+-", "View"),
    Command("view.fit", "The whole picture in sight", "Ctrl+0", "View"),
    Command("view.chart_closer", "Less time in the chart", "Ctrl+Alt++", "View", ("Framing",)),
    Command("view.chart_farther", "More time in the chart", "Ctrl+Alt+-", "View", ("Framing",)),
    Command("view.chart_height", "Width or height in the chart", "Shift+H", "View", ("Framing",)),
    Command("view.snap", "Snapping on or off", "Shift+S", "View", ("Framing",)),
    *(
        Command(f"view.snap_{what}", f"Snap to {said}, or not", "", "View › Snapping", ("Framing",))
        for what, said in (
            ("cuts", "cuts"),
            ("keyframes", "the other masters' keyframes"),
            ("playhead", "the playhead"),
        )
    ),
    Command("view.text", "Larger text: 100, 125, 150 per cent", "", "View", when="always"),
    Command("view.theme", "Light or dim theme", "Ctrl+D", "View", when="always"),
    Command("help.walk", "First walk", "F1", "Help", when="always"),
    Command("help.keys", "Keys…", "F2", "Help", when="always"),
    *(Command(f"stage.{name}", name, f"Ctrl+{k}", "Stage", when="always") for k, name in enumerate(STAGES, 1)),
)


def command(id: str) -> Command:
    """The command with this id."""
    return next(c for c in COMMANDS if c.id == id)
