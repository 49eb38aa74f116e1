"""The commands of the framing stage, a module a menu or a part of one."""

from .choices import CHOICES
from .keyframes import KEYFRAMES, STRETCH
from .several import SEVERAL
from .subjects import OFFERS, SUBJECTS
from .versions import VERSIONS
from .view import SNAPPING, VIEW
from .ways import WAYS
from .windows import WINDOW

_MENUS = (WAYS, SEVERAL, CHOICES, WINDOW, KEYFRAMES, STRETCH, VERSIONS, SUBJECTS, OFFERS, VIEW, SNAPPING)
COMMANDS = tuple(command for menu in _MENUS for command in menu.commands)
