"""The forms of settings that are documents: their fields and bounds, and what is wrong with a value."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any, Protocol

from gremba.core.wording import listed


class WrongDocument(ValueError):
    """A document is not of its form; the text says where, and what is valid."""


class Form(Protocol):
    """The form of a value."""

    @property
    def kind(self) -> str:
        """In a few words, such as ``number``."""
        ...

    @property
    def bounds(self) -> str:
        """Its bounds in words, or ""."""
        ...

    def check(self, value: Any, where: str = "") -> None:
        """Validate a value.

        Args:
            where: in the whole document, such as ``due_dates 2 percent``.

        Raises:
            WrongDocument: it is not.
        """
        ...


@dataclass(frozen=True, slots=True)
class NumberForm:
    """A whole number, or one with a decimal place."""

    least: float
    most: float
    unit: str = ""
    is_whole: bool = True

    @property
    def kind(self) -> str:
        """In a few words."""
        return "whole number" if self.is_whole else "number"

    @property
    def bounds(self) -> str:
        """Its bounds in words."""
        places = "" if self.is_whole else ", one place behind the point at most"
        return f"{self.least:g} to {self.most:g} {self.unit}".strip() + places

    def check(self, value: Any, where: str = "") -> None:
        """Validate a value.

        Raises:
            WrongDocument: it is not.
        """
        is_number = isinstance(value, int if self.is_whole else int | float) and not isinstance(value, bool)
        if not is_number or not self.least <= value <= self.most or round(value, 1) != value:
            raise _wrong(where, f"a {self.kind}, {self.bounds}")


@dataclass(frozen=True, slots=True)
class YesNo:
    """``true`` or ``false``."""

    kind: str = "yes or no"
    bounds: str = "`true` or `false`"

    def check(self, value: Any, where: str = "") -> None:
        """Validate a value.

        Raises:
            WrongDocument: it is not.
        """
        if not isinstance(value, bool):
            raise _wrong(where, "true or false")


@dataclass(frozen=True, slots=True)
class Text:
    """A non-empty text."""

    most: int
    kind: str = "text"

    @property
    def bounds(self) -> str:
        """Its bounds in words."""
        return f"1 to {self.most:,} signs"

    def check(self, value: Any, where: str = "") -> None:
        """Validate a value.

        Raises:
            WrongDocument: it is not.
        """
        if not isinstance(value, str) or not 0 < len(value.strip()) <= self.most or "\0" in value:
            raise _wrong(where, f"a text of {self.bounds}")


@dataclass(frozen=True, slots=True)
class OneOf:
    """One of several words."""

    words: Sequence[str]
    kind: str = "word"

    @property
    def bounds(self) -> str:
        """Its words."""
        return f"one of {listed([f'`{word}`' for word in self.words], 'or')}"

    def check(self, value: Any, where: str = "") -> None:
        """Validate a value.

        Raises:
            WrongDocument: it is not.
        """
        if not isinstance(value, str) or value not in self.words:
            raise _wrong(where, f"one of {listed(self.words, 'or')}")


@dataclass(frozen=True, slots=True)
class MomentForm:
    """A time with its offset from UTC."""

    kind: str = "moment"
    bounds: str = "with its offset, such as `2027-08-13T17:00:00-04:00`"

    def check(self, value: Any, where: str = "") -> None:
        """Validate a value.

        Raises:
            WrongDocument: it is not.
        """
        try:
            if datetime.fromisoformat(value).tzinfo is not None:
                return
        except (TypeError, ValueError):
            pass
        raise _wrong(where, "a moment with its offset, such as 2027-08-13T17:00:00-04:00")


@dataclass(frozen=True, slots=True)
class Day:
    """A date."""

    kind: str = "day"
    bounds: str = "such as `2027-08-13`"

    def check(self, value: Any, where: str = "") -> None:
        """Validate a value.

        Raises:
            WrongDocument: it is not.
        """
        try:
            date.fromisoformat(value)
        except (TypeError, ValueError):
            raise _wrong(where, "a day, such as 2027-08-13") from None


@dataclass(frozen=True, slots=True)
class OrNone:
    """A value that may be missing."""

    form: Form

    @property
    def kind(self) -> str:
        """In a few words."""
        return f"{self.form.kind} or `null`"

    @property
    def bounds(self) -> str:
        """Its bounds in words."""
        return self.form.bounds

    def check(self, value: Any, where: str = "") -> None:
        """Validate a value.

        Raises:
            WrongDocument: it is not.
        """
        if value is not None:
            self.form.check(value, where)


@dataclass(frozen=True, slots=True)
class ListOf:
    """A list of values of one form."""

    form: Form
    least: int
    most: int

    @property
    def kind(self) -> str:
        """In a few words."""
        return f"list of {self.form.kind}"

    @property
    def bounds(self) -> str:
        """Its bounds in words."""
        each = f"; each {self.form.bounds}" if self.form.bounds else ""
        return f"{self.least} to {self.most} of them{each}"

    def check(self, value: Any, where: str = "") -> None:
        """Validate a value.

        Raises:
            WrongDocument: it is not.
        """
        if not isinstance(value, list) or not self.least <= len(value) <= self.most:
            raise _wrong(where, f"a list of {self.least} to {self.most}")
        for place, one in enumerate(value, start=1):
            self.form.check(one, f"{where} {place}".strip())


@dataclass(frozen=True, slots=True)
class Row:
    """A list of a few values, each of its own form."""

    forms: Sequence[Form]

    @property
    def kind(self) -> str:
        """In a few words."""
        return f"[{', '.join(form.kind for form in self.forms)}]"

    @property
    def bounds(self) -> str:
        """Its bounds in words."""
        return ", ".join(form.bounds for form in self.forms)

    def check(self, value: Any, where: str = "") -> None:
        """Validate a value.

        Raises:
            WrongDocument: it is not.
        """
        if not isinstance(value, list) or len(value) != len(self.forms):
            raise _wrong(where, f"a list of {len(self.forms)}: {', '.join(form.kind for form in self.forms)}")
        for place, (one, form) in enumerate(zip(value, self.forms, strict=True), start=1):
            form.check(one, f"{where} {place}".strip())


@dataclass(frozen=True, slots=True)
class ByWord:
    """An object with values of one form by any word.

    Attributes:
        words: those that there are; None for any.
        most: words at the most.
    """

    form: Form
    words: Sequence[str] | None = None
    most: int = 40

    @property
    def kind(self) -> str:
        """In a few words."""
        return f"{self.form.kind} by word"

    @property
    def bounds(self) -> str:
        """Its bounds in words."""
        which = OneOf(self.words).bounds if self.words is not None else f"1 to {self.most} words"
        return f"{which}: {self.form.bounds}"

    def check(self, value: Any, where: str = "") -> None:
        """Validate a value.

        Raises:
            WrongDocument: it is not.
        """
        if not isinstance(value, dict) or not 0 < len(value) <= self.most:
            raise _wrong(where, f"an object with 1 to {self.most} words")
        word = OneOf(self.words) if self.words is not None else Text(40)
        for name, one in value.items():
            word.check(name, where)
            self.form.check(one, f"{where} {name}".strip())


@dataclass(frozen=True, slots=True)
class Object:
    """An object with a form for each name; all are required except those that may be missing."""

    fields: Mapping[str, Form]
    may_miss: bool = False

    @property
    def kind(self) -> str:
        """In a few words."""
        return "object"

    @property
    def bounds(self) -> str:
        """Its bounds in words."""
        return "; ".join(self._lines())

    def _lines(self) -> Iterator[str]:
        for name, form in self.fields.items():
            yield f"`{name}`: {form.kind}, {form.bounds}"

    def check(self, value: Any, where: str = "") -> None:
        """Validate a value.

        Raises:
            WrongDocument: it is not.
        """
        if not isinstance(value, dict):
            raise _wrong(where, f"an object with {listed(list(self.fields))}")
        missing = [] if self.may_miss else [name for name in self.fields if name not in value]
        if missing:
            raise _wrong(where, f"an object with {listed(missing)} too")
        for name, one in value.items():
            if name not in self.fields:
                raise _wrong(f"{where} {name}".strip(), f"one of {listed(list(self.fields), 'or')}")
            self.fields[name].check(one, f"{where} {name}".strip())


def _wrong(where: str, expected: str) -> WrongDocument:
    return WrongDocument(f"{where} is not {expected}" if where else f"is not {expected}")
