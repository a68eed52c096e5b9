"""Checks whether a term is ready to open."""
