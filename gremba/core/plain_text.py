"""Text as people paste it, brought to one form without costing more than it is long."""

from __future__ import annotations

import unicodedata
from typing import Literal

MOST = 20_000
"""Signs of a text that are read at the most; a cart's worth of numbers is a few hundred."""

_PIECE = 256


def normalized(text: str, form: Literal["NFKC", "NFKD"]) -> str:
    """A text in a normalisation form (Unicode Standard Annex 15), piece by piece.

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
    """Whether there are signs in a text that cannot be seen and alter how the rest is shown:
    controls other than a new line or tab, marks of direction, and halves of characters."""
    return any(map(_is_odd, text))


def plain(text: str) -> str:
    """A text on one line, with a blank for each sign that cannot be seen."""
    return "".join(" " if c in "\n\t" or _is_odd(c) else c for c in text)


def _is_odd(sign: str) -> bool:
    kind = unicodedata.category(sign)
    return kind == "Cs" or (kind == "Cc" and sign not in "\n\t") or sign in _DIRECTIONS


_DIRECTIONS = frozenset(
    "\u061c\u200e\u200f\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069\u2028\u2029\ufeff"
)
