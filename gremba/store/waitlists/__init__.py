"""Waitlist entries: how they are read and what becomes of them."""
