"""Everything Ezvar computes. No Qt below here; see docs/ARCHITECTURE.md for the rooms."""
