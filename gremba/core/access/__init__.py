"""Passwords, sign-in delays and the audit log."""
