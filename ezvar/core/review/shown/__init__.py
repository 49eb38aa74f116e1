"""Decisions as they are looked at by people: stills, a book, a page, movies."""
