"""Links: from a recipe to what it comes to, each computation told apart by what goes into it."""
