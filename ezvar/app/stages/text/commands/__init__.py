"""The text menu, in its parts."""

from .captions import OFFERS, TEXT
from .look import LOOK
from .titles import TITLES
from .writing import WRITING

COMMANDS = (*TEXT.commands, *OFFERS.commands, *LOOK.commands, *TITLES.commands, *WRITING.commands)
