"""What all parts of the window are made of: type and colours, controls, commands as data and their keys."""
