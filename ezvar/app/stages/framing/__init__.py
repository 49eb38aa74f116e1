"""The framing stage."""
