"""A program that reads what others wrote: what its libraries fall over costs nobody else anything."""
