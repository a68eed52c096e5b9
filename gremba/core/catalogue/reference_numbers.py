"""Finds reference numbers in pasted text."""

from __future__ import annotations

import re
import unicodedata
from dataclasses import dataclass

from gremba.core.plain_text import MAX_CHARACTERS, normalized

DIGITS = 5
"""A reference number has five digits (common practice)."""

_TOKEN = re.compile(r"[^\W_]+")
_MOST_REPORTED = 20


@dataclass(frozen=True, slots=True)
class Misread:
    """A piece of text that was meant as a reference number and is none."""

    text: str
    reason: str


@dataclass(frozen=True, slots=True)
class Pasted:
    """What a text contains.

    Attributes:
        numbers: each once, in the order in which they stand.
        misread: pieces with digits that are no reference numbers, the first few.
        misread_more: how many further pieces of that kind there are.
        words: how many words without digits were passed over.
        repeated: numbers that stand there more than once.
    """

    numbers: tuple[str, ...]
    misread: tuple[Misread, ...]
    misread_more: int
    words: int
    repeated: tuple[str, ...] = ()


def read_pasted(text: str) -> Pasted:
    """Find reference numbers in any text: lists, sentences, tables, digits of any script.

    A course's name such as "SOIL 240" is passed over: a number of up to four digits behind a
    word in capitals is the course's own. Of a longer text the first 20,000 signs are read.
    """
    numbers: dict[str, int] = {}
    misread: list[Misread] = []
    words = 0
    before = ""
    for token in _TOKEN.findall(normalized(text[:MAX_CHARACTERS], "NFKC")):
        if not any(c.isdigit() for c in token):
            words += 1
        elif token.isdecimal() and len(token) == DIGITS:
            number = "".join(str(unicodedata.decimal(c)) for c in token)
            numbers[number] = numbers.get(number, 0) + 1
        elif len(token) < DIGITS and _is_subject(before):
            words += 1
        else:
            misread.append(_explain(token))
        before = token
    reported = misread[:_MOST_REPORTED]
    return Pasted(
        tuple(numbers),
        tuple(reported),
        len(misread) - len(reported),
        words,
        tuple(n for n, times in numbers.items() if times > 1)[:_MOST_REPORTED],
    )


def _is_subject(word: str) -> bool:
    return word.isalpha() and word.isupper() and 2 <= len(word) <= 6


def _explain(token: str) -> Misread:
    shown = token if len(token) <= 24 else f"{token[:24]}…"
    if not token.isdecimal():
        return Misread(shown, "letters and digits are mixed; a reference number has only digits")
    if len(token) % DIGITS == 0:
        count = len(token) // DIGITS
        return Misread(shown, f"this may be {count} numbers without a space between them")
    return Misread(shown, f"it has {len(token)} digits; a reference number has five")
