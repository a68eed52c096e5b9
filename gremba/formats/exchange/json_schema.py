"""The tables of the exchange folder as a JSON Schema (draft 2020-12), for programs that make one. A row is an
object of its cells' texts."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from gremba.core.exchange.definition import Column, ExchangeTable, ValueKind

DIALECT = "https://json-schema.org/draft/2020-12/schema"

_PATTERNS: dict[ValueKind, str] = {
    ValueKind.WHOLE: r"-?\d+",
    ValueKind.CREDITS: r"\d+(\.\d)?",
    ValueKind.MONEY: r"-?\d+(\.\d\d)?",
    ValueKind.DAY: r"\d{4}-\d\d-\d\d",
    ValueKind.TIME: r"\d\d:\d\d",
    ValueKind.YES_NO: "yes|no",
}
"""As they are written out; what else is read is told in docs/exchange.md."""


def json_schema(title: str, tables: Iterable[ExchangeTable]) -> dict[str, Any]:
    """A JSON Schema of the tables: an object with a list of rows for each."""
    there = list(tables)
    return {
        "$schema": DIALECT,
        "title": title,
        "type": "object",
        "additionalProperties": False,
        "properties": {
            table.name: {"type": "array", "items": {"$ref": f"#/$defs/{table.name}"}} for table in there
        },
        "$defs": {table.name: _row(table) for table in there},
    }


def _row(table: ExchangeTable) -> dict[str, Any]:
    return {
        "description": table.meaning,
        "type": "object",
        "additionalProperties": False,
        "required": [column.name for column in table.columns if column.required],
        "properties": {column.name: _cell(column) for column in table.columns},
    }


def _cell(column: Column) -> dict[str, Any]:
    cell: dict[str, Any] = {"description": column.meaning, "examples": [column.example], "type": "string"}
    if column.among and column.kind is ValueKind.CHOICE:
        cell["enum"] = [*column.among, *([] if column.required else [""])]
        return cell
    pattern = column.pattern or _PATTERNS.get(column.kind, "")
    if pattern:
        cell["pattern"] = f"^({pattern})$" if column.required else f"^({pattern})?$"
    elif column.required:
        cell["minLength"] = 1
    return cell
