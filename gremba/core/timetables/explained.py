"""Explains in sentences why no timetable works, with ways on."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import islice

from gremba.core.catalogue.calendar import MINUTES_A_DAY
from gremba.core.timetables.best import best_first
from gremba.core.timetables.instance import Element, ElementKind, Instance, Option
from gremba.core.timetables.left_out import SeatState
from gremba.core.timetables.question import KeptFree, Question, SeatSwitch, Want
from gremba.core.timetables.reasons import Possible
from gremba.core.timetables.searching import Search
from gremba.core.timetables.sought import WantState
from gremba.core.wording import WEEKDAYS, clock_time, counted, credits_text, listed, sentence_case, times_text

_TIMES_SHOWN = 3
_NAMED = 3
_MOST_WAYS_ON = 4
_LOOKED_THROUGH = 200
"""Timetables in which the hours are sought that need least be freed."""


@dataclass(frozen=True, slots=True)
class WayOn:
    """A way out if nothing is possible.

    Attributes:
        question: what would be asked then; None where the screen cannot do it.
    """

    text: str
    question: Question | None = None


@dataclass(frozen=True, slots=True)
class Reason:
    """Why there is no timetable.

    Attributes:
        elements: what cannot be had together.
        title: in a few words.
        text: what there is, or "".
    """

    elements: tuple[Element, ...]
    title: str
    text: str
    ways_on: tuple[WayOn, ...]


class Explaining:
    """Puts into words what is impossible in a question."""

    def __init__(self, instance: Instance, possible: Possible) -> None:
        self._instance = instance
        self._question = instance.question
        self._possible = possible

    def reason(self, elements: Sequence[Element]) -> Reason:
        """Explains one minimal set of elements that cannot be combined."""
        wants = [e for e in elements if e.kind is ElementKind.WANT]
        return Reason(
            tuple(elements),
            sentence_case(self._title(elements, wants)),
            self._text(elements, wants),
            tuple(islice(self._ways_on(elements), _MOST_WAYS_ON)),
        )

    def _title(self, elements: Sequence[Element], wants: Sequence[Element]) -> str:
        names = [self.name(e.index) for e in wants]
        if len(elements) == 1 and wants:
            return self._no_way(wants[0].index)
        rest = [e for e in elements if e.kind is not ElementKind.WANT]
        if wants and all(e.kind in (ElementKind.LIMIT, ElementKind.HELD) for e in rest):
            if any(e.kind is ElementKind.LIMIT for e in rest):
                return self._too_many_credits(elements, wants)
        conditions = [self._condition(e, wants) for e in rest]
        if not wants:
            return f"Nothing can be had {' '.join(conditions)}"
        kept = [e for e in rest if e.kind is ElementKind.KEPT_FREE]
        if kept and len(wants) == 1:
            others = " ".join(self._condition(e, wants) for e in rest if e.kind is not ElementKind.KEPT_FREE)
            hours = listed([_kept_name(self._question.kept_free[e.index]) for e in kept])
            return f"{hours} leaves no {names[0]} {others}".strip()
        if len(wants) == 1:
            return f"There is no {names[0]} {' '.join(conditions)}"
        if not rest:
            if self._is_same(wants):
                return f"{listed(names)} would have to be the same course"
            if len(names) == 2:
                return f"{names[0]} and {names[1]} meet only at the same hours"
            return f"{listed(names)} do not fit together"
        return f"{listed(names)} cannot be had together {' '.join(conditions)}"

    def _is_same(self, wants: Sequence[Element]) -> bool:
        """Whether there are fewer courses than wanted."""
        sought = [self._instance.sought[e.index] for e in wants]
        courses = {key for s in sought for key in s.courses}
        return len(courses) < sum(s.want.count for s in sought)

    def _no_way(self, place: int) -> str:
        sought = self._instance.sought[place]
        name, term = self.name(place), self._instance.term.name
        if sought.state is WantState.UNKNOWN:
            return (
                f"No course counts toward {sought.want.tag}"
                if sought.want.tag
                else f"There is no course {name}"
            )
        if sought.state is WantState.NOT_OFFERED:
            return f"{name} is not offered in {term}"
        if sought.state is WantState.STOPPED:
            return f"{name}: no section is open to you"
        return f"Not so many can be had of {name}"

    def _condition(self, element: Element, wants: Sequence[Element]) -> str:
        match element.kind:
            case ElementKind.KEPT_FREE:
                kept = self._question.kept_free[element.index]
                return f"with {_kept_name(kept)}" if kept.label else _kept_name(kept).lower()
            case ElementKind.SEATS:
                waits = self._question.seats is SeatSwitch.WAITLIST
                return "with a seat left or room on the waitlist" if waits else "with a seat left"
            case ElementKind.WAYS:
                return "without a tight way between campuses"
            case ElementKind.HELD:
                return f"beside the {element.name} that you are registered for"
            case ElementKind.KEEP:
                return f"with {element.name} kept in place"
            case ElementKind.LIMIT:
                limit = credits_text(self._instance.situation.credit_limit)
                return f"within your limit of {limit}"
            case ElementKind.NARROWING:
                as_narrowed = f"as you narrowed it ({self._narrowing_text(element.index)})"
                return as_narrowed if len(wants) == 1 else f"with {self.name(element.index)} {as_narrowed}"
            case ElementKind.WANT:
                return ""

    def _text(self, elements: Sequence[Element], wants: Sequence[Element]) -> str:
        if any(e.kind is ElementKind.LIMIT for e in elements):
            return ""
        told = [text for e in wants[:2] if (text := self._what_there_is(e.index, elements))]
        return " ".join(sentence_case(text) for text in told) if not self._is_same(wants) else ""

    def _too_many_credits(self, elements: Sequence[Element], wants: Sequence[Element]) -> str:
        held = {e.name for e in elements if e.kind is ElementKind.HELD}
        least = sum(self._least_credits(e.index) for e in wants)
        registered = sum(h.credits for h in self._instance.stays if h.section.course.key in held)
        beside = f" beside the {credits_text(registered)} registered" if registered else ""
        whole = len(wants) == len(self._question.wants) and len(wants) > _NAMED
        names = "all that you want" if whole else listed([self.name(e.index) for e in wants])
        verb = "comes" if whole or len(wants) == 1 else "come"
        limit = self._instance.situation.credit_limit
        return f"{names} {verb} to {credits_text(least)} at least{beside}; your limit is {limit:g}"

    def _least_credits(self, place: int) -> float:
        of_want = [o.credits for o in self._instance.options if self._instance.slots[o.slot].sought == place]
        return min(of_want, default=0) * self._instance.sought[place].want.count / 10

    def _what_there_is(self, place: int, elements: Sequence[Element]) -> str:
        """When the sections meet that would do without the others of the set."""
        sought = self._instance.sought[place]
        if sought.state is not WantState.SOUGHT:
            stops = [
                j.stop.text
                for key in sought.courses
                for s in self._instance.term.by_course.get(key, ())
                if (j := self._instance.judged.get(s.reference_number)) is not None and j.stop is not None
            ]
            return stops[0] if stops else ""
        own = [e for e in elements if e.kind in (ElementKind.SEATS, ElementKind.NARROWING)]
        options = self._options(place, own)
        if not options:
            return ""
        times = list(dict.fromkeys(_times(o) for o in options if o.days))
        if not times:
            return ""
        name = self.name(place)
        if len(times) > _TIMES_SHOWN:
            return f"{name} has {counted(len(options), 'way', 'ways')} to be taken, none beside the rest."
        seat = any(e.kind is ElementKind.SEATS for e in own)
        with_seat = " with a seat" if seat else ""
        return f"{name}{with_seat} meets {listed(times, 'or')} only."

    def _options(self, place: int, keeping: Iterable[Element]) -> list[Option]:
        bits = sum(self._instance.bit[e] for e in keeping)
        return [
            o
            for o in self._instance.options
            if self._instance.slots[o.slot].sought == place and not o.violates & bits
        ]

    def _ways_on(self, elements: Sequence[Element]) -> Iterator[WayOn]:
        for element in elements:
            if element.kind is not ElementKind.WANT:
                yield from self._way_on(element, elements)
        for element in reversed(elements):
            if element.kind is ElementKind.WANT and element.index < len(self._question.wants):
                yield self._want_if_it_fits(element.index)

    def _want_if_it_fits(self, place: int) -> WayOn:
        want = self._question.wants[place]
        return WayOn(
            f"Take {self.name(place)} only if it fits",
            _with_want(self._question, place, replace(want, is_needed=False)),
        )

    def _way_on(self, element: Element, elements: Sequence[Element]) -> Iterator[WayOn]:
        question = self._question
        match element.kind:
            case ElementKind.KEPT_FREE:
                yield from self._free(element, elements)
            case ElementKind.SEATS:
                yield from self._other_seats(elements)
            case ElementKind.WAYS:
                yield WayOn("Allow tight ways between campuses", replace(question, no_tight_ways=False))
            case ElementKind.NARROWING:
                want = question.wants[element.index]
                wider = replace(want, narrowing=type(want.narrowing)())
                also = self._instance.sought[element.index]
                many = len(self._options(element.index, ()))
                yield WayOn(
                    f"Any section of {self.name(element.index)}: {counted(many, 'way', 'ways')} to take "
                    f"{'it' if len(also.courses) == 1 else 'one'}",
                    _with_want(question, element.index, wider),
                )
            case ElementKind.HELD:
                yield from self._let_move(element, elements)
            case ElementKind.KEEP:
                keeps = question.keeps - {element.name}
                yield WayOn(f"Do not keep {element.name} in place", replace(question, keeps=keeps))
            case ElementKind.LIMIT:
                yield WayOn("Ask your advisor whether your limit can be raised")
            case ElementKind.WANT:
                return

    def _other_seats(self, elements: Sequence[Element]) -> Iterator[WayOn]:
        question = self._question
        rest = self._bits(e for e in elements if e.kind is not ElementKind.SEATS)
        if question.seats is SeatSwitch.LEFT:
            among = sum(
                1 << n for n, o in enumerate(self._instance.options) if o.seat_state <= SeatState.WAITLIST
            )
            search = self._possible.search(rest, among)
            if all(search.masks) and search.exists():
                yield WayOn(
                    "Look also at sections with room on the waitlist",
                    replace(question, seats=SeatSwitch.WAITLIST),
                )
                return
        yield WayOn("Look at full sections as well", replace(question, seats=SeatSwitch.ALL))

    def _free(self, element: Element, elements: Sequence[Element]) -> Iterator[WayOn]:
        """Finds the fewest minutes to free so that the rest of the set is possible."""
        kept = self._question.kept_free[element.index]
        search = self._possible.search(self._bits(e for e in elements if e is not element))
        least: tuple[int, list[tuple[int, int, int]]] | None = None
        for chosen in islice(best_first(search, ()), _LOOKED_THROUGH):
            hours = self._hours_within(search, chosen.options, kept)
            minutes = sum(end - start for _, start, end in hours)
            if least is None or minutes < least[0]:
                least = minutes, hours
        if least is None or not least[1]:
            return
        pieces = [kept]
        for day, start, end in least[1]:
            pieces = [piece for one in pieces for piece in cut(one, day, start, end)]
        told = listed([f"{WEEKDAYS[d]} {clock_time(s)}–{clock_time(e)}" for d, s, e in least[1]])
        before = self._question.kept_free[: element.index]
        after = self._question.kept_free[element.index + 1 :]
        yield WayOn(f"Free {told}", replace(self._question, kept_free=(*before, *pieces, *after)))

    def _hours_within(
        self, search: Search, options: Sequence[int], kept: KeptFree
    ) -> list[tuple[int, int, int]]:
        """The hours of classes within hours to keep free: weekday, from, to."""
        calendar = self._instance.term.calendar
        found: dict[tuple[int, int, int], None] = {}
        for n in options:
            for section in search.instance.options[n].sections:
                for m in section.meetings:
                    start, end = max(m.start, kept.start), min(m.end, kept.end)
                    for day in m.weekdays:
                        first, last = kept.first or calendar.first, kept.last or calendar.last
                        if (
                            start < end
                            and day in kept.weekdays
                            and m.days & calendar.class_days((day,), first, last)
                        ):
                            found[day, start, end] = None
        return sorted(found)

    def _let_move(self, element: Element, elements: Sequence[Element]) -> Iterator[WayOn]:
        held = [h.section for h in self._instance.stays if h.section.course.key == element.name]
        offered = self._instance.term.by_course.get(element.name, ())
        if any(s.bundle is not None for s in held) or len(offered) <= len(held):
            return
        numbers = frozenset(s.reference_number for s in held)
        question = replace(self._question, may_move=self._question.may_move | numbers)
        trial = Instance(self._instance.situation, question, self._instance.now)
        rest = [e for e in elements if e is not element]
        bits = sum(trial.bit[e] for e in rest if e in trial.bit)
        for n, sought in enumerate(trial.sought):
            if sought.moves and sought.courses[0] == element.name:
                bits |= trial.bit[Element(ElementKind.WANT, n)]
        if Possible(trial, self._possible.steps)(bits):
            yield WayOn(f"Let your {element.name} move to another section", question)

    def _bits(self, elements: Iterable[Element]) -> int:
        return sum(self._instance.bit[e] for e in elements)

    def name(self, place: int) -> str:
        """A want in a sentence: ``SOIL 240``, ``two of CERM 105 and TXTL 110``."""
        return want_name(self._instance.sought[place].want)

    def _narrowing_text(self, place: int) -> str:
        return narrowing_text(self._instance.sought[place].want, self._instance.term.campus_names)


def want_name(want: Want) -> str:
    """A want in a sentence: ``SOIL 240``, ``one that counts toward Craft``."""
    if not want.is_choice:
        return want.courses[0] if want.courses else "nothing"
    many = ("none", "one", "two", "three", "four")[want.count] if want.count < 5 else str(want.count)
    if want.tag:
        return f"{many} that {'counts' if want.count == 1 else 'count'} toward {want.tag}"
    return f"{many} of {listed(want.courses, 'or')}"


def narrowing_text(want: Want, campus_names: Mapping[str, str]) -> str:
    """A restriction in a few words: ``not 30299, Hillfoot or online``."""
    narrowing = want.narrowing
    parts = []
    if narrowing.without:
        parts.append(f"not {listed(sorted(narrowing.without), 'or')}")
    if narrowing.only:
        parts.append(f"only {listed(sorted(narrowing.only), 'or')}")
    if narrowing.instructors:
        parts.append(f"with {listed(sorted(narrowing.instructors), 'or')}")
    if narrowing.campuses:
        parts.append(listed([campus_names.get(c, c) for c in sorted(narrowing.campuses)], "or"))
    if narrowing.deliveries:
        parts.append(listed(sorted(narrowing.deliveries), "or"))
    if narrowing.sessions:
        parts.append(f"in the {listed(sorted(narrowing.sessions), 'or')}")
    return ", ".join(parts)


def cut(kept: KeptFree, day: int, start: int, end: int) -> Iterator[KeptFree]:
    """The pieces left of hours to keep free without some hours of one weekday."""
    if day not in kept.weekdays:
        yield kept
        return
    others = tuple(d for d in kept.weekdays if d != day)
    if others:
        yield replace(kept, weekdays=others)
    if kept.start < start:
        yield replace(kept, weekdays=(day,), end=min(kept.end, start))
    if end < kept.end:
        yield replace(kept, weekdays=(day,), start=max(kept.start, end))


def _kept_name(kept: KeptFree) -> str:
    """``“Work” on Tuesdays and Thursdays from 13:00``."""
    days = listed([f"{WEEKDAYS[d]}s" for d in kept.weekdays])
    if kept.start == 0 and kept.end == MINUTES_A_DAY:
        hours = ""
    elif kept.end == MINUTES_A_DAY:
        hours = f" from {clock_time(kept.start)}"
    elif kept.start == 0:
        hours = f" before {clock_time(kept.end)}"
    else:
        hours = f" {clock_time(kept.start)}–{clock_time(kept.end)}"
    if len(kept.weekdays) == len(WEEKDAYS):
        days = "every day"
    name = f"“{kept.label}” on {days}{hours}".replace("on every", "every")
    return name if kept.label else f"Keeping {days}{hours} free"


def _times(option: Option) -> str:
    return " with ".join(times_text(s.meetings) for s in option.sections)


def _with_want(question: Question, place: int, want: Want) -> Question:
    wants = tuple(want if n == place else w for n, w in enumerate(question.wants))
    return replace(question, wants=wants)
