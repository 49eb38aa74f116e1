"""Joining what was seen at single looks: to tracks, steadied by movement, and to one subject a being."""
