"""Forms: maps from (u, v, h) in mm to space."""
