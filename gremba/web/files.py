"""Responses that are downloads."""

from __future__ import annotations

from typing import Any
from urllib.parse import quote

from fastapi import Response

_Responses = dict[int | str, dict[str, Any]]

CALENDAR: _Responses = {200: {"description": "A calendar (RFC 5545)", "content": {"text/calendar": {}}}}
TABLE: _Responses = {200: {"description": "A table (RFC 4180)", "content": {"text/csv": {}}}}


def as_file(body: bytes, media_type: str, name: str) -> Response:
    """A download with a file name; caches must not keep it."""
    headers = {
        "Content-Disposition": f'attachment; filename="{name}"',
        "Cache-Control": "private, no-store",
    }
    return Response(body, media_type=media_type, headers=headers)


def as_named_file(body: bytes, media_type: str, name: str) -> Response:
    """A download under a name that somebody else chose (RFC 6266). It is never rendered here, whatever it
    contains."""
    plain = "".join(c if c.isascii() and c.isprintable() and c not in '"\\%;' else "_" for c in name)
    headers = {
        "Content-Disposition": f"attachment; filename=\"{plain}\"; filename*=UTF-8''{quote(name, safe='')}",
        "Cache-Control": "private, no-store",
        "Content-Security-Policy": "default-src 'none'; sandbox",
    }
    return Response(body, media_type=media_type, headers=headers)
