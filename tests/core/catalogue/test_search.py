"""Finding sections: examples, and against a plain, slow reading of the same catalogue."""

from __future__ import annotations

import re
import unicodedata
import unittest
from collections.abc import Iterator
from dataclasses import replace
from itertools import product
from random import Random
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from gremba.core.catalogue.search.filters import BY_NAME, FILTERS, Filters, Takes
from gremba.core.catalogue.search.find import Found, find
from gremba.core.catalogue.search.fit import WeekFit
from gremba.core.catalogue.search.index import SearchIndex
from gremba.core.catalogue.seats import SeatFigures
from gremba.core.catalogue.term import Policy, Section
from gremba.core.registration.changes import Change, Kind, Request
from gremba.core.registration.decision import decide
from tests.support.examples import examples
from tests.support.world import FIRST_HALF, FULL, SECOND_HALF, World

SUBJECTS = {"SOIL": "Soil science", "APIC": "Beekeeping", "BAKE": "Baking"}
WORDS = ("hive", "honey", "bread", "compost", "loam", "winter", "tree", "cider", "Käse", "orchards")
NAMES = ("Petra Lunn", "Ada Kelridge", "Bo Fernstow")


def college(seed: int) -> World:
    """A random term: lectures, some with labs, halves, evenings, online, full and cancelled."""
    rng = Random(seed)
    # Nothing but the timetable shall stand in the way.
    world = World(Policy(credit_limits={"good": 99.0}, may_leave_by_dropping=True))

    def pick(*values: object) -> object:
        return rng.choice(values)

    for n in range(30):
        subject = rng.choice(sorted(SUBJECTS))
        key = f"{subject} {rng.choice((110, 142, 149, 210, 310))}{rng.choice(('', '', 'A'))}"
        if key not in world._courses:
            least = rng.choice((1.0, 2.0, 3.0))
            world.course(
                key,
                description=" ".join(rng.sample(WORDS, 2)),
                credits=least,
                tags=tuple(rng.sample(("Craft", "Quantity", "History"), 1)),
            )
            if rng.random() < 0.2:
                world._courses[key] = replace(world._courses[key], credits_most=least + 2)
        session = rng.choice((FULL, FULL, FIRST_HALF, SECOND_HALF))
        lecture, labs = f"{30000 + n * 10}", [f"{30000 + n * 10 + k}" for k in (1, 2)]
        has_labs = rng.random() < 0.3
        seats = SeatFigures(4, rng.randint(0, 4), waiting=rng.randint(0, 2))
        days, hour = rng.choice(("MW", "TR", "F", "S")), rng.choice((8, 9, 12, 16, 18))
        world.section(
            lecture,
            key,
            *([] if rng.random() < 0.1 else [f"{days} {hour:02d}:00-{hour:02d}:50"]),
            session=session,
            seats=seats,
            waitlist_limit=2,
            instructors=tuple(rng.sample(NAMES, rng.randint(0, 1))),
            notes=str(pick("", rng.choice(WORDS))),
            topic=str(pick("", "", "Rivers")),
            delivery=str(pick("in person", "live online")),
            campus=str(pick("hill", "mill", "")),
            no_textbook_cost=bool(pick(True, False)),
            cancelled=rng.random() < 0.1,
            linked_sections=frozenset(labs if has_labs else ()),
        )
        for lab in labs if has_labs else ():
            world.section(
                lab,
                key,
                f"{rng.choice('MTWRF')} {rng.choice((8, 14)):02d}:00-16:50",
                component="lab",
                carries_credit=False,
                session=session,
                seats=SeatFigures(2, rng.randint(0, 2)),
                linked_sections=frozenset({lecture}),
            )
    return world


def search(world: World, filters: Filters, week: tuple[str, ...] = ()) -> tuple[set[str], Found]:
    index = SearchIndex(replace(world.catalogue(), subject_names=SUBJECTS))
    fit = WeekFit(index, [world.sections[n] for n in week])
    found = find(index, filters, world.seats, fit)
    numbers = {index.sections[p].reference_number for group in found.courses for p in group}
    return numbers, found


def slips(one: str, other: str) -> int:
    """Optimal string alignment distance: changed, left out, put in, or two turned round (the
    textbook recurrence, from memory)."""
    rows = [list(range(len(other) + 1))]
    for i, a in enumerate(one, 1):
        row = [i]
        for j, b in enumerate(other, 1):
            best = min(rows[-1][j] + 1, row[-1] + 1, rows[-1][j - 1] + (a != b))
            if i > 1 and j > 1 and a == other[j - 2] and one[i - 2] == b:
                best = min(best, rows[-2][j - 2] + 1)
            row.append(best)
        rows.append(row)
    return rows[-1][-1]


def text_words(text: str) -> list[str]:
    plain = "".join(c for c in unicodedata.normalize("NFKD", text.casefold()) if not unicodedata.combining(c))
    return re.findall(r"[0-9]+[a-z]*|[^\W\d_]+", plain)


def words_of(s: Section) -> list[str]:
    c = s.course
    parts = (c.key, c.title, c.description, s.topic, s.notes, SUBJECTS[c.key[:4]], *s.instructors)
    return text_words(" ".join(parts))


def plainly(world: World, f: Filters) -> set[str]:
    """Every section asked every question, one after another."""
    everything = list(world.sections.values())

    def has_word(s: Section, word: str) -> bool:
        if re.fullmatch("[0-9]{5}", word):
            return s.reference_number == word
        if any(w.startswith(word) for o in everything for w in words_of(o)):
            return any(w.startswith(word) for w in words_of(s))
        # As the page says: none in short words and figures, one from four letters, two from eight.
        most = 0 if word[0].isdigit() or len(word) < 4 else 1 if len(word) < 8 else 2
        return most > 0 and any(
            not w[0].isdigit() and min(slips(word, w), slips(word, w[: len(word)])) <= most
            for w in words_of(s)
        )

    def part(start: int) -> str:
        return "morning" if start < 720 else "afternoon" if start < 1020 else "evening"

    def meets(s: Section) -> Iterator[bool]:
        course, seats = s.course, world.seats[s.pool]
        number = course.key.split()[1]
        no_times = not s.meetings
        yield all(has_word(s, w) for w in text_words(f.text("words")))
        yield not f.values("subject") or course.key.split()[0] in f.values("subject")
        if f.text("number"):
            pattern = f.text("number").replace("?", "[0-9]").replace("*", "[0-9]*")
            yield re.fullmatch(f"{pattern}[A-Z]?", number) is not None
        yield not f.values("instructor") or any(i in f.values("instructor") for i in s.instructors)
        days = {"MTWRFSU"[d] for m in s.meetings for d in m.weekdays}
        if f.values("day"):
            yield "none" in f.values("day") if no_times else days <= set(f.values("day"))
        if f.values("part"):
            yield (
                "none" in f.values("day")
                if no_times
                else {part(m.start) for m in s.meetings} <= set(f.values("part"))
            )
        if f.minute("time_from") is not None:
            yield (
                "none" in f.values("day")
                if no_times
                else all(m.start >= (f.minute("time_from") or 0) for m in s.meetings)
            )
        if f.minute("time_to") is not None:
            yield (
                "none" in f.values("day")
                if no_times
                else all(m.end <= (f.minute("time_to") or 0) for m in s.meetings)
            )
        where = {m.campus for m in s.meetings if m.campus} or {s.campus or "online"}
        yield not f.values("campus") or bool(where & set(f.values("campus")))
        yield not f.values("delivery") or s.delivery in f.values("delivery")
        yield not f.values("component") or s.component in f.values("component")
        yield not f.values("session") or s.session.code in f.values("session")
        yield not f.values("level") or number[0] in f.values("level")
        yield not f.values("counts") or bool(set(course.tags) & set(f.values("counts")))
        if f.values("credits"):
            yield any(course.credits_least <= float(c) <= course.credits_most for c in f.values("credits"))
        room = seats.waiting < s.waitlist_limit
        if f.values("seats"):
            yield not s.cancelled and (seats.left > 0 or (f.values("seats") == ("waitlist",) and room))
        yield not f.values("no_textbook_cost") or s.no_textbook_cost

    return {s.reference_number for s in everything if all(meets(s))}


def some(*values: str) -> st.SearchStrategy[tuple[str, ...]]:
    return st.one_of(st.just(()), st.lists(st.sampled_from(values), max_size=3, unique=True).map(tuple))


filters = st.builds(
    Filters,
    words=st.sampled_from(
        ["", "", "", "hive", "hoeny", "kase", "soil 110", "lunn", "bakin", "zzz", "orcharsd", "brd", "30010"]
    ),
    subject=some("SOIL", "APIC", "BAKE"),
    number=st.sampled_from(["", "", "1*", "14?", "142", "142A"]),
    instructor=some(*NAMES),
    day=some(*"MTWRFSU", "none"),
    part=some("morning", "afternoon", "evening"),
    time_from=st.sampled_from([None, None, 540]),
    time_to=st.sampled_from([None, None, 960]),
    campus=some("hill", "online"),
    delivery=some("in person", "live online"),
    component=some("lecture", "lab"),
    session=some("full", "first", "second"),
    credits=some("1", "2", "3", "4"),
    level=some("1", "2", "3"),
    counts=some("Craft", "Quantity", "History"),
    seats=st.sampled_from(["", "", "open", "waitlist"]),
    no_textbook_cost=st.booleans(),
)


class Table(unittest.TestCase):
    """Whatever stands in the table of filters, those that come later included."""

    def test_a_value_finds_the_sections_that_have_it(self) -> None:
        for f in FILTERS:
            if f.of is None or f.takes is Takes.FREE:
                continue
            self.assertTrue(
                any(f.of(s) for seed in range(6) for s in college(seed).sections.values()), f.name
            )
            for seed in range(6):
                world = college(seed)
                term = world.catalogue()
                for value in {v for s in world.sections.values() for v in f.of(s)}:
                    chosen: dict[str, Any] = {f.name: True if f.takes is Takes.YES else (value,)}
                    found, _ = search(world, Filters(**chosen))
                    having = {s.reference_number for s in world.sections.values() if value in f.of(s)}
                    self.assertEqual(found, having, (f.name, value))
                    self.assertTrue(f.value_name(term, value))

    def test_values_stand_in_their_own_order(self) -> None:
        _, told = search(college(1), Filters())
        order = ("M", "T", "W", "R", "F", "S", "U", "none", "morning", "afternoon", "evening")
        for name in ("day", "part"):
            shown = [count.value for count in told.counts[name]]
            self.assertEqual(shown, sorted(shown, key=order.index))
            self.assertGreater(len(shown), 2)

    def test_every_filter_is_answered_and_counted(self) -> None:
        choices: dict[Takes, Any] = {
            Takes.TEXT: "1",
            Takes.MINUTE: 600,
            Takes.YES: True,
            Takes.ONE: "open",
            Takes.NUMBERS: ("30001",),
        }
        world = college(1)
        everything, told = search(world, Filters())
        for f in FILTERS:
            chosen = choices.get(f.takes, f.always[:1] or ("strange",))
            found, _ = search(world, Filters(**{f.name: chosen}))
            self.assertLessEqual(found, everything, f.name)
            self.assertEqual(f.name in told.counts, f.has_values)


def as_words(wanted: Filters) -> Filters:
    """The same with its words in quotation marks: not read as anything else."""
    return wanted.but(words=" ".join(f"“{word}”" for word in wanted.text("words").split()))


class AgainstPlainReading(unittest.TestCase):
    @examples(300)
    @given(st.integers(0, 40), filters)
    def test_finds_the_same(self, seed: int, wanted: Filters) -> None:
        world = college(seed)
        found, _ = search(world, as_words(wanted))
        # Values that the term does not have are left aside with a note, so they do not narrow it.
        index = SearchIndex(replace(world.catalogue(), subject_names=SUBJECTS))
        kept = {
            name: tuple(v for v in wanted.values(name) if v in values)
            for name, values in index.values.items()
            if name not in ("day", "part")
        }
        self.assertEqual(found, plainly(world, wanted.but(**kept)))

    @examples(60)
    @given(st.integers(0, 40), filters)
    def test_counts_are_what_choosing_the_value_alone_would_find(self, seed: int, wanted: Filters) -> None:
        world = college(seed)
        wanted = as_words(wanted)
        _, found = search(world, wanted)
        for name in ("subject", "campus", "session", "component"):
            for count in found.counts[name]:
                alone, _ = search(world, wanted.but(**{name: (count.value,)}))
                self.assertEqual(count.sections, len(alone), (name, count.value))

    @examples(60)
    @given(st.integers(0, 40), filters)
    def test_what_is_offered_to_be_loosened_finds_something(self, seed: int, wanted: Filters) -> None:
        world = college(seed)
        found, told = search(world, wanted)
        for way in told.loosen:
            self.assertEqual(found, set())
            self.assertEqual(len(search(world, wanted.but(**{way.value: None}))[0]), way.sections)


class SeatsThatMove(unittest.TestCase):
    @examples(60)
    @given(st.integers(0, 20), st.randoms(use_true_random=False))
    def test_following_changes_ends_where_a_new_index_begins(self, seed: int, rng: Random) -> None:
        term = college(seed).catalogue()
        index = SearchIndex(term)
        figures: dict[int, SeatFigures] = {}
        for _ in range(5):
            moved = rng.sample([s.pool for s in term.sections], rng.randint(0, 9))
            figures = {
                **figures,
                **{
                    p: SeatFigures(rng.randint(0, 3), rng.randint(0, 3), waiting=rng.randint(0, 2))
                    for p in moved
                },
            }
            if figures and rng.random() < 0.2:
                del figures[rng.choice(list(figures))]
            self.assertEqual(index.seats(figures), SearchIndex(term).seats(figures))


class FitsAgreesWithTheDecision(unittest.TestCase):
    @examples(150)
    @given(st.integers(0, 40), st.data())
    def test_on_random_weeks(self, seed: int, data: st.DataObject) -> None:
        world = college(seed)
        numbers = st.sampled_from(sorted(world.sections))
        world.held = data.draw(st.lists(numbers, max_size=4, unique=True))
        index = SearchIndex(world.catalogue())
        fit = WeekFit(index, [world.sections[n] for n in world.held])
        fitting = fit.fitting(world.seats)
        for bit, section in enumerate(index.sections):
            if section.reference_number in world.held:
                continue
            judged = fit.judge(section, world.seats)
            self.assertEqual(judged.fits, bool(fitting >> bit & 1))
            self.assertEqual(judged.fits, self.decided(world, section), section.reference_number)

    def decided(self, world: World, section: Section) -> bool:
        """Whether the section, with linked sections that have a seat, would be put through without
        any clash. Those of its course that it replaces are dropped with it."""
        situation = world.situation()
        replaced = [
            h
            for h in situation.held
            if h.section.course is section.course
            and (
                h.section.component == section.component
                or h.section.reference_number not in section.linked_sections
            )
        ]
        drops = [Change(Kind.DROP, h.section.reference_number) for h in replaced]
        have = {
            h.section.component
            for h in situation.held
            if h not in replaced and h.section.reference_number in section.linked_sections
        }
        options = [
            [o for o in many if not o.cancelled and world.seats[o.pool].left]
            for component, many in situation.catalogue.linked_sections_of(section).items()
            if component not in have
        ]
        for linked_sections in product(*options):
            # What a linked section would replace in its turn goes as well.
            more = [
                Change(Kind.DROP, h.section.reference_number)
                for h in situation.held
                if any(
                    h.section.course is c.course
                    and (
                        h.section.component == c.component
                        or h.section.reference_number not in c.linked_sections
                    )
                    for c in linked_sections
                )
                and h not in replaced
            ]
            adds = [Change(Kind.ADD, s.reference_number) for s in (section, *linked_sections)]
            decision = decide(situation, Request((*drops, *more, *adds)), world.now)
            outcomes = decision.outcomes[-len(adds) :]
            if not any(f.code == "time.conflict" for o in outcomes for f in o.findings):
                return True
        return False


class Examples(unittest.TestCase):
    def setUp(self) -> None:
        self.world = World()
        w = self.world
        w.course("SOIL 142A", description="Mud and clay.")
        w.section("30001", "SOIL 142A", "TR 18:00-19:50", session=FIRST_HALF, instructors=("Ada Lunn",))
        w.section("30002", "BAKE 120", "MWF 10:00-10:50", notes="Bring an apron; we bake rye.")
        w.section("30003", "APIC 110", seats=0, topic="Swarms")

    def found(self, **wanted: object) -> list[str]:
        return sorted(search(self.world, Filters(**wanted))[0])  # type: ignore[arg-type]

    def test_number_patterns(self) -> None:
        for pattern, expected in {
            "142": ["30001"],
            "142A": ["30001"],
            "1*": ["30001", "30002", "30003"],
            "14?": ["30001"],
            "1?0": ["30002", "30003"],
            "142B": [],
            "42": [],
            "110, 120": ["30002", "30003"],
        }.items():
            self.assertEqual(self.found(number=pattern), expected, pattern)

    def test_words_in_titles_topics_notes_names_subjects_and_numbers(self) -> None:
        for words, expected in {
            "swarm": ["30003"],
            "rye": ["30002"],
            "lunn": ["30001"],
            "beekeeping": ["30003"],
            "clay mud": ["30001"],
            "soil142": ["30001"],
            "SOIL 142a": ["30001"],
            "30002": ["30002"],
            "beekeping": ["30003"],
            "aprno": ["30002"],
            "ryes": ["30002"],
            "mudd": ["30001"],
        }.items():
            self.assertEqual(self.found(words=words), expected, words)

    def test_what_words_were_taken_for_is_told(self) -> None:
        _, found = search(self.world, Filters(words="beekeping"))
        self.assertEqual(found.read_as, {"beekeping": ("beekeeping",)})

    def test_an_evening_in_the_first_half(self) -> None:
        self.assertEqual(self.found(part=("evening",), session=("first",)), ["30001"])

    def test_noon_is_afternoon_and_five_is_evening(self) -> None:
        for number, hours in (
            ("30010", "M 11:59-12:50"),
            ("30011", "M 12:00-12:50"),
            ("30012", "M 16:59-17:50"),
            ("30013", "M 17:00-17:50"),
        ):
            self.world.section(number, f"KILN {number[2:]}", hours)
        self.assertEqual(self.found(words="KILN", part=("morning",)), ["30010"])
        self.assertEqual(self.found(words="KILN", part=("afternoon",)), ["30011", "30012"])
        self.assertEqual(self.found(words="KILN", part=("evening",)), ["30013"])

    def test_one_value_a_switch_and_nothing_chosen(self) -> None:
        self.world.section("30010", "KILN 110", no_textbook_cost=True)
        self.assertEqual(self.found(no_textbook_cost=True), ["30010"])
        self.assertNotIn("30003", self.found(seats="open"))
        self.assertEqual(len(self.found(subject=(), words="", seats="", fits=False)), 4)
        self.assertEqual(Filters(subject=(), words="", seats="", fits=False).active(), ())
        self.assertEqual(Filters(among=()).active(), ("among",))
        self.assertEqual(self.found(among=()), [])
        found, told = search(self.world, Filters(number=" 142,  "))
        self.assertEqual((found, told.notes), ({"30001"}, ()))

    def test_a_number_that_cannot_be_read_finds_nothing_and_says_so(self) -> None:
        for text, expected, note in (
            ("1(2", set(), "No course has this number: “1(2”."),
            ("42-", set(), "No course has this number: “42-”."),
            ("142 x!", {"30001"}, "Left aside: “X!”."),
        ):
            found, told = search(self.world, Filters(number=text))
            self.assertEqual(found, expected, text)
            self.assertIn(note, told.notes[0])
        everything, told = search(self.world, Filters(number=" ,; "))
        self.assertEqual((len(everything), told.notes), (len(self.world.sections), ()))

    def test_parts_of_the_term_are_called_by_their_names(self) -> None:
        session = BY_NAME["session"]
        self.assertEqual(session.value_name(self.world.catalogue(), "first"), FIRST_HALF.name)
        self.assertEqual(session.value_name(self.world.catalogue(), "no such"), "no such")

    def test_filters_that_exclude_one_another(self) -> None:
        _, found = search(self.world, Filters(subject=("BAKE",), part=("evening",)))
        self.assertEqual([(c.value, c.sections) for c in found.loosen], [("subject", 1), ("part", 1)])

    def test_what_cannot_be_followed_is_said_and_left_aside(self) -> None:
        for wanted, told in (
            (Filters(subject=("NONE",)), "“NONE” is no subject"),
            (Filters(number="1(2 [ .*"), "A course number has figures"),
            (Filters(number="142 " * 5_000), "first 200"),
            (Filters(seats="some"), "seats can be"),
            (Filters(sort="luck"), "sorted by"),
            (Filters(words="a" * 100_000), "first 200 characters"),
            (Filters(time_from=900, time_to=600), "No class lies between 15:00 and 10:00"),
        ):
            _, found = search(self.world, wanted)
            self.assertIn(told, " ".join(found.notes))

    def test_odd_characters_are_only_words(self) -> None:
        for words in (".*", "%", "'; --", "\x00", "🐝", "(((", "\\", "a" * 500, "ﬁ"):
            search(self.world, Filters(words=words))

    def test_orders(self) -> None:
        index = SearchIndex(self.world.catalogue())
        for sort, expected in (
            ("course", ["30003", "30002", "30001"]),
            ("time", ["30002", "30001", "30003"]),
            ("seats", ["30002", "30001", "30003"]),
            ("fit", ["30003", "30001", "30002"]),
        ):
            self.world.section("30004", "HIST 110", "M 10:00-10:50") if sort == "fit" else None
            fit = WeekFit(index, [self.world.sections["30004"]] if sort == "fit" else [])
            found = find(index, Filters(sort=sort), self.world.seats, fit)
            order = [index.sections[p].reference_number for g in found.courses for p in g]
            self.assertEqual(order, expected, sort)
