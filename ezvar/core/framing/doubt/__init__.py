"""How much a framing deserves a look, and why."""
