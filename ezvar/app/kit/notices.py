"""Notices on the desktop, by the Desktop Notifications Specification (freedesktop.org), where something takes them."""

from __future__ import annotations

from PyQt6.QtCore import QMetaType
from PyQt6.QtDBus import QDBusArgument, QDBusConnection, QDBusMessage

_SERVICE = "org.freedesktop.Notifications"


def notify(title: str, said: str) -> None:
    """Say something on the desktop; nothing happens where there is nobody who shows it."""
    bus = QDBusConnection.sessionBus()
    if not bus.isConnected():
        return
    message = QDBusMessage.createMethodCall(_SERVICE, "/org/freedesktop/Notifications", _SERVICE, "Notify")
    replaced = QDBusArgument()
    replaced.add(0, QMetaType.Type.UInt.value)  # type: ignore[arg-type]  # the stubs take it for the member
    actions = QDBusArgument()
    actions.beginArray(QMetaType(QMetaType.Type.QString.value))  # type: ignore[call-overload]
    actions.endArray()
    message.setArguments([title, replaced, "", title, said, actions, {}, -1])
    bus.asyncCall(message)
