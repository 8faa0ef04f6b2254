"""A practice service: an online model maker that ships, to try out what one does with such."""
