"""Meshes: measure, shade, render."""
