"""Schemas of an import."""

from __future__ import annotations

from typing import Any

from pydantic import Field

from gremba.web.schema_base import Schema


class MistakeResponse(Schema):
    """An error in a folder."""

    table: str
    line: int
    column: str
    value: str
    problem: str
    guess: str


class RowChange(Schema):
    """A row with changed values."""

    key: list[str]
    cells: dict[str, list[str]] = Field(description="By column, what is kept and what comes in its place")


class TableChange(Schema):
    """What a table of a folder changes."""

    name: str
    rows: int
    new: int
    changed: int
    left_out: int
    first_changed: list[RowChange]


class AffectedSectionResponse(Schema):
    """A section with a change that students notice."""

    number: str
    name: str
    is_off: bool
    before: str
    after: str
    registered: int
    waiting: int
    in_carts: int
    clashing: int


class FolderReport(Schema):
    """What a folder would change, or its errors."""

    mistakes: list[MistakeResponse]
    mistakes_in_all: int
    tables: list[TableChange]
    affected: list[AffectedSectionResponse]
    windows: int = Field(description="Students whose windows are others now, in terms that they see")
    charged: int = Field(description="Students registered in terms that cost something else now")
    strangers: list[str]
    changes_nothing: bool
    has_moved: bool
    is_done: bool
    digest: str


class FolderProgress(Schema):
    """A line of the answer: the progress, or finally the result."""

    doing: str = ""
    share: float = 0.0
    report: FolderReport | None = None
    problem: dict[str, Any] | None = None
