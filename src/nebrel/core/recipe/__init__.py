"""The recipe of a piece and the evaluator that runs it."""
