"""Schemas of the audit log."""

from __future__ import annotations

from datetime import datetime

from pydantic import Field

from gremba.web.schema_base import Schema


class AuditEntryResponse(Schema):
    """Something that was done."""

    id: int
    at: datetime
    kind: str
    person: str
    account: str
    student: str
    address: str
    request_id: str
    detail: str


class AuditPage(Schema):
    """Entries of the record, the latest first."""

    entries: list[AuditEntryResponse]
    next: int | None = Field(description="Where to go on")


class ChainBreakResponse(Schema):
    """An entry at which the chain does not hold."""

    entry: int
    what: str


class ChainResponse(Schema):
    """What going through the chain came to."""

    many: int
    older: int
    first_at: datetime | None
    last_at: datetime | None
    last: str
    breaks: list[ChainBreakResponse]
