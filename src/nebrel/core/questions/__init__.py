"""What is asked of a recipe, and its answers."""
