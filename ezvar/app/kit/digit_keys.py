"""Digits as keys, taken by their place on the keyboard, so that layouts with shifted digits work as well."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent

_FIRST = 10  # the key right of the one in the upper left corner, as X11 and Wayland number keys


def pressed_digit(event: QKeyEvent) -> tuple[str, str] | None:
    """The modifier and the digit that were pressed, by the key's place or else by what is written on it."""
    held = event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
    names = {
        Qt.KeyboardModifier.NoModifier: "", Qt.KeyboardModifier.ShiftModifier: "Shift",
        Qt.KeyboardModifier.AltModifier: "Alt",
    }  # fmt: skip
    if held not in names:
        return None
    place = event.nativeScanCode() - _FIRST + 1
    if 1 <= place <= 9:
        return names[held], str(place)
    digit = event.key() - Qt.Key.Key_0
    return (names[held], str(digit)) if 1 <= digit <= 9 else None
