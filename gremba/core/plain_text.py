"""Normalizes pasted text in time linear in its length."""

from __future__ import annotations

import unicodedata
from typing import Literal

MAX_CHARACTERS = 20_000
"""Signs of a text that are read at the most; a cart's worth of numbers is a few hundred."""

_PIECE = 256


def normalized(text: str, form: Literal["NFKC", "NFKD"]) -> str:
    """A text in a normalization form (Unicode Standard Annex 15), in pieces.

    Bringing marks into their order takes time that grows with the square of how many stand behind
    one letter, so no piece is longer than 256 signs. Pieces end before a sign that is no mark, where
    there is one, so that what people write is normalised as it would be whole.
    """
    if text.isascii():
        return text
    pieces = []
    begins = 0
    while begins < len(text):
        ends = min(begins + _PIECE, len(text))
        cut = ends
        while ends < len(text) and cut > begins and unicodedata.combining(text[cut]):
            cut -= 1
        ends = cut if cut > begins else ends
        pieces.append(unicodedata.normalize(form, text[begins:ends]))
        begins = ends
    return "".join(pieces)


def has_odd_signs(text: str) -> bool:
    """Whether a text has invisible characters that change how the rest is shown: controls other than
    newline and tab, bidirectional marks, and lone surrogates."""
    return any(map(_is_odd, text))


def plain(text: str) -> str:
    """A text on one line, with spaces in place of invisible characters."""
    return "".join(" " if c in "\n\t" or _is_odd(c) else c for c in text)


def _is_odd(sign: str) -> bool:
    kind = unicodedata.category(sign)
    return kind == "Cs" or (kind == "Cc" and sign not in "\n\t") or sign in _DIRECTIONS


def begins_formula(text: str) -> bool:
    """Whether a spreadsheet may execute a cell with this text.

    True also where blanks, line breaks or invisible characters precede the sign, and for full-width signs.
    """
    visible = "".join(c for c in text if c in "\n\t\r" or unicodedata.category(c) != "Cc")
    return visible[:1] in ("\t", "\r", "\n") or normalized(visible, "NFKC").lstrip().startswith(_SIGNS)


_SIGNS = ("=", "+", "-", "@")


def defused(text: str) -> str:
    """The text, prefixed with an apostrophe if a spreadsheet may execute it.

    A text that begins with an apostrophe gets another: :func:`as_before_defusing` restores every text.
    """
    return f"'{text}" if text.startswith("'") or begins_formula(text) else text


def as_before_defusing(cell: str) -> str:
    """The text that :func:`defused` was given; a text it never wrote stays as it is."""
    rest = cell[1:]
    return rest if cell.startswith("'") and (rest.startswith("'") or begins_formula(rest)) else cell


_DIRECTIONS = frozenset(
    "\u061c\u200e\u200f\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069\u2028\u2029\ufeff"
)
