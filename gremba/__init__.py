"""Gremba: register, drop, swap and wait for course sections."""
