"""Makes a request with an idempotency key take effect once."""

from __future__ import annotations

import hashlib
import json
from datetime import datetime

from peewee import PostgresqlDatabase

from gremba.actions.problem import key_used
from gremba.store.done_once import claim_key


def is_repeated(
    database: PostgresqlDatabase, person_id: int, key: str, at: datetime, action: str, *arguments: object
) -> bool:
    """Whether a person has already done this with this key. If not, the key is taken in the current
    transaction.

    Raises:
        Problem: something else was done by the key.
    """
    told = json.dumps(arguments, default=str, ensure_ascii=False)
    what = f"{action} {hashlib.sha256(told.encode()).hexdigest()[:32]}"
    before = claim_key(database, person_id, key, what, at)
    if before is not None and before != what:
        raise key_used()
    return before is not None
