"""Carts, the situations they are decided in, and what decisions write."""
