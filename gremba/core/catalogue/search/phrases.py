"""Reads plain words as filters: “evening”, “tuesday thursday”, “3 credits”, a subject.

What is read becomes a filter that can be taken off again; the rest are words of the title or topic. What
stands in quotation marks is never read. M T W R F for the days is common practice (R is Thursday).
"""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import NamedTuple

from gremba.core.catalogue.search.filters import MOST_WORDS, NO_TIMES, ONLINE, PARTS_OF_DAY, YES
from gremba.core.catalogue.term import TermCatalogue
from gremba.core.plain_text import normalized
from gremba.core.states import Component, Delivery
from gremba.core.wording import WEEKDAYS

LONGEST = 5
"""Words of a phrase at the most."""

_TOKEN = re.compile(r"“[^”]*”|\"[^\"]*\"|[^\s,;]+")
_QUOTES = '“”"'


class Meaning(NamedTuple):
    """A value of a filter."""

    filter: str
    value: str


@dataclass(frozen=True, slots=True)
class Reading:
    """A piece of the text and its meaning."""

    text: str
    meanings: tuple[Meaning, ...]


@dataclass(frozen=True, slots=True)
class Understood:
    """A text and its readings.

    Attributes:
        rest: what is left to be looked for as words; quoted pieces without their marks.
        kept: the same as the field should have it: quoted pieces with their marks.
    """

    readings: tuple[Reading, ...]
    rest: str
    kept: str


_NUMERALS = {"one": "1", "two": "2", "three": "3", "four": "4", "five": "5", "six": "6"}
_DAY_COMBINATIONS = frozenset({"mw", "mf", "wf", "tr", "mwf", "mtwr", "mtwrf", "tf", "mtw"})
_FILLERS = frozenset(
    "a an the on in at of for from by with and or to that which are is i im want please class classes course "
    "courses section sections taught only during".split()
)
"""Dropped where something else was read; else they may be words of a title."""

_PART_WORDS = {
    "morning": "morning",
    "mornings": "morning",
    "afternoon": "afternoon",
    "afternoons": "afternoon",
    "evening": "evening",
    "evenings": "evening",
    "night": "evening",
    "nights": "evening",
}
_DAY_SHORT = {
    "mon": "M",
    "tue": "T",
    "tues": "T",
    "wed": "W",
    "weds": "W",
    "thu": "R",
    "thur": "R",
    "thurs": "R",
    "fri": "F",
    "sat": "S",
    "sun": "U",
}
_FIXED: Mapping[str, tuple[Meaning, ...]] = {
    "weekend": (Meaning("day", "S"), Meaning("day", "U")),
    "weekends": (Meaning("day", "S"), Meaning("day", "U")),
    "online": (Meaning("campus", ONLINE),),
    "any time": (Meaning("day", NO_TIMES),),
    "no set times": (Meaning("day", NO_TIMES),),
    "no times": (Meaning("day", NO_TIMES),),
    "in person": (Meaning("delivery", Delivery.IN_PERSON),),
    "no textbook cost": (Meaning("no_textbook_cost", YES),),
    "no textbook": (Meaning("no_textbook_cost", YES),),
    "no textbooks": (Meaning("no_textbook_cost", YES),),
    "no book cost": (Meaning("no_textbook_cost", YES),),
    "free textbook": (Meaning("no_textbook_cost", YES),),
    "free textbooks": (Meaning("no_textbook_cost", YES),),
    "without textbook": (Meaning("no_textbook_cost", YES),),
    "open": (Meaning("seats", "open"),),
    "open seats": (Meaning("seats", "open"),),
    "with seats": (Meaning("seats", "open"),),
    "seats left": (Meaning("seats", "open"),),
    "not full": (Meaning("seats", "open"),),
    "free seats": (Meaning("seats", "open"),),
    "waitlist": (Meaning("seats", "waitlist"),),
    "with waitlist": (Meaning("seats", "waitlist"),),
    "open or waitlist": (Meaning("seats", "waitlist"),),
    "fits": (Meaning("fits", YES),),
    "fits my week": (Meaning("fits", YES),),
    "that fit": (Meaning("fits", YES),),
    "no clash": (Meaning("fits", YES),),
}
_TIME = re.compile(r"(\d{1,2})(?:[:.](\d{2}))?\s*(am|pm)?|noon")


class PhraseBook:
    """The meanings of phrases in a term: general ones, and the term's own names."""

    def __init__(self, term: TermCatalogue) -> None:
        self._known = dict(_fixed())
        for code, name in term.campus_names.items():
            self._know(name, Meaning("campus", code))
        for session in term.calendar.sessions.values():
            self._know(session.name, Meaning("session", session.code))
        for tag in sorted({tag for s in term.sections for tag in s.course.tags}):
            self._know(tag, Meaning("counts", tag))
        self._instructors(term)
        # Last: what a subject is called stands above all else.
        self._subjects = {s.course.subject for s in term.sections}
        for code in sorted(self._subjects):
            self._know(code, Meaning("subject", code))
            self._know(term.subject_names.get(code, ""), Meaning("subject", code))
        self._numbers = {(s.course.subject.casefold(), s.course.number.casefold()) for s in term.sections}

    def _know(self, name: str, *meanings: Meaning) -> None:
        words = _plain(name).split()
        if 0 < len(words) <= LONGEST:
            self._known[" ".join(words)] = meanings

    def _instructors(self, term: TermCatalogue) -> None:
        """Instructors by full name, and by surname unless a title has that word."""
        titles = {w for s in term.sections for w in _plain(f"{s.course.title} {s.topic}").split()}
        by_surname: dict[str, list[Meaning]] = {}
        for name in sorted({i for s in term.sections for i in s.instructors}):
            self._know(name, Meaning("instructor", name))
            by_surname.setdefault(_plain(name).split()[-1], []).append(Meaning("instructor", name))
        for surname, meanings in by_surname.items():
            if surname not in titles and surname not in self._known:
                self._know(surname, *meanings)
            for title in ("prof", "professor", "instructor", "with"):
                self._know(f"{title} {surname}", *meanings)

    def read(self, text: str, chosen: Collection[str] = ()) -> Understood:
        """Read a text from left to right, the longest phrases first.

        Args:
            chosen: filters of which nothing is read: something is chosen there already.
        """
        tokens = _TOKEN.findall(text[:MOST_WORDS])
        plain = [_plain(t) if t[0] not in _QUOTES else "" for t in tokens]
        readings: list[Reading] = []
        left: list[int] = []
        at = 0
        while at < len(tokens):
            many, meanings = self._longest(plain, at, chosen)
            if many:
                readings.append(Reading(" ".join(tokens[at : at + many]), meanings))
            else:
                left.append(at)
            at += many or 1
        if readings:
            left = [k for k in left if plain[k] not in _FILLERS]
        kept = " ".join(tokens[k] for k in left)
        return Understood(tuple(readings), " ".join(tokens[k].strip(_QUOTES) for k in left), kept)

    def _longest(
        self, plain: Sequence[str], at: int, chosen: Collection[str]
    ) -> tuple[int, tuple[Meaning, ...]]:
        """The longest phrase at a position: its number of words and its meaning."""
        for many in range(min(LONGEST, len(plain) - at), 0, -1):
            words = plain[at : at + many]
            if not all(words):
                continue
            meanings = self._meanings(words)
            if meanings and not any(m.filter in chosen for m in meanings):
                return many, meanings
        return 0, ()

    def _meanings(self, words: Sequence[str]) -> tuple[Meaning, ...]:
        phrase = " ".join(words)
        if phrase in self._known:
            return self._known[phrase]
        return self._course(words) or _credits(words) or _times(words) or _level(words)

    def _course(self, words: Sequence[str]) -> tuple[Meaning, ...]:
        """``soil 240``, ``soil240``: an existing course."""
        match = re.fullmatch(r"([a-z]{2,6}) ?(\d{1,4}[a-z]?)", " ".join(words))
        if match is None or (match[1], match[2]) not in self._numbers:
            return ()
        return (Meaning("subject", match[1].upper()), Meaning("number", match[2].upper()))


def _plain(text: str) -> str:
    """Lower case, without surrounding punctuation; a hyphen is a space."""
    lower = normalized(text.casefold(), "NFKC").replace("’", "").replace("'", "").replace("-", " ")
    return " ".join("".join(c if c.isalnum() or c in ".:*?" else " " for c in lower).split()).strip(".?:")


def _fixed() -> Iterator[tuple[str, tuple[Meaning, ...]]]:
    for word, part in _PART_WORDS.items():
        assert part in PARTS_OF_DAY
        yield word, (Meaning("part", part),)
    letters = "MTWRFSU"
    for letter, name in zip(letters, WEEKDAYS, strict=True):
        for form in (name.lower(), f"{name.lower()}s"):
            yield form, (Meaning("day", letter),)
    for short, letter in _DAY_SHORT.items():
        yield short, (Meaning("day", letter),)
    for combination in _DAY_COMBINATIONS:
        yield combination, tuple(Meaning("day", c.upper()) for c in combination)
    for component in Component:
        for form in (component.value, f"{component.value}s"):
            yield form, (Meaning("component", component.value),)
    yield from _FIXED.items()


def _credits(words: Sequence[str]) -> tuple[Meaning, ...]:
    if len(words) != 2 or words[1] not in ("credit", "credits", "cr", "hours"):
        return ()
    figure = _NUMERALS.get(words[0], words[0])
    if not re.fullmatch(r"\d{1,2}(\.\d)?", figure):
        return ()
    return (Meaning("credits", f"{float(figure):g}"),)


def _times(words: Sequence[str]) -> tuple[Meaning, ...]:
    """``after 17:00``, ``before noon``, ``from 9 to 12``."""
    if len(words) in (2, 3) and words[0] in ("after", "from", "before", "until", "till"):
        minute = _minute(" ".join(words[1:]))
        if minute is None:
            return ()
        is_after = words[0] in ("after", "from")
        return (Meaning("time_from" if is_after else "time_to", str(minute)),)
    if len(words) in (4, 5) and words[0] in ("from", "between"):
        for middle in ("to", "and", "until"):
            if middle in words[2:]:
                cut = list(words).index(middle, 2)
                begin, end = _minute(" ".join(words[1:cut])), _minute(" ".join(words[cut + 1 :]))
                if begin is not None and end is not None and begin < end:
                    return (Meaning("time_from", str(begin)), Meaning("time_to", str(end)))
    return ()


def _minute(text: str) -> int | None:
    """A time of day in minutes; a bare one to six is in the afternoon, when classes are."""
    if text == "noon":
        return 12 * 60
    match = _TIME.fullmatch(text)
    if match is None or match[1] is None:
        return None
    hour, minute = int(match[1]), int(match[2] or 0)
    if hour > 23 or minute > 59 or (match[3] and not 1 <= hour <= 12):
        return None
    if match[3]:
        hour = hour % 12 + (12 if match[3] == "pm" else 0)
    elif 1 <= hour <= 6:
        hour += 12
    return hour * 60 + minute


def _level(words: Sequence[str]) -> tuple[Meaning, ...]:
    """``200 level``, ``level 2``."""
    phrase = " ".join(words)
    match = re.fullmatch(r"([1-9])00 level|level ([1-9])(?:00)?", phrase)
    return () if match is None else (Meaning("level", match[1] or match[2]),)
