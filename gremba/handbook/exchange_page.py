"""Generates docs/exchange.md from the definition of the exchange folder."""

from __future__ import annotations

from textwrap import dedent

from gremba.core.catalogue import requisite_text
from gremba.core.exchange.definition import Column, ExchangeTable, ValueKind
from gremba.core.exchange.settings import FOLDER_SETTINGS
from gremba.core.exchange.tables import TABLES

_INTRODUCTION = """# The exchange folder

Made from `gremba/core/exchange/` by `./tools/generate`; do not edit it here.

A college comes in and goes out as one folder of tables: a Data Package (`datapackage.json`, with a Table
Schema for each table) of text files, comma-separated, UTF-8, one `TABLE.csv` for each table below; or the
same in one `.zip`, or as the sheets of one `.xlsx`. `examples/` has a small college.

- `./tools/gremba import FOLDER --trial` tells every mistake, by table, line and column, and what would
  change; without `--trial` it is taken over, all of it or nothing. `./tools/gremba export FOLDER` writes it
  out.
- A table that is left out is left alone, and so is a column, but for those by which a row is known; a row
  that is new needs those that must not be empty too. A row that is left out
  stays; it is told. Nothing is ever removed: a section that does not take place is `cancelled`.
- Reading the same folder again changes nothing. Registrations, waitlists, carts and accounts are not in it,
  and are never touched.
- Separated by semicolons or tabs, in UTF-16, or with a byte order mark it is read as well. In any other
  code, with formulas in cells or with merged cells it is not, and it is said where.
- A cell that a spreadsheet would run as a formula has an apostrophe in front, which counts for nothing.

## What stands in a cell

| kind | how it is written |
| --- | --- |
"""

_KINDS: dict[ValueKind, str] = {
    ValueKind.TEXT: "anything on one or several lines; blanks at its ends count for nothing",
    ValueKind.WHOLE: "`24`",
    ValueKind.CREDITS: "`3` or `1.5`",
    ValueKind.MONEY: "`62.00`",
    ValueKind.DAY: "`2027-08-23`",
    ValueKind.TIME: "`09:30`",
    ValueKind.ZONE: "`America/New_York`, as the tz database names it",
    ValueKind.MOMENT: "`2027-04-19T09:00-04:00`; without `-04:00` in the zone of the college's latest term, "
    "in which it is written, too",
    ValueKind.YES_NO: "`yes` or `no`",
    ValueKind.CHOICE: "one of the words named",
    ValueKind.LIST: '`one; another`; what has `;` `,` `:` or `"` in it stands in double quotes',
    ValueKind.REQUISITE: "`all(SOIL 110:C, any(CHEM 110, CHEM 236 &))`, see [below](#requisites)",
    ValueKind.FEES: "`materials 30.00; field trips 45.00`",
    ValueKind.REFUNDS: "`100% 2027-08-27; 50% 2027-09-10`: through that day so much is given back",
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
        "\n## Settings\n\nWhat stands in the table [policies](#policies), a row for each setting of a term; "
        "one that is not named is as usual.\n\n| setting | kind | bounds | | example |\n"
        f"| --- | --- | --- | --- | --- |\n{lines}"
    )


def _requisites() -> str:
    """The notation of requisites, from its parser's module."""
    form = dedent((requisite_text.__doc__ or "").partition("::\n\n")[2]).strip()
    return f"\n## Requisites\n\n```text\n{form}\n```\n"


def _section(table: ExchangeTable) -> str:
    names = "; ".join(
        f"{' and '.join(f'`{column}`' for column in target.columns.values())} a row of `{target.table}`"
        for target in table.targets
    )
    key = ", ".join(f"`{column}`" for column in table.key)
    lines = [
        f"\n## {table.name}\n\n{table.meaning} A row is known by {key}.",
        f" It names by {names}." if names else "",
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
    empty = "must be there" if column.required else f"may be empty{_means(column)}"
    return f"| `{column.name}` | {kind} | {column.meaning} | `{column.example}` | {empty} |\n"


def _means(column: Column) -> str:
    meant = column.if_empty
    if meant in (None, "", [], {}):
        return ""
    if isinstance(meant, bool):
        return f", for {'yes' if meant else 'no'}"
    return f", for {meant[0] if isinstance(meant, list) else meant}"
