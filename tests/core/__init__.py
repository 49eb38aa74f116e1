"""The core by itself."""
