"""Writes a batch of decisions in the one right order."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from playhouse.pool import PooledPostgresqlDatabase

from gremba.store.registration.writing.carts import empty_carts
from gremba.store.registration.writing.confirmations import write_confirmations
from gremba.store.registration.writing.decided import Writing
from gremba.store.registration.writing.registrations import write_adds, write_adjustments, write_drops
from gremba.store.registration.writing.waitlists import write_entries


def write(database: PooledPostgresqlDatabase, batch: Sequence[Writing], at: datetime) -> None:
    """Write a batch of decisions made at one moment, one per student at most, in up to ten statements.

    Raises:
        Refused: the tables refuse it; nothing may be committed then.
    """
    write_confirmations(database, batch, at)
    # What is given up goes first: its seats may be those that others in the batch take.
    write_drops(database, batch, at)
    write_adds(database, batch, at)
    write_adjustments(database, batch, at)
    write_entries(database, batch, at)
    empty_carts(database, batch)
