"""The commands of no stage: file, edit, go, view, help; and what the window offers to any command."""

from .edit import EDIT
from .file import FILE, ask_about_clips, ask_in_the_way, ask_rate, open_demo, open_file
from .transport import GO, loop
from .window import HELP, LOOK
from .workbench import Workbench, lock_open

HOUSE = (*FILE.commands, *EDIT.commands, *GO.commands, *LOOK.commands, *HELP.commands)

__all__ = [
    "HOUSE",
    "Workbench",
    "ask_about_clips",
    "ask_in_the_way",
    "ask_rate",
    "lock_open",
    "loop",
    "open_demo",
    "open_file",
]
