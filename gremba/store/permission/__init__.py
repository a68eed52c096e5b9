"""Requests for permission and permission codes."""
