"""What stands over the picture: captions, titles, their places, and what apps draw there."""
