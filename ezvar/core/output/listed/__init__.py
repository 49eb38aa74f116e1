"""The output list: its rows, how they stand, what still waits, and what they will come to."""
