"""What is handed out, and how it is written."""
