"""Mesh and picture files in and out."""
