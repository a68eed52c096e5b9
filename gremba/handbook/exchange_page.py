"""Generates docs/exchange.md from the definition of the exchange folder."""

from __future__ import annotations

from textwrap import dedent

from gremba.core.catalogue import requisite_text
from gremba.core.exchange.definition import Column, ExchangeTable, ValueKind
from gremba.core.exchange.settings import FOLDER_SETTINGS
from gremba.core.exchange.tables import TABLES

_INTRODUCTION = """# The exchange folder

Generated from `gremba/core/exchange/` by `./tools/generate`; do not edit it here.

A college's data is imported and exported as a set of tables: a Data Package (`datapackage.json`, with a
Table Schema for each table) of comma-separated UTF-8 text files, one `TABLE.csv` for each table below; or
the same in one `.zip`, or as the sheets of one `.xlsx`. `examples/` contains a small college.

- `./tools/gremba import FOLDER --trial` reports every error by table, line, and column, and what would
  change; without `--trial`, everything is imported, or nothing. `./tools/gremba export FOLDER` exports it.
- Tables you leave out are not changed, and neither are columns, except key columns. New rows also need the
  required columns. Rows you leave out are kept, and the report counts them. Nothing is ever removed: a
  section that is not offered is `cancelled`.
- Importing the same folder again changes nothing. Registrations, waitlists, carts, and accounts are not
  part of it and are never touched.
- Semicolons or tabs as separators, UTF-16, and a byte order mark are accepted. Other encodings, formulas,
  and merged cells are rejected, with the location.
- A cell that a spreadsheet would run as a formula is written with a leading apostrophe, which is ignored
  when it is read.

## Cells

| kind | how it is written |
| --- | --- |
"""

_KINDS: dict[ValueKind, str] = {
    ValueKind.TEXT: "any text, also of several lines; surrounding spaces are ignored",
    ValueKind.WHOLE: "`24`",
    ValueKind.CREDITS: "`3` or `1.5`",
    ValueKind.MONEY: "`62.00`",
    ValueKind.DAY: "`2027-08-23`",
    ValueKind.TIME: "`09:30`",
    ValueKind.ZONE: "`America/New_York`, as the tz database names it",
    ValueKind.MOMENT: "`2027-04-19T09:00-04:00`; without `-04:00` in the time zone of the college's latest "
    "term, which exports use",
    ValueKind.YES_NO: "`yes` or `no`",
    ValueKind.CHOICE: "one of the words listed",
    ValueKind.LIST: '`one; another`; double quotes around what contains `;` `,` `:` or `"`',
    ValueKind.REQUISITE: "`all(SOIL 110:C, any(CHEM 110, CHEM 236 &))`, see [below](#requisites)",
    ValueKind.FEES: "`materials 30.00; field trips 45.00`",
    ValueKind.REFUNDS: "`100% 2027-08-27; 50% 2027-09-10`: the refund through each day",
    ValueKind.GROUPS: "`program: Land stewardship, Orchard and hive; campus: hillfoot`",
    ValueKind.DOCUMENT: "JSON",
}


def exchange_page() -> str:
    """docs/exchange.md."""
    kinds = "".join(f"| {kind.value} | {how} |\n" for kind, how in _KINDS.items())
    return _INTRODUCTION + kinds + _requisites() + "".join(map(_section, TABLES)) + _settings()


def _settings() -> str:
    """The settings of the table of policies."""
    lines = "".join(
        f"| `{one.name}` | {one.form.kind} | {one.form.bounds} | {one.does} | `{one.example}` |\n"
        for one in FOLDER_SETTINGS
    )
    return (
        "\n## Settings\n\nThe rows of the table [policies](#policies), one for each setting of a term; "
        "settings that are not listed have their defaults.\n\n| setting | kind | bounds | | example |\n"
        f"| --- | --- | --- | --- | --- |\n{lines}"
    )


def _requisites() -> str:
    """The notation of requisites, from its parser's module."""
    form = dedent((requisite_text.__doc__ or "").partition("::\n\n")[2]).strip()
    return f"\n## Requisites\n\n```text\n{form}\n```\n"


def _section(table: ExchangeTable) -> str:
    names = "; ".join(
        f"{' and '.join(f'`{column}`' for column in target.columns.values())} to `{target.table}`"
        for target in table.targets
    )
    key = ", ".join(f"`{column}`" for column in table.key)
    lines = [
        f"\n## {table.name}\n\n{table.meaning} Key: {key}.",
        f" References: {names}." if names else "",
        "\n\n| column | kind | | example | |\n| --- | --- | --- | --- | --- |\n",
        *(_line(column) for column in table.columns),
    ]
    return "".join(lines)


def _line(column: Column) -> str:
    kind = column.kind.value
    if column.kind is ValueKind.CHOICE:
        kind = f"one of {', '.join(column.among)}"
    elif column.pattern_words:
        kind = f"{kind}: {column.pattern_words}"
    empty = "required" if column.required else f"optional{_means(column)}"
    return f"| `{column.name}` | {kind} | {column.meaning} | `{column.example}` | {empty} |\n"


def _means(column: Column) -> str:
    meant = column.if_empty
    if meant in (None, "", [], {}):
        return ""
    if isinstance(meant, bool):
        return f", default {'yes' if meant else 'no'}"
    return f", default {meant[0] if isinstance(meant, list) else meant}"
