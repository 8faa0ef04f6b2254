"""One picture of a subject to a closed mesh in the round."""
