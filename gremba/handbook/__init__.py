"""Generates pages of the docs from the code."""
