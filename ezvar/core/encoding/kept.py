"""The presets that the user keeps and exchanges, with those that come with the program."""

from __future__ import annotations

from ezvar.core.errors import InputError
from ezvar.core.model import Preset
from ezvar.core.store import NamedList, load_preferences, preferences_file

from .presets import DELIVERY, PRESETS

PRESETS_KEPT = NamedList(Preset, "ezvar presets", "presets", "presets", "presets.json")


def known_presets() -> tuple[Preset, ...]:
    """All presets, the user's own last; one of theirs takes the place of a shipped one of its name.

    Raises `ProjectError` where the user's cannot be read.
    """
    own = PRESETS_KEPT.load()
    names = {preset.name for preset in own}
    return (*(preset for preset in PRESETS if preset.name not in names), *own)


def default_preset() -> Preset:
    """The preset that the user has made the default one; the delivery preset where there is none of that name.

    Raises `ProjectError` where the user's cannot be read.
    """
    known = {preset.name: preset for preset in known_presets()}
    return known.get(load_preferences(preferences_file()).preset) or known[DELIVERY.name]


def preset_named(name: str) -> Preset:
    """A preset by its name, or by the only one whose name has all of its words, in capitals or not; the default one
    for an empty name.

    Raises `InputError` where there is none, or are several.
    """
    if not name:
        return default_preset()
    known = known_presets()
    words = name.lower().split()
    for fits in (lambda p: p.name == name, lambda p: all(word in p.name.lower() for word in words)):
        found = [preset for preset in known if fits(preset)]
        if len(found) == 1:
            return found[0]
    among = found or known
    raise InputError(
        f"“{name}” is {'several presets' if found else 'no preset'}",
        remedy=f"Choose one of: {'; '.join(preset.name for preset in among)}",
    )
