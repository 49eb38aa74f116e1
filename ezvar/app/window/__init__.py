"""The window itself: its layout, strips, ledger, keys and messages."""
