"""Pictures on screen, and what is played."""
