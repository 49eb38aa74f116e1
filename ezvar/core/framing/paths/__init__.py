"""Paths of a centre: the calmest one, the fewest keyframes for it, stretches that are set by hand."""
