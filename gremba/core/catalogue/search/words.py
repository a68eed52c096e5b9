"""The word index of sections: exact words, prefixes and near misses."""

from __future__ import annotations

import re
import unicodedata
from bisect import bisect_left
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from rapidfuzz import process
from rapidfuzz.distance import OSA

from gremba.core.catalogue.term import Section, TermCatalogue
from gremba.core.plain_text import normalized

MOST_WORDS = 24
"""Words that are looked for at the most; a title has about six."""

_WORD = re.compile(r"[0-9]+[a-z]*|[^\W\d_]+")
_REFERENCE_NUMBER = re.compile(r"[0-9]{5}")


def words_of(text: str) -> list[str]:
    """The words of a text in lower case without accents; ``SOIL240`` is two words."""
    plain = normalized(text.casefold(), "NFKD")
    return _WORD.findall("".join(c for c in plain if not unicodedata.combining(c)))


def slips_allowed(word: str) -> int:
    """The number of typing mistakes forgiven: none in short words and digits, one from four letters, two
    from eight."""
    if len(word) < 4 or word[0].isdigit():
        return 0
    return 1 if len(word) < 8 else 2


def main_text(section: Section, term: TermCatalogue) -> str:
    """A section's name and title, where matches rank higher."""
    course = section.course
    subject = term.subject_names.get(course.subject, "")
    return " ".join((course.key, course.title, section.topic, subject, *section.instructors))


def more_text(section: Section) -> str:
    """The other text about a section."""
    return f"{section.course.description} {section.notes}"


@dataclass(frozen=True, slots=True)
class Match:
    """Sections that match all words.

    Attributes:
        found: those that do.
        well: those that do in what they are called.
        read_as: words that no section holds, with those that were taken for them.
    """

    found: int
    well: int
    read_as: dict[str, tuple[str, ...]]


class WordIndex:
    """The words of a term's sections."""

    def __init__(self, term: TermCatalogue, sections: Sequence[Section]) -> None:
        self._all = (1 << len(sections)) - 1
        self._by_number = {s.reference_number: 1 << k for k, s in enumerate(sections)}
        self._main = _Vocabulary(main_text(s, term) for s in sections)
        self._more = _Vocabulary(more_text(s) for s in sections)

    def match(self, text: str) -> Match:
        """The sections that match every word of a text, also by prefix. If none does, similar words are
        used; see :func:`slips_allowed`. Only the first words of a long text are used."""
        found = well = self._all
        read_as: dict[str, tuple[str, ...]] = {}
        for word in list(dict.fromkeys(words_of(text)))[:MOST_WORDS]:
            if _REFERENCE_NUMBER.fullmatch(word):
                known = self._by_number.get(word, 0)
                main, more = known, known
            else:
                main, more = self._main.beginning(word), self._more.beginning(word)
            if not main | more and (allowed := slips_allowed(word)):
                near = sorted({*self._main.near(word, allowed), *self._more.near(word, allowed)})
                if near:
                    read_as[word] = tuple(near)
                main, more = self._main.any_of(near), self._more.any_of(near)
            found &= main | more
            well &= main
        return Match(found, well & found, read_as)


class _Vocabulary:
    """Words in order, each with its sections."""

    def __init__(self, texts: Iterable[str]) -> None:
        self._holders: dict[str, int] = {}
        for position, text in enumerate(texts):
            for word in set(words_of(text)):
                self._holders[word] = self._holders.get(word, 0) | 1 << position
        self._words = sorted(self._holders)

    def beginning(self, start: str) -> int:
        holders, position = 0, bisect_left(self._words, start)
        while position < len(self._words) and self._words[position].startswith(start):
            holders |= self._holders[self._words[position]]
            position += 1
        return holders

    def near(self, word: str, slips: int) -> list[str]:
        """Words within that many typing mistakes, as a whole or as a prefix."""
        starts = [w[: len(word)] for w in self._words]
        found = set()
        for choices in (self._words, starts):
            near = process.extract(word, choices, scorer=OSA.distance, score_cutoff=slips, limit=None)
            found |= {self._words[position] for _, _, position in near}
        return [w for w in found if not w[0].isdigit()]

    def any_of(self, words: Iterable[str]) -> int:
        holders = 0
        for word in words:
            holders |= self._holders.get(word, 0)
        return holders
