"""Titles and captions, laid out again for each shape. Nothing is here yet."""
