"""A transcription service that only pretends: it knows the demo's made-up speech. See docs/TRANSCRIPTION.md."""
