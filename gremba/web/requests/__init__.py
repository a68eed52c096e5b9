"""Middleware that every request passes: limits, turns, compression, headers."""
