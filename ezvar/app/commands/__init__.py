"""What the commands do."""
