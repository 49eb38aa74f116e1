"""The user's preferences: read at the start, kept whenever they change."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from PyQt6.QtWidgets import QWidget

from ezvar.app.kit import theme
from ezvar.app.session.messages import Messages
from ezvar.core.errors import EzvarError
from ezvar.core.store import TEXT_SIZES, Preferences, Theme, load_preferences, preferences_file, save_preferences


class KeptPreferences:
    """Theme, size of text and keys. A file that cannot be read stays as it is, and that is said by `tell`."""

    def __init__(self, messages: Messages) -> None:
        self._messages = messages
        self.file = preferences_file()
        self.now = Preferences()
        self._unread = ""
        try:
            self.now = load_preferences(self.file)
        except EzvarError as error:
            self._unread = str(error)
        theme.use(self.now.theme)
        theme.set_text_size(self.now.text)
        theme.dress()

    def tell(self) -> None:
        """Say what could not be read, once there is a window to say it."""
        if self._unread:
            self._messages.say_problem(self._unread)

    def keep_keys(self, keys: Mapping[str, str]) -> None:
        self._keep(replace(self.now, keys=dict(keys)))

    def turn_theme(self, window: QWidget) -> None:
        """Change between the light and the dim theme."""
        name: Theme = "light" if self.now.theme == "dim" else "dim"
        theme.use(name)
        theme.dress()
        for widget in window.findChildren(QWidget):
            widget.update()
        self._keep(replace(self.now, theme=name))

    def turn_text_size(self) -> None:
        """Another size of text, from the next start on: everything is laid out by it."""
        size = TEXT_SIZES[(TEXT_SIZES.index(self.now.text) + 1) % len(TEXT_SIZES)]
        if self._keep(replace(self.now, text=size)):
            self._messages.say(f"Text will be {size}\u00a0% from the next start on.")

    def turn_notice(self) -> None:
        """Say on the desktop when all movies are made, or not any more."""
        wanted = not self.now.notice
        if self._keep(replace(self.now, notice=wanted)):
            self._messages.say(f"When all is made, it is {'said on the desktop too' if wanted else 'said here alone'}.")

    def keep_preset(self, name: str) -> None:
        """Make a preset the default one."""
        self._keep(replace(self.now, preset=name))

    def keep_machines(self, address: str, paths: tuple[str, ...], then_here: bool) -> None:
        """Have the work done by other machines, or by this one."""
        self._keep(replace(self.now, machines=address, paths=paths, then_here=then_here))

    def keep_author(self, name: str) -> None:
        self._keep(replace(self.now, author=name))

    def _keep(self, preferences: Preferences) -> bool:
        """Keep preferences for the next start; whether that worked, else it is said."""
        self.now = preferences
        try:
            save_preferences(preferences, self.file)
        except EzvarError as error:
            self._messages.say_problem(str(error))
            return False
        return True
