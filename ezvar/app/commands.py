"""Every command as data: id, title, key, menu. Menus, tooltips and the finder are made from these."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Command:
    """What can be done. ``stages`` empty means in every stage; ``needs_lock`` greys it out without one."""

    id: str
    title: str
    key: str = ""
    menu: str = ""
    stages: tuple[str, ...] = ()
    needs_lock: bool = True


STAGES = ("Lock", "Cuts", "Framing", "Text", "Review", "Output")

COMMANDS: tuple[Command, ...] = (
    Command("file.open", "Open a movie, timeline or project…", "Ctrl+O", "File", needs_lock=False),
    Command("file.clips", "Open loose clips…", "Ctrl+Shift+O", "File", needs_lock=False),
    Command("file.demo", "Open the demo edit", "", "File", needs_lock=False),
    Command("file.demo_timeline", "Open the demo edit as a timeline", "", "File", needs_lock=False),
    Command("file.save", "Save", "Ctrl+S", "File"),
    Command("file.save_as", "Save as…", "Ctrl+Shift+S", "File"),
    Command("file.quit", "Quit", "Ctrl+Q", "File", needs_lock=False),
    Command("edit.undo", "Undo", "Ctrl+Z", "Edit"),
    Command("edit.redo", "Redo", "Ctrl+Shift+Z", "Edit"),
    Command("edit.finder", "Find a command…", "Ctrl+Space", "Edit", needs_lock=False),
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
    Command("framing.agree", "Looks right, next", "Return", "Framing", ("Framing",)),
    Command("framing.solve", "Back to solved", "S", "Framing", ("Framing",)),
    Command("framing.middle", "Window to the middle", "M", "Framing", ("Framing",)),
    Command("framing.whole", "Whole picture on its backdrop", "W", "Framing", ("Framing",)),
    Command("framing.left", "Window a little left or up", "Alt+Left", "Framing", ("Framing",)),
    Command("framing.right", "Window a little right or down", "Alt+Right", "Framing", ("Framing",)),
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
    *(Command(f"stage.{name}", name, f"Ctrl+{k}", "Stage", needs_lock=False) for k, name in enumerate(STAGES, 1)),
)


def command(id: str) -> Command:
    """The command with this id."""
    return next(c for c in COMMANDS if c.id == id)
