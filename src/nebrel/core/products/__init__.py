"""What is saved of a piece."""
