"""Damaged and hostile files of every kind that comes in from outside, put through the command line."""
