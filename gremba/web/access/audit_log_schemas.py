"""Schemas of the audit log."""

from __future__ import annotations

from datetime import datetime

from pydantic import Field

from gremba.web.schema_base import Schema


class AuditEntryResponse(Schema):
    """An action on record."""

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
    """A page of audit log entries, newest first."""

    entries: list[AuditEntryResponse]
    next: int | None = Field(description="Where to go on")


class ChainBreakResponse(Schema):
    """An entry whose hash does not match the chain."""

    entry: int
    what: str


class ChainResponse(Schema):
    """The result of checking the chain."""

    many: int
    older: int
    first_at: datetime | None
    last_at: datetime | None
    last: str
    breaks: list[ChainBreakResponse]
