"""What comes back, and how it is merged."""
