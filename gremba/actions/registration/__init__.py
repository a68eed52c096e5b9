"""Editing, viewing and submitting a cart."""
