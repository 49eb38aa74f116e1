"""The output stage."""
