"""Routes of the audit log: search, export and verification."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator
from dataclasses import replace
from datetime import date, datetime, time, timedelta
from typing import Annotated
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Query, Request, Response
from fastapi.responses import StreamingResponse

from gremba.core.access.audit_log import verify
from gremba.core.states import AuditKind
from gremba.formats import table_file
from gremba.formats.table_file import safe_cell
from gremba.store.access.audit_log import AuditSought, FoundEntry, find_entries, read_head, recorded
from gremba.store.catalogue.terms import list_terms
from gremba.store.database import connected
from gremba.web.files import TABLE
from gremba.web.schemas import AuditEntryResponse, AuditPage, ChainBreakResponse, ChainResponse
from gremba.web.services import Services, services_of

router = APIRouter(prefix="/api/record")

_MOST = 60
_MOST_EXPORTED = 100_000
_CHUNK = 2_000

Words = Annotated[str, Query(max_length=100)]
Day = Annotated[date | None, Query()]
Kind = Annotated[AuditKind | None, Query()]


@router.get("")
def read_record(
    request: Request,
    words: Words = "",
    kind: Kind = None,
    since: Day = None,
    until: Day = None,
    before: Annotated[int | None, Query(ge=1, le=2**62)] = None,
) -> AuditPage:
    """List what was done, by whom, and from where, newest first."""
    services = services_of(request)
    sought = _sought(services, words, kind, since, until, before)
    with connected(services.context.database) as database:
        found = find_entries(database, sought, _MOST + 1)
    shown = found[:_MOST]
    return AuditPage(
        entries=[AuditEntryResponse.model_validate(entry, from_attributes=True) for entry in shown],
        next=shown[-1].id if len(found) > _MOST else None,
    )


def _sought(
    services: Services,
    words: str,
    kind: AuditKind | None,
    since: date | None,
    until: date | None,
    before: int | None,
) -> AuditSought:
    zone = _zone(services)
    today = datetime.now(zone).date()
    first, last = since or today - timedelta(days=31), until or today
    return AuditSought(
        since=datetime.combine(max(first, date(1970, 1, 1)), time(), zone),
        until=datetime.combine(min(last, date(9000, 1, 1)) + timedelta(days=1), time(), zone),
        words=words,
        kind=kind,
        before_id=before,
    )


def _zone(services: Services) -> ZoneInfo:
    with connected(services.context.database) as database:
        terms = list_terms(database)
    return ZoneInfo(terms[-1].zone if terms else "UTC")


COLUMNS = ("number", "at", "what", "by", "account", "about", "address", "request", "detail")


@router.get("/file", responses=TABLE, response_class=Response)
def download_record(
    request: Request, words: Words = "", kind: Kind = None, since: Day = None, until: Day = None
) -> StreamingResponse:
    """Download the same entries as CSV, up to 100,000."""
    services = services_of(request)
    sought = _sought(services, words, kind, since, until, None)
    headers = {
        "Content-Disposition": 'attachment; filename="record.csv"',
        "Cache-Control": "private, no-store",
    }
    # What cannot be looked for is told before anything has been sent.
    with connected(services.context.database) as database:
        first = find_entries(database, sought, _CHUNK)
    lines = _table(services, sought, first)
    return StreamingResponse(lines, media_type=table_file.MEDIA_TYPE, headers=headers)


def _table(services: Services, sought: AuditSought, found: list[FoundEntry]) -> Iterator[str]:
    """Yields the CSV in chunks.

    Args:
        found: the first entries.
    """
    yield "\ufeff" + _written([COLUMNS])
    many = 0
    while found:
        yield _written(_cells(entry) for entry in found)
        many += len(found)
        if len(found) < _CHUNK or many >= _MOST_EXPORTED:
            return
        sought = replace(sought, before_id=found[-1].id)
        with connected(services.context.database) as database:
            found = find_entries(database, sought, _CHUNK)


def _cells(entry: FoundEntry) -> list[str]:
    texts = (
        entry.kind.value,
        entry.person,
        entry.account,
        entry.student,
        entry.address,
        entry.request_id,
        entry.detail,
    )
    return [str(entry.id), entry.at.isoformat(), *map(safe_cell, texts)]


def _written(rows: Iterator[list[str]] | list[tuple[str, ...]]) -> str:
    stream = io.StringIO()
    csv.writer(stream, lineterminator="\r\n").writerows(rows)
    return stream.getvalue()


@router.get("/chain")
def verify_record(request: Request) -> ChainResponse:
    """Check the hash chain of all entries kept, and report where it is broken."""
    with connected(services_of(request).context.database) as database:
        head = read_head(database)
        found = verify(recorded(database, head.last_id), head)
    return ChainResponse(
        many=found.many,
        older=found.older,
        first_at=found.first_at,
        last_at=found.last_at,
        last=found.last.hex() if found.many else "",
        breaks=[ChainBreakResponse(entry=one.id, what=one.what) for one in found.breaks],
    )
