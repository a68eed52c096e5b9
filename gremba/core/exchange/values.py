"""Reads and writes the values of cells; what is written reads back as the same value.

A value is what the database keeps: text, whole number, decimal number, cents, date, time, moment, yes or
no, a list of texts, or a document.
"""

from __future__ import annotations

import json
import re
from collections.abc import Callable
from datetime import date, datetime, time
from decimal import Decimal, InvalidOperation
from functools import lru_cache
from itertools import pairwise
from typing import Any
from zoneinfo import ZoneInfo, available_timezones

from gremba.core.catalogue.requisite_text import RequisiteMistake, parse_requisite, print_requisite
from gremba.core.catalogue.requisites import from_data, to_data
from gremba.core.exchange.definition import Column, ValueKind
from gremba.core.exchange.mistakes import ValueMistake, nearest
from gremba.core.plain_text import has_odd_signs

MOST_SIGNS = 20_000
"""The longest text of a cell; longer than any description a catalogue has."""

_EARLIEST, _LATEST = date(1900, 1, 1), date(2200, 1, 1)
_GROUP_KINDS = ("program", "standing", "campus", "cohort", "residence")
_YES = {"yes": True, "no": False, "y": True, "n": False, "true": True, "false": False, "1": True, "0": False}
_PLAIN_DAY = re.compile(r"\d{4}-\d{2}-\d{2}")


def read_value(column: Column, text: str, zone: ZoneInfo) -> Any:
    """Parse a cell.

    Args:
        text: of the cell; blanks at its ends count for nothing.
        zone: of moments that name none.

    Raises:
        ValueMistake: it is nothing that the column holds.
    """
    bare = text.strip()
    if not bare:
        if column.required:
            raise ValueMistake("is empty, and must not be")
        return column.if_empty
    if len(bare) > MOST_SIGNS:
        raise ValueMistake(f"is longer than {MOST_SIGNS:,} signs")
    if column.kind is ValueKind.MOMENT:
        return _moment(bare, zone)
    return _READERS[column.kind](column, bare)


def write_value(column: Column, value: Any) -> str:
    """Format a value as a cell; see :func:`read_value`."""
    if value is None or (value == column.if_empty and not column.required):
        return ""
    return _WRITERS[column.kind](value)


@lru_cache(maxsize=200)
def _compiled(pattern: str) -> re.Pattern[str]:
    return re.compile(pattern)


def _text(column: Column, text: str) -> str:
    if has_odd_signs(text) or "\x00" in text:
        raise ValueMistake("holds signs that cannot be seen; type it anew")
    if column.pattern and not _compiled(column.pattern).fullmatch(text):
        raise ValueMistake(f"must be {column.pattern_words or column.pattern}", _fitted(column, text))
    return text


def _fitted(column: Column, text: str) -> str:
    """Restores what spreadsheets drop or people forget: leading zeros, capitals, a space in place of a
    hyphen or nothing."""
    candidates = [text.upper(), text.lower(), re.sub(r"\s+", " ", text).upper()]
    candidates.append(re.sub(r"^([A-Za-z]+)[-_ ]*(\d)", r"\1 \2", text).upper())
    if text.isascii() and text.isdigit() and len(text) < 5:
        candidates.append(text.zfill(5))
    if re.fullmatch(r"\d{1,9}\.0+", text):
        candidates.append(text.partition(".")[0])
    return next((c for c in candidates if c != text and _compiled(column.pattern).fullmatch(c)), "")


def _bounded(column: Column, number: Any, text: str) -> Any:
    if column.least is not None and number < column.least:
        raise ValueMistake(f"must be {column.least:g} or more")
    if column.most is not None and number > column.most:
        raise ValueMistake(f"must be {column.most:g} or less")
    return number


def _whole(column: Column, text: str) -> int:
    # A spreadsheet may write 24 as 24.0.
    bare = re.sub(r"\.0+$", "", text)
    if not re.fullmatch(r"-?[0-9]{1,9}", bare):
        raise ValueMistake("must be a whole number", re.sub(r"[ ,']", "", text) if _is_grouped(text) else "")
    return int(_bounded(column, int(bare), text))


def _is_grouped(text: str) -> bool:
    return re.fullmatch(r"[0-9]{1,3}([ ,'][0-9]{3}){1,2}", text) is not None


def _decimal(text: str, places: int, what: str) -> Decimal:
    if not re.fullmatch(r"-?[0-9]{1,9}(\.[0-9]+)?", text):
        guess = text.replace(",", ".") if re.fullmatch(r"[0-9]+,[0-9]{1,2}", text) else ""
        raise ValueMistake(f"must be {what}, with a point", guess)
    try:
        number = Decimal(text)
    except InvalidOperation:
        raise ValueMistake(f"must be {what}") from None
    exponent = number.normalize().as_tuple().exponent
    if isinstance(exponent, int) and -exponent > places:
        raise ValueMistake(f"has more behind the point than {places}")
    return number


def _credits(column: Column, text: str) -> float:
    return float(_bounded(column, _decimal(text, 1, "a number of credits"), text))


_MOST_MONEY = 20_000_000
"""Whole units of it, above which an amount is a slip; in cents the tables hold no more either."""


def _cents(text: str) -> int:
    amount = _decimal(text, 2, "an amount such as 62.00")
    if abs(amount) > _MOST_MONEY:
        raise ValueMistake(f"is more than {_MOST_MONEY:,}.00")
    return int(amount * 100)


def _money(column: Column, text: str) -> int:
    return int(_bounded(column, _cents(text), text))


def _day(_: Column, text: str) -> date:
    return _read_day(text)


@lru_cache(maxsize=4_000)
def _read_day(text: str) -> date:
    # Spreadsheets hand a day over as a moment at midnight.
    bare = re.sub(r"[T ]00:00(:00(\.0+)?)?$", "", text)
    if not _PLAIN_DAY.fullmatch(bare):
        raise ValueMistake("must be a day as 2027-08-23", _day_meant(bare))
    try:
        day = date.fromisoformat(bare)
    except ValueError:
        raise ValueMistake("is no day that there is") from None
    if not _EARLIEST <= day < _LATEST:
        raise ValueMistake("is far from any term")
    return day


def _day_meant(text: str) -> str:
    """A date in another notation, if unambiguous: 23.8.2027, 2027/8/23, 8/23/2027."""
    found = re.fullmatch(r"(\d{4})[/.-](\d{1,2})[/.-](\d{1,2})", text)
    if found:
        year, month, day = map(int, found.groups())
        return _iso(year, month, day)
    found = re.fullmatch(r"(\d{1,2})([/.-])(\d{1,2})\2(\d{4})", text)
    if not found:
        return ""
    one, other, year = int(found[1]), int(found[3]), int(found[4])
    if found[2] == "." or one > 12:
        return _iso(year, other, one)
    return _iso(year, one, other) if other > 12 else ""


def _iso(year: int, month: int, day: int) -> str:
    try:
        return date(year, month, day).isoformat()
    except ValueError:
        return ""


def _time(_: Column, text: str) -> time:
    found = re.fullmatch(r"(\d{1,2}):(\d{2})(:00(\.0+)?)?", text)
    if not found or int(found[1]) > 23 or int(found[2]) > 59:
        meant = re.fullmatch(r"([01]?\d|2[0-3])[.h]?([0-5]\d)", text)
        raise ValueMistake("must be a time as 09:30", f"{int(meant[1]):02d}:{meant[2]}" if meant else "")
    return time(int(found[1]), int(found[2]))


@lru_cache(maxsize=10_000)
def _moment(text: str, zone: ZoneInfo) -> datetime:
    try:
        moment = datetime.fromisoformat(text)
    except ValueError:
        raise ValueMistake("must be a moment as 2027-04-19T09:00") from None
    if not _EARLIEST <= moment.date() < _LATEST:
        raise ValueMistake("is far from any term")
    return moment if moment.tzinfo else moment.replace(tzinfo=zone)


def _zone(_: Column, text: str) -> str:
    names = available_timezones()
    if text not in names:
        raise ValueMistake("is no time zone of the tz database", nearest(text, names))
    return text


def _yes_no(_: Column, text: str) -> bool:
    found = _YES.get(text.casefold())
    if found is None:
        raise ValueMistake("must be yes or no")
    return found


def _choice(column: Column, text: str) -> str:
    if text not in column.among:
        listed = ", ".join(column.among)
        raise ValueMistake(f"must be one of {listed}", nearest(text, column.among))
    return text


def _list(column: Column, text: str) -> list[str]:
    found = _parts(text, ";")
    for part in found:
        _text(column, part)
        if column.among and part not in column.among:
            listed = ", ".join(column.among)
            raise ValueMistake(f"“{part}” must be one of {listed}", nearest(part, column.among))
    if len(set(found)) < len(found):
        raise ValueMistake("names the same twice")
    return found


def _split(text: str, sign: str) -> list[str]:
    """The non-empty parts between unquoted separators."""
    parts, begins, is_quoted = [], 0, False
    for place, letter in enumerate(text):
        if letter == '"':
            is_quoted = not is_quoted
        elif letter == sign and not is_quoted:
            parts.append(text[begins:place])
            begins = place + 1
    if is_quoted:
        raise ValueMistake("begins a quote that does not end")
    parts.append(text[begins:])
    return [part.strip() for part in parts if part.strip()]


def _parts(text: str, sign: str) -> list[str]:
    return [_bare(part) for part in _split(text, sign)]


def _bare(part: str) -> str:
    """The text without its quotes."""
    if len(part) > 1 and part[0] == part[-1] == '"':
        return part[1:-1].replace('""', '"')
    return part


def _quoted(part: str) -> str:
    """The text in quotes if it needs them, to be read back as one part."""
    is_plain = part and part == part.strip() and not set(part) & set(';,:"')
    return part if is_plain else '"' + part.replace('"', '""') + '"'


def _requisite(_: Column, text: str) -> Any:
    try:
        return _parsed(text)
    except RequisiteMistake as problem:
        raise ValueMistake(str(problem)) from None


@lru_cache(maxsize=4_000)
def _parsed(text: str) -> Any:
    return to_data(parse_requisite(text))


def _fees(_: Column, text: str) -> list[dict[str, Any]]:
    found = []
    for part in _split(text, ";"):
        label, _blank, amount = part.rpartition(" ")
        if not label.strip():
            raise ValueMistake("must be what for and how much, as materials 30.00")
        cents = _cents(amount)
        if cents < 0:
            raise ValueMistake("no fee is less than nothing")
        found.append({"label": _bare(label.strip()), "cents": cents})
    return found


def _refunds(_: Column, text: str) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = []
    for part in _split(text, ";"):
        steps = re.fullmatch(r"([0-9]{1,3})% +(\S+)", part)
        if not steps or int(steps[1]) > 100:
            raise ValueMistake("must be per cent and day, as 100% 2027-08-27; 50% 2027-09-10")
        found.append({"through": _read_day(steps[2]).isoformat(), "percent": int(steps[1])})
    for before, after in pairwise(found):
        if before["through"] >= after["through"] or before["percent"] < after["percent"]:
            raise ValueMistake("the days must follow one another, and the per cent fall")
    return found


def _groups(_: Column, text: str) -> dict[str, list[str]]:
    found: dict[str, list[str]] = {}
    for part in _split(text, ";"):
        kind, colon, values = part.partition(":")
        kind = kind.strip()
        if not colon or kind not in _GROUP_KINDS:
            raise ValueMistake(
                f"must be a kind and who, as program: Land stewardship; kinds are {', '.join(_GROUP_KINDS)}",
                nearest(kind, _GROUP_KINDS) if colon and kind not in _GROUP_KINDS else "",
            )
        if kind in found:
            raise ValueMistake(f"{kind} stands twice")
        found[kind] = _parts(values, ",")
        if not found[kind]:
            raise ValueMistake(f"nobody is named behind {kind}")
    return found


_DEEPEST = 20


def _document(_: Column, text: str) -> Any:
    try:
        found = json.loads(text, parse_constant=_no_number)
    except (ValueError, RecursionError):
        raise ValueMistake("is no JSON") from None
    if _depth(found) > _DEEPEST:
        raise ValueMistake("is nested too deeply")
    return found


def _no_number(name: str) -> Any:
    raise ValueError(name)


def _depth(value: Any, so_far: int = 0) -> int:
    if so_far > _DEEPEST or not isinstance(value, dict | list):
        return so_far
    inside = value.values() if isinstance(value, dict) else value
    return max((_depth(one, so_far + 1) for one in inside), default=so_far + 1)


_READERS: dict[ValueKind, Callable[[Column, str], Any]] = {
    ValueKind.TEXT: _text,
    ValueKind.WHOLE: _whole,
    ValueKind.CREDITS: _credits,
    ValueKind.MONEY: _money,
    ValueKind.DAY: _day,
    ValueKind.TIME: _time,
    ValueKind.ZONE: _zone,
    ValueKind.YES_NO: _yes_no,
    ValueKind.CHOICE: _choice,
    ValueKind.LIST: _list,
    ValueKind.REQUISITE: _requisite,
    ValueKind.FEES: _fees,
    ValueKind.REFUNDS: _refunds,
    ValueKind.GROUPS: _groups,
    ValueKind.DOCUMENT: _document,
}


def _amount(cents: int) -> str:
    sign = "-" if cents < 0 else ""
    return f"{sign}{abs(cents) // 100}.{abs(cents) % 100:02d}"


def _moment_text(moment: datetime) -> str:
    """A time to the minute, if nothing is lost."""
    is_even = moment.second == 0 and moment.microsecond == 0
    return moment.isoformat(timespec="minutes" if is_even else "auto")


_WRITERS: dict[ValueKind, Callable[[Any], str]] = {
    ValueKind.TEXT: str,
    ValueKind.WHOLE: str,
    ValueKind.CREDITS: lambda value: f"{float(value):g}",
    ValueKind.MONEY: _amount,
    ValueKind.DAY: lambda value: str(value.isoformat()),
    ValueKind.TIME: lambda value: f"{value:%H:%M}",
    ValueKind.MOMENT: _moment_text,
    ValueKind.ZONE: str,
    ValueKind.YES_NO: lambda value: "yes" if value else "no",
    ValueKind.CHOICE: str,
    ValueKind.LIST: lambda value: "; ".join(map(_quoted, value)),
    ValueKind.REQUISITE: lambda value: print_requisite(from_data(value)),
    ValueKind.FEES: lambda value: "; ".join(
        f"{_quoted(fee['label'])} {_amount(fee['cents'])}" for fee in value
    ),
    ValueKind.REFUNDS: lambda value: "; ".join(f"{step['percent']}% {step['through']}" for step in value),
    ValueKind.GROUPS: lambda value: "; ".join(
        f"{kind}: {', '.join(map(_quoted, who))}" for kind, who in value.items()
    ),
    ValueKind.DOCUMENT: lambda value: json.dumps(value, ensure_ascii=False, sort_keys=True),
}
