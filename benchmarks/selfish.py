"""One student, or six connections of one, do their worst: what the others notice of it.

The worst runs as a process of its own: ``python -m benchmarks.selfish PORT FILE``, until it is ended.
"""

from __future__ import annotations

import json
import random
import secrets
import sys
import threading
from pathlib import Path

import httpx

from benchmarks.college import SECTIONS, TERM

CONNECTIONS = 6


def worst(port: int, cookie: str, csrf_token: str, seed: int) -> None:
    """Ask without end for what costs most: long pastes of marks, forty adds with four next choices
    each, the cart, searches, streams, and wrong passwords."""
    rng = random.Random(seed)
    base = f"http://127.0.0.1:{port}"
    headers = {"Cookie": cookie, "X-CSRF-Token": csrf_token}
    marks = "20001 e" + "\u0301\u0316" * 9_900

    def number() -> str:
        return f"{20_000 + rng.randrange(SECTIONS)}"

    with httpx.Client(base_url=base, headers=headers, timeout=120) as client:
        while True:
            changes = [
                {"kind": "add", "number": number(), "alternatives": [[number()] for _ in range(4)]}
                for _ in range(40)
            ]
            try:
                client.post(
                    f"/api/terms/{TERM}/submissions",
                    json={"changes": changes},
                    headers={"Idempotency-Key": secrets.token_hex(8)},
                )
                client.post(f"/api/terms/{TERM}/cart/changes", json={"kind": "add", "text": marks})
                client.post(
                    f"/api/terms/{TERM}/cart/changes",
                    json={"kind": "add", "text": " ".join(number() for _ in range(40))},
                )
                client.get(f"/api/terms/{TERM}/cart")
                client.get(f"/api/terms/{TERM}/search", params={"words": "qwertzuiop asdfghjk " * 20})
                with client.stream("GET", f"/api/terms/{TERM}/stream"):
                    pass
                httpx.post(f"{base}/api/session", json={"username": secrets.token_hex(4), "password": "x"})
            except httpx.HTTPError:
                continue


def main(port: int, file: Path) -> None:
    """Do it on six connections of one student at once."""
    _, cookie, csrf_token, *_ = file.read_text().splitlines()[0].split("\t")
    threads = [threading.Thread(target=worst, args=(port, cookie, csrf_token, n)) for n in range(CONNECTIONS)]
    for thread in threads:
        thread.start()
    print(json.dumps("begun"), flush=True)


if __name__ == "__main__":
    main(int(sys.argv[1]), Path(sys.argv[2]))
