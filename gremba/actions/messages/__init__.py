"""Handing messages over to a mail server."""
