"""What is wrong with captions, in time, in their layout and over the picture, and what can be done about it."""
