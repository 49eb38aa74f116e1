"""The lock stage."""
