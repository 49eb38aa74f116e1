"""Ezvar's tests. Media are generated; nothing outside the project is read."""
