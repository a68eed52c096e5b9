"""Waitlist entries."""
