"""Height fields in mm: what tones become."""
