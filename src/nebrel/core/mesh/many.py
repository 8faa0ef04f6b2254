"""Where compiled loops begin to pay."""

MANY = 100_000
"""Faces. Below, whole arrays at a time are as quick, and loading compiled code is not."""
