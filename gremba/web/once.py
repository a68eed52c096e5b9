"""The Idempotency-Key header."""

from __future__ import annotations

from typing import Annotated

from fastapi import Header

OnceKey = Annotated[
    str,
    Header(
        alias="Idempotency-Key",
        min_length=8,
        max_length=80,
        description="Of the sender's making; what is sent again with the same key is not done again",
    ),
]
