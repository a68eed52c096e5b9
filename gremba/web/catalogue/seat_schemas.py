"""Schemas of seats."""

from __future__ import annotations

from pydantic import Field

from gremba.web.schema_base import Schema


class SeatsResponse(Schema):
    """The seats of a section, for display."""

    limit: int
    taken: int
    offered: int
    left: int
    reserved: int = Field(description="Of those left, kept for a group until a date")
    waiting: int
    waitlist_limit: int
