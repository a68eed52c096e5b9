"""Paying as a browser does: on the payment service's page, and back from it."""

from __future__ import annotations

import httpx


def pay_on_page(client: httpx.Client, page: str, card: str) -> httpx.Response:
    """Type a card on the stand-in's page; gives its answer: a way back, or the page again."""
    return client.post(page, data={"card": card})


def leave_page(client: httpx.Client, page: str) -> httpx.Response:
    """Go back without paying."""
    return client.post(page, data={"leave": "yes"})
