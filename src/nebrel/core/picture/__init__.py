"""Pictures: decoding, tones, corrections."""
