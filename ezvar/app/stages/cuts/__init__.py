"""The cuts stage."""
