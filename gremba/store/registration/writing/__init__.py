"""Writes what decisions say, a batch at a time."""
