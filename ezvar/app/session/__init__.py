"""The open project: its document with undo, the place in it, opening and saving; and jobs on threads."""
