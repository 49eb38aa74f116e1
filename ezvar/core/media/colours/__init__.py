"""Colours: what movies say of them, other codings of the same ones, and tables that change them."""
