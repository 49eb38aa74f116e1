"""Choosing a window by the plainest kind of path that serves."""
