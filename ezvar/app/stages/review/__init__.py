"""The review stage."""
