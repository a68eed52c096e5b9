"""Schemas of an import."""

from __future__ import annotations

from typing import Any

from pydantic import Field

from gremba.web.schema_base import Schema


class MistakeResponse(Schema):
    """Something in a folder that cannot be taken over."""

    table: str
    line: int
    column: str
    value: str
    problem: str
    guess: str


class RowChange(Schema):
    """A row of which something else is kept."""

    key: list[str]
    cells: dict[str, list[str]] = Field(description="By column, what is kept and what comes in its place")


class TableChange(Schema):
    """What a table of a folder brings."""

    name: str
    rows: int
    new: int
    changed: int
    left_out: int
    first_changed: list[RowChange]


class AffectedSectionResponse(Schema):
    """A section that students notice a change of."""

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
    """What a folder brings, or what is wrong with it."""

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
    """A line of the answer: how far it has come, and at last what came of it."""

    doing: str = ""
    share: float = 0.0
    report: FolderReport | None = None
    problem: dict[str, Any] | None = None
