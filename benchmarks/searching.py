"""How long a search among 5,000 sections takes in the server while a rush runs."""

from __future__ import annotations

import random
import re
import threading
from dataclasses import dataclass, field

import httpx

from benchmarks.college import TERM, WORDS

PAUSE = 0.05
"""Seconds between two searches of one person typing."""


@dataclass
class Typing(threading.Thread):
    """Somebody who types, changes filters and scrolls, until told to stop."""

    port: int
    seed: int
    took: list[float] = field(default_factory=list)
    broken: int = 0

    def __post_init__(self) -> None:
        super().__init__(daemon=True)
        self._ending = threading.Event()

    def __hash__(self) -> int:
        return id(self)

    def run(self) -> None:
        """Search, with the time that the server says it took."""
        rng = random.Random(self.seed)
        week = ",".join(str(20_000 + rng.randrange(5_000)) for _ in range(5))
        with httpx.Client(base_url=f"http://127.0.0.1:{self.port}", timeout=60) as client:
            while not self._ending.is_set():
                answer = client.get(
                    f"/api/terms/{TERM}/search", params={"against": week, **_some_filters(rng)}
                )
                found = re.search(r"search;dur=([\d.]+)", answer.headers.get("Server-Timing", ""))
                if found is None:
                    self.broken += 1
                else:
                    self.took.append(float(found[1]))
                self._ending.wait(PAUSE)

    def stop(self) -> None:
        """End it."""
        self._ending.set()
        self.join(timeout=60)


def _some_filters(rng: random.Random) -> dict[str, str | int | list[str]]:
    word = rng.choice(WORDS)
    mistyped = word[:2] + word[3:]
    return rng.choice(
        [
            {},
            {"words": word[: rng.randint(2, len(word))]},
            {"words": f"{word} {rng.choice(WORDS)}"},
            {"words": mistyped},
            {"subject": "LAND", "number": "1*"},
            {"fits": "true", "sort": "fit"},
            {"day": ["T", "R"], "part": "morning", "seats": "open"},
            {"offset": rng.randrange(6_000)},
            {"sort": "seats", "fits": "true"},
            {"sort": "time", "level": ["1", "3"]},
        ]
    )
