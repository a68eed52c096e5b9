"""The steps of a decision; ``decision.py`` beside this folder starts them."""
