"""Work on the session, at once or on threads, and what is worked out ahead of asking."""
