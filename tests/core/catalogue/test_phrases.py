"""Plain words read as filters: fifty phrases with what is meant, and laws of reading."""

from __future__ import annotations

import unittest
from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from gremba.core.catalogue.search.filters import BY_NAME, MOST_WORDS, Filters
from gremba.core.catalogue.search.find import find, with_phrases
from gremba.core.catalogue.search.fit import WeekFit
from gremba.core.catalogue.search.index import SearchIndex
from gremba.core.catalogue.term import TermCatalogue
from tests.support.examples import examples
from tests.support.world import World


def _term() -> TermCatalogue:
    w = World()
    w.course("APIC 110", tags=("Craft core",))
    w.section("30001", "APIC 110", "TR 18:00-19:15", instructors=("Petra Lunn",))
    w.section("30002", "SOIL 240", "MW 09:00-10:15", instructors=("Dara Redham",))
    w.section("30003", "SOIL 142A", "F 13:00-15:50", instructors=("Ada Lunn",))
    w.section("30004", "WRIT 310", "MW 12:30-13:45", topic="Evening Primrose", instructors=("Sorrel Waters",))
    w.section("30005", "WSHD 260", instructors=())
    return replace(
        w.catalogue(),
        subject_names={
            "APIC": "Beekeeping",
            "SOIL": "Soil",
            "WRIT": "Writing",
            "WSHD": "Watershed studies",
        },
        campus_names={"hill": "Hillfoot", "mill": "Millrace"},
    )


LUNN = "instructor=Ada Lunn instructor=Petra Lunn"

PHRASES: tuple[tuple[str, str, str], ...] = (
    # what is typed, what it is read as, what is left to be looked for as words
    ("evening", "part=evening", ""),
    ("evenings", "part=evening", ""),
    ("in the morning", "part=morning", ""),
    ("afternoon classes", "part=afternoon", ""),
    ("tuesday thursday", "day=T day=R", ""),
    ("Tuesdays and Thursdays", "day=T day=R", ""),
    ("tue, thu", "day=T day=R", ""),
    ("TR", "day=T day=R", ""),
    ("mwf", "day=M day=W day=F", ""),
    ("weekend", "day=S day=U", ""),
    ("friday afternoon", "day=F part=afternoon", ""),
    ("no set times", "day=none", ""),
    ("any time", "day=none", ""),
    ("online", "campus=online", ""),
    ("online in the evening", "campus=online part=evening", ""),
    ("in person", "delivery=in person", ""),
    ("hillfoot", "campus=hill", ""),
    ("at Millrace", "campus=mill", ""),
    ("3 credits", "credits=3", ""),
    ("three credits", "credits=3", ""),
    ("1.5 credits", "credits=1.5", ""),
    ("2 cr", "credits=2", ""),
    ("no textbook cost", "no_textbook_cost=yes", ""),
    ("free textbook", "no_textbook_cost=yes", ""),
    ("open", "seats=open", ""),
    ("open seats", "seats=open", ""),
    ("not full", "seats=open", ""),
    ("open or waitlist", "seats=waitlist", ""),
    ("fits my week", "fits=yes", ""),
    ("lab", "component=lab", ""),
    ("labs on friday", "component=lab day=F", ""),
    ("lecture", "component=lecture", ""),
    ("first half", "session=first", ""),
    ("second half", "session=second", ""),
    ("full term", "session=full", ""),
    ("craft core", "counts=Craft core", ""),
    ("beekeeping", "subject=APIC", ""),
    ("watershed studies", "subject=WSHD", ""),
    ("soil", "subject=SOIL", ""),
    ("soil 240", "subject=SOIL number=240", ""),
    ("SOIL240", "subject=SOIL number=240", ""),
    ("soil 142a", "subject=SOIL number=142A", ""),
    ("petra lunn", "instructor=Petra Lunn", ""),
    ("lunn", LUNN, ""),
    ("with Redham", "instructor=Dara Redham", ""),
    ("200 level", "level=2", ""),
    ("level 1 writing", "level=1 subject=WRIT", ""),
    ("after 17:00", "time_from=1020", ""),
    ("after 5pm", "time_from=1020", ""),
    ("after 5", "time_from=1020", ""),
    ("before noon", "time_to=720", ""),
    ("from 9 to 12", "time_from=540 time_to=720", ""),
    ("between 9:30 and 14:00", "time_from=570 time_to=840", ""),
    ("evening clay open", "part=evening seats=open", "clay"),
    ("old records in the evening", "part=evening", "old records"),
    # what is left alone
    ("30412", "", "30412"),
    ("“evening” primrose", "", "evening primrose"),
    ('"open" air', "", "open air"),
    ("the long essay", "", "the long essay"),
    ("soil 999", "subject=SOIL", "999"),
    ("25 hours", "credits=25", ""),
    ("after 99", "", "after 99"),
    ("from 12 to 9", "time_from=720", "9"),
    ("t", "", "t"),
    ("evening “evening”", "part=evening", "evening"),
    ("", "", ""),
)


class Table(unittest.TestCase):
    def setUp(self) -> None:
        self.index = SearchIndex(_term())

    def test_fifty_phrases_and_what_is_meant(self) -> None:
        self.assertGreaterEqual(len(PHRASES), 50)
        for typed, meant, rest in PHRASES:
            with self.subTest(typed):
                found = self.index.phrases.read(typed)
                read = [f"{name}={value}" for r in found.readings for name, value in r.meanings]
                self.assertEqual((" ".join(read), found.rest), (meant, rest))

    def test_every_meaning_is_a_filter_that_there_is(self) -> None:
        for typed, _, _ in PHRASES:
            for reading in self.index.phrases.read(typed).readings:
                for name, _ in reading.meanings:
                    self.assertIn(name, BY_NAME)

    def test_quoted_pieces_keep_their_marks_in_the_field(self) -> None:
        found = self.index.phrases.read("evening “open air” clay")
        self.assertEqual((found.rest, found.kept), ("open air clay", "“open air” clay"))


class Finding(unittest.TestCase):
    def setUp(self) -> None:
        self.index = SearchIndex(_term())

    def numbers(self, **chosen: object) -> list[str]:
        found = find(self.index, Filters(**chosen), {}, WeekFit(self.index, ()))  # type: ignore[arg-type]
        return [self.index.sections[k].reference_number for own in found.courses for k in own]

    def test_words_find_what_the_filters_would(self) -> None:
        for typed, filters in (
            ("evening", {"part": ("evening",)}),
            ("beekeeping tuesday thursday", {"subject": ("APIC",), "day": ("T", "R")}),
            ("soil 240", {"subject": ("SOIL",), "number": "240"}),
            ("after 12", {"time_from": 720}),
            ("lunn", {"instructor": ("Ada Lunn", "Petra Lunn")}),
        ):
            with self.subTest(typed):
                self.assertEqual(self.numbers(words=typed), self.numbers(**filters))

    def test_what_is_chosen_stays(self) -> None:
        filters, _ = with_phrases(self.index, Filters(words="open tuesday", seats="waitlist", day=("R",)))
        self.assertEqual(filters.values("seats"), ("waitlist",))
        self.assertEqual(filters.values("day"), ("R", "T"))
        self.assertEqual(filters.text("words"), "")

    def test_a_title_is_found_by_its_words_in_quotation_marks(self) -> None:
        self.assertEqual(self.numbers(words="“evening primrose”"), ["30004"])


class Laws(unittest.TestCase):
    index = SearchIndex(_term())

    @given(st.text(max_size=400))
    @examples(200)
    def test_whatever_is_typed_has_an_end_and_nothing_is_made_up(self, typed: str) -> None:
        found = self.index.phrases.read(typed)
        for reading in found.readings:
            self.assertIn(reading.text.split()[0], typed[:MOST_WORDS])
        for word in found.rest.split():
            self.assertIn(word, typed)

    @given(st.lists(st.sampled_from([p for p, _, _ in PHRASES if p]), max_size=4))
    @examples(200)
    def test_what_is_left_has_nothing_more_to_read(self, phrases: list[str]) -> None:
        first = self.index.phrases.read(" ".join(phrases))
        again = self.index.phrases.read(first.kept)
        # What stood apart may stand together now, and mean something: once, and then no more.
        third = self.index.phrases.read(again.kept)
        self.assertEqual((third.readings, third.kept), ((), again.kept))


if __name__ == "__main__":
    unittest.main()
