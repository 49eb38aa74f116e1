"""Captions from nothing: pasted text spread over time, and speech written down by a service."""
