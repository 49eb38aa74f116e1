"""What is to be made of the masters: presets and rows."""
