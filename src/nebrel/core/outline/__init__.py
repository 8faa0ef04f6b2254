"""Outlines: closed lines in mm around what a mask covers."""
