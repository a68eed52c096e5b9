"""Delivers messages through a mail server."""
