"""From a height field to a closed solid."""
