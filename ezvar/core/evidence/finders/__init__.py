"""What looks at one picture, or a few, and says where things are: faces, standing figures, text, movement."""
