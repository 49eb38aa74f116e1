"""The text stage."""
