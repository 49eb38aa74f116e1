"""The demo edit “Lantern night”: a project, and the same edit as a timeline with its own media."""

from pathlib import Path

DEMO_PROJECT = Path(__file__).parent / "lantern-night.ezvar"
DEMO_SEEN = DEMO_PROJECT.parent / "seen"
"""What was seen in the demo edit, so that it is complete when it opens (`tools/plan_demo.py`)."""
DEMO_TIMELINE = DEMO_PROJECT.with_suffix(".otio")
DEMO_CAPTIONS = DEMO_PROJECT.with_suffix(".srt")
"""A caption file with all that goes wrong with such files."""
