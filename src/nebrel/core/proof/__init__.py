"""Checks and simulations before material is spent."""
