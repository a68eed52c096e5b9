"""Gremba: students register, drop, swap and waitlist course sections."""
