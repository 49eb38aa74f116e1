"""Measurements; and the generated material that they share with the tests."""
