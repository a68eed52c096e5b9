"""The descriptor of an exchange folder: a Data Package with a Table Schema for each table (open standards of
Frictionless Data, version 1)."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from gremba.core.exchange.definition import Column, ExchangeTable, ValueKind

DESCRIPTOR = "datapackage.json"

_TYPES: dict[ValueKind, dict[str, Any]] = {
    ValueKind.WHOLE: {"type": "integer"},
    ValueKind.CREDITS: {"type": "number"},
    ValueKind.MONEY: {"type": "number"},
    ValueKind.DAY: {"type": "date"},
    ValueKind.TIME: {"type": "time", "format": "%H:%M"},
    ValueKind.MOMENT: {"type": "datetime", "format": "any"},
    ValueKind.YES_NO: {"type": "boolean", "trueValues": ["yes"], "falseValues": ["no"]},
}


def descriptor(name: str, title: str, tables: Iterable[ExchangeTable]) -> dict[str, Any]:
    """The data package descriptor of a folder with these tables.

    Args:
        name: of the package, in small letters, figures and hyphens.
    """
    there = list(tables)
    names = {table.name for table in there}
    return {
        "profile": "tabular-data-package",
        "name": name,
        "title": title,
        "resources": [
            {
                "profile": "tabular-data-resource",
                "name": table.name,
                "path": f"{table.name}.csv",
                "description": table.meaning,
                "encoding": "utf-8",
                "schema": table_schema(table, names),
            }
            for table in there
        ],
    }


def table_schema(table: ExchangeTable, among: Iterable[str]) -> dict[str, Any]:
    """A Table Schema.

    Args:
        among: tables that can be referred to.
    """
    names = set(among)
    return {
        "fields": [_field(column) for column in table.columns],
        "missingValues": [""],
        "primaryKey": list(table.key),
        "foreignKeys": [
            {
                "fields": list(target.columns.values()),
                "reference": {
                    "resource": "" if target.table == table.name else target.table,
                    "fields": list(target.columns),
                },
            }
            for target in table.targets
            # The standard knows no reference of which one column is empty, and none by two columns in one.
            if target.table in names
            and target.table != "courses"
            and all(table.column(c).required for c in target.columns.values())
        ],
    }


def _field(column: Column) -> dict[str, Any]:
    constraints: dict[str, Any] = {"required": True} if column.required else {}
    if column.among and column.kind is ValueKind.CHOICE:
        constraints["enum"] = list(column.among)
    if column.pattern:
        constraints["pattern"] = column.pattern
    for name, bound in (("minimum", column.least), ("maximum", column.most)):
        if bound is not None and column.kind is not ValueKind.MONEY:
            constraints[name] = bound
    field = {
        "name": column.name,
        "title": column.name.replace("_", " ").capitalize(),
        "description": column.meaning,
        "example": column.example,
        **_TYPES.get(column.kind, {"type": "string"}),
    }
    return {**field, "constraints": constraints} if constraints else field
