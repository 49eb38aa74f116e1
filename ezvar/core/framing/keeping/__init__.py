"""What a window must keep: whom it follows, and what of them."""
