"""A campus with a registrar who is signed in to it."""

from __future__ import annotations

import secrets
from typing import Any

import httpx

from tests.support.campus import TERM, Somebody
from tests.support.served import OnCampus
from tests.support.soon import soon

OFFICE = f"/api/office/terms/{TERM}"


class OnOffice(OnCampus):
    """Its tests ask as the registrar does."""

    registrar: Somebody
    maud: httpx.Client

    def setUp(self) -> None:
        super().setUp()
        self.registrar = self.campus.person("registrar")
        self.maud = self.campus.client(self.registrar, self.server.url)
        self.addCleanup(self.maud.close)

    def get(self, path: str, **query: Any) -> Any:
        answer = self.maud.get(path, params=query)
        self.assertEqual(answer.status_code, 200, answer.text)
        return answer.json()

    def ask(self, method: str, path: str, body: Any, status: int = 200, key: str = "") -> Any:
        """The answer to what is sent with a key, a new one unless it is given."""
        headers = {"Idempotency-Key": key or secrets.token_hex(8)}
        answer = self.maud.request(method, path, json=body, headers=headers)
        self.assertEqual(answer.status_code, status, answer.text)
        return answer.json()

    def recorded(self, words: str) -> str:
        """What is on record with these words, as soon as it is."""
        found: list[str] = []

        def is_there() -> bool:
            entries = self.get("/api/record")["entries"]
            found[:] = [str(entry["detail"]) for entry in entries if words in entry["detail"]]
            return bool(found)

        soon(is_there)
        return found[0]

    def messages(self, who: Somebody) -> list[str]:
        return [told.body for row, told in self.campus.told() if row == who.row]
