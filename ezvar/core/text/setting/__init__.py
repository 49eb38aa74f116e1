"""Setting text: type, line breaks, the layout of a caption, and its drawing."""
