"""The window, driven by clicks and keys."""
