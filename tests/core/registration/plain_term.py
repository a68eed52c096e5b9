"""A little term in plain values, and by its own reckoning what of a request goes through.

Nothing of the core is used to find that out: a week is a set of dates and quarter hours, every
subset of the request is looked at, the first valid one is taken. What goes through is defined in
the handbook; this says it again, as slowly as it likes.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from itertools import combinations
from random import Random

from gremba.core.catalogue.requisites import AllOf, CountOf, CourseNeed, Requisite
from gremba.core.catalogue.seats import SeatFigures
from gremba.core.registration.changes import Change, Kind, Mode, Request
from gremba.core.registration.situation import Registration
from tests.support.world import FIRST_HALF, FULL, SECOND_HALF, World

Slot = tuple[str, int, str]
"""Half of the term, quarter of an hour of the day, weekday."""
Needs = tuple[str, ...]
"""One way to meet requisites: ``"SOIL before"``, ``"SOIL joint"``, ``"SOIL together"``."""


@dataclass
class Offered:
    """A section in plain values.

    Attributes:
        needs: ways to meet its requisites, any of which will do; each needs all of its parts.
        goes_with: linked sections, by number.
    """

    number: str
    course: str
    part: str
    text: str
    half: str
    slots: frozenset[Slot]
    pool: int
    credits: tuple[float, float]
    needs: tuple[Needs, ...] = ()
    goes_with: frozenset[str] = frozenset()
    bundle: str = ""
    places: int = 3


@dataclass
class Wanted:
    """A change in plain values; ``gives`` is what a swap or a waiting swap gives up."""

    sign: str
    number: str
    gives: str = ""
    credits: float | None = None


@dataclass
class Term:
    """Everything a request is judged on."""

    sections: dict[str, Offered]
    seats: dict[int, tuple[int, int, int]]
    """Limit, taken, waiting."""
    held: dict[str, float]
    passed: set[str]
    limit: float
    waits_for: list[str] = field(default_factory=list)
    same: dict[str, str] = field(default_factory=dict)
    """Old numbers of courses."""


def _halves(half: str) -> tuple[str, ...]:
    return ("1", "2") if half == "full" else (half,)


def _slots(text: str, half: str) -> frozenset[Slot]:
    days, hours = text.split()
    first, last = (int(h[:2]) * 4 + int(h[3:]) // 15 for h in hours.split("-"))
    return frozenset((h, q, d) for h in _halves(half) for q in range(first, last) for d in days)


Unheard = Callable[[Sequence[Offered], Offered], bool]
"""A rule that the decision does not know: whether what is had in the end stops an add in it."""


# --- what goes through -------------------------------------------------------------------------


def groups(term: Term, wanted: Sequence[Wanted]) -> list[tuple[int, ...]]:
    """Changes that stand or fall together."""
    ties: list[tuple[int, int, bool]] = []

    def tie(one: int, other: int, replaces: bool = False) -> None:
        ties.append((one, other, replaces))

    named = _named(term, wanted)
    for i, w in enumerate(wanted):
        for j in named if w.sign == "?" else ():
            if wanted[j].number in term.sections[w.number].goes_with:
                tie(i, j)
    adds = [(i, term.sections[w.number]) for i, w in enumerate(wanted) if w.sign in "+>" and i not in named]
    drops = [
        (i, term.sections[w.number if w.sign == "-" else w.gives])
        for i, w in enumerate(wanted)
        if w.sign in "->"
    ]
    for (i, a), (j, b) in combinations(adds, 2):
        mutual = _must_have(term, a, b.course) and _must_have(term, b, a.course)
        if (a.bundle and a.bundle == b.bundle) or b.number in a.goes_with or mutual:
            tie(i, j)
    for (i, a), (j, b) in combinations(drops, 2):
        if (a.bundle and a.bundle == b.bundle) or b.number in a.goes_with:
            tie(i, j)
    for i, gone in drops:
        new = [j for j, a in adds if a is not gone and _same(term, a, gone)]
        if len(new) == 1:
            tie(i, new[0], replaces=True)
    # Of sections that exclude each other, none is tied to the other.
    taken = dict(adds) | {i: term.sections[wanted[i].number] for i in named}
    rivals = {
        i
        for together in _merged(len(wanted), ties)
        for i in together
        if i in taken and any(j != i and j in taken and _same(term, taken[i], taken[j]) for j in together)
    }
    return _merged(len(wanted), [t for t in ties if t[2] or not {t[0], t[1]} & rivals])


def _merged(many: int, ties: Sequence[tuple[int, int, bool]]) -> list[tuple[int, ...]]:
    tied = {i: {i} for i in range(many)}
    for one, other, _ in ties:
        merged = tied[one] | tied[other]
        for i in merged:
            tied[i] = merged
    return sorted({tuple(sorted(t)) for t in tied.values()})


def _named(term: Term, wanted: Sequence[Wanted]) -> set[int]:
    """Adds that go with a section waited for: they are only named for its place."""
    waited = [term.sections[w.number] for w in wanted if w.sign == "?"]
    return {i for i, w in enumerate(wanted) if w.sign == "+" and any(w.number in s.goes_with for s in waited)}


def _must_have(term: Term, section: Offered, course: str) -> bool:
    """Whether every way to meet its requisites takes the other course in the same term."""
    own = {f"{c} together" for c in _numbers(term, course)}
    return bool(section.needs) and len(section.needs) == 1 and bool(own & set(section.needs[0]))


def _numbers(term: Term, course: str) -> set[str]:
    new = term.same.get(course, course)
    return {new} | {old for old, now in term.same.items() if now == new}


def _same(term: Term, one: Offered, other: Offered) -> bool:
    return one.part == other.part and other.course in _numbers(term, one.course)


def first_valid(term: Term, wanted: Sequence[Wanted], unheard: Unheard | None = None) -> set[int]:
    """The changes that go through: of the valid sets the first in the order of the list."""
    found = groups(term, wanted)
    for pick in range(2 ** len(found) - 1, -1, -1):
        trial = [g for n, g in enumerate(found) if pick >> (len(found) - 1 - n) & 1]
        through = {i for g in trial for i in g}
        if is_valid(term, wanted, through, unheard):
            return through
    raise AssertionError("nothing at all is always valid")


def taken_one_by_one(term: Term, wanted: Sequence[Wanted]) -> set[int]:
    """What somebody would get who puts the groups through in order, each that can stand then."""
    through: set[int] = set()
    for group in groups(term, wanted):
        if is_valid(term, wanted, through | set(group)):
            through |= set(group)
    return through


def _gone(term: Term, wanted: Sequence[Wanted], through: set[int]) -> list[str]:
    """What is dropped: what is named, and the linked sections that go along with it unless another
    section takes its place."""
    only_named = _named(term, wanted)
    adds = [
        term.sections[w.number]
        for i, w in enumerate(wanted)
        if i in through and w.sign in "+>" and i not in only_named
    ]
    named = [
        w.number if w.sign == "-" else w.gives
        for i, w in enumerate(wanted)
        if i in through and w.sign in "->"
    ]
    found = list(named)
    for number in named:
        own = term.sections[number]
        if number in term.held and not any(a is not own and _same(term, a, own) for a in adds):
            found += [n for n in _along(term, number) if n not in found]
    return found


def _along(term: Term, number: str) -> list[str]:
    """What is held and goes with a section, and with that."""
    found = [number]
    for one in found:
        found += [n for n in term.held if n in term.sections[one].goes_with and n not in found]
    return found[1:]


def is_valid(term: Term, wanted: Sequence[Wanted], through: set[int], unheard: Unheard | None = None) -> bool:
    """Whether nothing in the set is stopped, in the end state it leads to."""
    if not through:
        return True
    of = term.sections
    chosen = [w for i, w in enumerate(wanted) if i in through]
    gone = _gone(term, wanted, through)
    named = _named(term, wanted)
    adds = [of[w.number] for i, w in enumerate(wanted) if i in through and w.sign in "+>" and i not in named]
    waits = [w for w in chosen if w.sign == "?"]
    adjusts = [w for w in chosen if w.sign == "~"]
    kept = [of[n] for n in term.held if n not in gone]
    end = kept + adds
    if unheard is not None and any(unheard(end, add) for add in adds):
        return False
    # Contradictions.
    if len(gone) != len(set(gone)) or any(n not in term.held for n in gone):
        return False
    if len({w.number for w in adjusts}) != len(adjusts):
        return False
    gained = {w.number for w in chosen if w.sign in "+>?"}
    changed = {w.number for w in adjusts}
    if changed & (gained | set(gone)) or gained & set(gone):
        return False
    if any(w.number not in term.held for w in adjusts):
        return False
    # Time, courses and seats.
    for index, add in enumerate(adds):
        for other in kept + adds[:index]:
            if add.slots & other.slots or _same(term, add, other):
                return False
    for pool in {a.pool for a in adds}:
        limit, taken, waiting = term.seats[pool]
        free = limit - taken + sum(of[n].pool == pool for n in gone)
        if waiting or sum(a.pool == pool for a in adds) > free:
            return False
    # Credits.
    now = dict(term.held)
    before = sum(now.values())
    raised = any(a.credits[0] for a in adds)
    for w in adjusts:
        low, high = of[w.number].credits
        chosen_credits = now[w.number] if w.credits is None else w.credits
        if not low <= chosen_credits <= high:
            return False
        raised |= chosen_credits > now[w.number]
        now[w.number] = chosen_credits
    total = sum(now[s.number] for s in kept) + sum(a.credits[0] for a in adds)
    if raised and total > max(term.limit, before):
        return False
    # Requisites, linked sections, bundles.
    in_line = [of[w.number] for w in waits] + [of[n] for n in term.waits_for]
    for add in adds:
        if not _prepared(term, add, [s for s in end if s is not add]):
            return False
        if not _has_linked_sections(term, add, end):
            return False
    for wait in waits:
        own = of[wait.number]
        if not _prepared(term, own, [s for s in end + in_line if s is not own]):
            return False
        if own.bundle and any(o.bundle == own.bundle and o not in end for o in of.values() if o is not own):
            return False
    for add in adds:
        if add.bundle and any(o.bundle == add.bundle and o not in end for o in of.values()):
            return False
    for number in gone:
        drop = of[number]
        if drop.bundle and any(k.bundle == drop.bundle for k in kept):
            return False
        for k in kept:
            needed = {
                c
                for way in k.needs
                for part in way
                if not part.endswith("before")
                for c in _numbers(term, part.split()[0])
            }
            held = [of[n] for n in term.held if n != k.number]
            was = _prepared(term, k, held)
            if (
                k.part == "lecture"
                and drop.course in needed
                and was
                and not _prepared(term, k, [s for s in end if s is not k])
            ):
                return False
            if number in k.goes_with and not any(s.course == k.course and s.part == drop.part for s in end):
                return False
    if gone and not end:
        return False
    only_named = [of[wanted[i].number] for i in sorted(named & through)]
    for index, own in enumerate(only_named):
        its_waits = [w for w in waits if own.number in of[w.number].goes_with]
        if not its_waits or any(_same(term, own, other) for other in only_named[:index]):
            return False
        if not _prepared(term, own, [s for s in end + in_line if s is not own]):
            return False
        if own.bundle and any(o.bundle == own.bundle and o not in end for o in of.values() if o is not own):
            return False
        leaving = {n for w in its_waits if w.gives for n in [w.gives, *_along(term, w.gives)]}
        for s in end:
            if s is own or (_same(term, s, own) and s in adds):
                return False
            if s in kept and (s.number in leaving or _same(term, s, own)):
                continue
            if s.slots & own.slots:
                return False
    return _waits_are_valid(term, waits, kept, adds)


def _waits_are_valid(
    term: Term, waits: Sequence[Wanted], kept: Sequence[Offered], adds: Sequence[Offered]
) -> bool:
    of = term.sections
    places = [n for n in term.waits_for if not any(_same(term, of[n], a) for a in adds)]
    if waits and len(places) + len(waits) > 5:
        return False
    for index, w in enumerate(waits):
        own = of[w.number]
        limit = own.places
        behind = sum(of[o.number].pool == own.pool for o in waits[:index])
        if term.seats[own.pool][2] + behind >= limit or not limit:
            return False
        if any(_same(term, own, of[n]) for n in term.waits_for):
            return False
        if any(_same(term, own, of[o.number]) for o in waits[:index]):
            return False
        leaving = [w.gives, *_along(term, w.gives)] if w.gives in term.held else []
        for s in [*kept, *adds]:
            if s is own:
                return False
            if s in kept and s.number in leaving:
                continue
            if _same(term, own, s) or own.slots & s.slots:
                return False
        if w.gives and w.gives not in {k.number for k in kept}:
            return False
    return True


def _prepared(term: Term, section: Offered, beside: Sequence[Offered]) -> bool:
    if not section.needs:
        return True
    # A lab does not ask again for what its lecture asks for.
    if section.part != "lecture" and any(s.course == section.course and s.part == "lecture" for s in beside):
        return True
    have = {s.course for s in beside}

    def met(part: str) -> bool:
        course, when = part.split(" ")[0], part.split(" ")[1]
        numbers = _numbers(term, course)
        earlier, now = bool(numbers & term.passed), bool(numbers & have)
        return {"before": earlier, "joint": earlier or now, "together": now}[when]

    return any(all(met(part) for part in way) for way in section.needs)


def _has_linked_sections(term: Term, section: Offered, end: Sequence[Offered]) -> bool:
    parts = {term.sections[n].part for n in section.goes_with}
    return all(
        any(s.course == section.course and s.part == part and s.number in section.goes_with for s in end)
        for part in parts
    )


# --- making them -------------------------------------------------------------------------------

COURSES = ("SOIL", "HIST", "WRIT", "ECON", "MAPS", "BAKE")
_TIMES = tuple(
    f"{d} {h:02d}:{m}-{h + 1:02d}:{n}"
    for d in ("M", "T", "MW")
    for h, m, n in ((9, "00", "00"), (9, "30", "30"), (10, "00", "00"), (10, "30", "30"), (11, "00", "00"))
)


def make(seed: int) -> tuple[Term, list[Wanted]]:
    """A cramped term with a request in which much hangs on other things."""
    rng = Random(seed)
    sections: dict[str, Offered] = {}
    courses = rng.sample(COURSES, rng.randint(3, 6))
    same = {}
    if rng.random() < 0.25:
        same = {"OLD": courses[0]}
    needs = {c: _some_needs(rng, [o for o in (*courses, *same) if same.get(o) != c], c) for c in courses}
    credits = {c: rng.choice([(3.0, 3.0), (3.0, 3.0), (1.0, 4.0), (4.0, 4.0)]) for c in courses}
    for n in range(rng.randint(4, 9)):
        course = rng.choice(courses)
        half = rng.choice(["full", "full", "1", "2"])
        text = rng.choice(_TIMES)
        number = f"{30000 + n}"
        pool = rng.choice([n + 1, n + 1, n + 1, 90])
        bundle = "trade" if rng.random() < 0.1 else ""
        sections[number] = Offered(
            number,
            course,
            "lecture",
            text,
            half,
            _slots(text, half),
            pool,
            credits[course],
            needs[course],
            bundle=bundle,
            places=rng.choice([0, 1, 3]),
        )
    if rng.random() < 0.3:
        _give_labs(rng, sections, needs)
    # Cross-listed sections have one waitlist.
    shared = [s for s in sections.values() if s.pool == 90]
    for section in shared:
        section.places = shared[0].places
    seats = {}
    for pool in sorted({s.pool for s in sections.values()}):
        seats[pool] = (rng.choice([4, 4, 4, 2, 1]), rng.choice([1, 1, 2]), rng.choice([0, 0, 0, 0, 1]))
    held: dict[str, float] = {}
    for number in rng.sample(sorted(sections), min(len(sections), rng.randint(0, 4))):
        low, high = sections[number].credits
        held[number] = float(rng.choice([low, high]))
        limit, taken, waiting = seats[sections[number].pool]
        seats[sections[number].pool] = (limit, max(taken, 1), waiting)
    passed = set(rng.sample(courses, rng.randint(0, 2)))
    if same and rng.random() < 0.5:
        passed.add("OLD")
    term = Term(sections, seats, held, passed, rng.choice([6.0, 9.0, 12.0, 18.0]), same=same)
    if rng.random() < 0.1:
        term.waits_for = [n for n in sections if n not in held][:1]
    return term, _some_changes(rng, term)


def _some_needs(rng: Random, courses: Sequence[str], own: str) -> tuple[Needs, ...]:
    if rng.random() < 0.45:
        return ()
    others = [c for c in courses if c != own]

    def part() -> str:
        return f"{rng.choice(others)} {rng.choice(['before', 'joint', 'joint', 'together', 'together'])}"

    return tuple(tuple(part() for _ in range(rng.choice([1, 1, 2]))) for _ in range(rng.choice([1, 1, 2])))


def _give_labs(rng: Random, sections: dict[str, Offered], needs: dict[str, tuple[Needs, ...]]) -> None:
    """Make a lecture one of a course in two or three parts; those beside it go with one another as
    well, or with the lecture alone."""
    lecture = rng.choice(list(sections.values()))
    parts: dict[str, list[str]] = {}
    for part, first in (("lab", 30050), ("discussion", 30060))[: rng.choice([1, 1, 2])]:
        for n in range(rng.randint(1, 2)):
            number, half, text = f"{first + n}", lecture.half, rng.choice(_TIMES)
            parts.setdefault(part, []).append(number)
            sections[number] = Offered(
                number,
                lecture.course,
                part,
                text,
                half,
                _slots(text, half),
                int(number) - 30000,
                (0.0, 0.0),
                needs[lecture.course],
                places=1,
            )
    mixed = rng.random() < 0.5
    lecture.goes_with = frozenset(n for own in parts.values() for n in own)
    for part, own in parts.items():
        beside = {n for other, theirs in parts.items() if other != part and mixed for n in theirs}
        for number in own:
            sections[number].goes_with = frozenset({lecture.number} | beside)


def _some_changes(rng: Random, term: Term) -> list[Wanted]:
    numbers, held = sorted(term.sections), sorted(term.held)
    found: list[Wanted] = []
    seen = set()
    for _ in range(rng.choice([2, 3, 4, 5, 5, 6, 6, 7, 7])):
        sign = rng.choice("+++++-->>>~??")
        if sign in "->~" and not held:
            sign = "+"
        own = sign in "-~" and rng.random() < 0.95
        number = rng.choice(held if own else numbers)
        gives, credits = "", None
        if sign == ">" or (sign == "?" and held and rng.random() < 0.5):
            gives = rng.choice(held)
        elif sign == "~":
            credits = rng.choice([None, *map(float, range(1, 5))])
        if sign == ">" and gives == number:
            continue
        if (sign, number, gives) not in seen:
            seen.add((sign, number, gives))
            found.append(Wanted(sign, number, gives, credits))
    return found


# --- the same for the decision -----------------------------------------------------------------

_KINDS = {"+": Kind.ADD, "-": Kind.DROP, ">": Kind.SWAP, "~": Kind.ADJUST, "?": Kind.WAIT}
_SESSIONS = {"full": FULL, "1": FIRST_HALF, "2": SECOND_HALF}
_TIMINGS = {"before": "before", "joint": "before or together", "together": "together"}


def as_world(term: Term) -> World:
    """The term as the core knows it."""
    world = World()
    for old, new in term.same.items():
        if all(s.course != new for s in term.sections.values()):
            world.course(f"{new} 100", equivalents=frozenset({f"{old} 100"}))
    for number, s in term.sections.items():
        key = f"{s.course} 100"
        if key not in {c.course.key for c in world.sections.values()}:
            older = {f"{o} 100" for o, new in term.same.items() if new == s.course}
            world.course(
                key,
                credits_least=s.credits[0] or 3.0,
                credits_most=s.credits[1] or 3.0,
                requisites=_tree(s.needs),
                equivalents=frozenset(older),
            )
        world.section(
            number,
            key,
            s.text,
            session=_SESSIONS[s.half],
            pool=s.pool,
            component=s.part,
            carries_credit=s.part == "lecture",
            linked_sections=s.goes_with,
            bundle=s.bundle or None,
            waitlist_limit=s.places,
        )
    world.seats = {
        pool: SeatFigures(limit, taken, beyond=max(0, taken - limit), waiting=waiting)
        for pool, (limit, taken, waiting) in term.seats.items()
    }
    world.student.credit_limit = term.limit
    world.passed(*((f"{c} 100", "A") for c in sorted(term.passed)))
    world.wait_for(*term.waits_for)
    world.registrations = tuple(Registration(world.sections[n], c) for n, c in term.held.items())
    return world


def _tree(needs: tuple[Needs, ...]) -> Requisite | None:
    if not needs:
        return None
    ways = tuple(
        AllOf(tuple(CourseNeed(f"{p.split()[0]} 100", None, _TIMINGS[p.split()[1]]) for p in way))
        for way in needs
    )
    return ways[0] if len(ways) == 1 else CountOf(1, ways)


def as_request(wanted: Sequence[Wanted], mode: Mode = Mode.EACH) -> Request:
    """The request as the core knows it."""
    return Request(tuple(Change(_KINDS[w.sign], w.number, None, w.credits, w.gives) for w in wanted), mode)
