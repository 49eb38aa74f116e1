"""The demo edit “Lantern night”: a project, and the same edit as a timeline with its own media."""

from pathlib import Path

DEMO_PROJECT = Path(__file__).parent / "lantern-night.ezvar"
DEMO_TIMELINE = DEMO_PROJECT.with_suffix(".otio")
