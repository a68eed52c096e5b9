"""Files that are downloaded."""

from __future__ import annotations

from typing import Any

from fastapi import Response

_Responses = dict[int | str, dict[str, Any]]

CALENDAR: _Responses = {200: {"description": "A calendar (RFC 5545)", "content": {"text/calendar": {}}}}
TABLE: _Responses = {200: {"description": "A table (RFC 4180)", "content": {"text/csv": {}}}}


def as_file(body: bytes, media_type: str, name: str) -> Response:
    """A file to be kept under a name; nobody else is to keep it."""
    headers = {
        "Content-Disposition": f'attachment; filename="{name}"',
        "Cache-Control": "private, no-store",
    }
    return Response(body, media_type=media_type, headers=headers)
