"""Signing in to a served demo as a program does."""

from __future__ import annotations

import httpx

from gremba.demo.cast import PASSWORD
from gremba.web.access.guard import CSRF_HEADER


def signed_in_client(server: str, username: str) -> httpx.Client:
    """A client with a session of one of the demo's people."""
    client = httpx.Client(base_url=server, timeout=30)
    answer = client.post("/api/session", json={"username": username, "password": PASSWORD})
    answer.raise_for_status()
    client.headers[CSRF_HEADER] = answer.json()["csrf_token"]
    return client
