"""A receiver of masters that only pretends. See docs/RECEIVING.md."""
