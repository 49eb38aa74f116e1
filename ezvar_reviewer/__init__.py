"""A simulated reviewer: answers handoffs in a shared folder, so that the whole exchange can be seen on one machine.

It is a program of its own. It knows the folder and the published schema of
the decisions, and imports nothing of the application.
"""
