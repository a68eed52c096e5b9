"""Carts, the situations that decisions rest on, and what decisions write."""
