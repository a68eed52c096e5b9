"""Starts everything on one machine: the private PostgreSQL cluster and the server."""
