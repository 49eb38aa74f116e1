"""What an editor does to framings: by hand, by choices, in panes, to many at once."""
