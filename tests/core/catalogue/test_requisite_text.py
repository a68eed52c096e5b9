"""The written form of requisites, mistakes in it, and circles in a catalogue."""

from __future__ import annotations

import unittest

import networkx
from hypothesis import given
from hypothesis import strategies as st

from gremba.core.catalogue.requisite_cycles import find_cycles
from gremba.core.catalogue.requisite_text import (
    MAX_NESTING,
    RequisiteMistake,
    parse_requisite,
    print_requisite,
)
from gremba.core.catalogue.requisites import (
    TIMINGS,
    AllOf,
    ConsentNeed,
    CountOf,
    CourseNeed,
    CreditsNeed,
    MemberNeed,
    PlacementNeed,
    Requisite,
)
from gremba.demo.courses import read_courses
from gremba.formats.requisite_list import read_list, write_list
from tests.support.examples import examples

names = st.text(st.characters(codec="utf-8", exclude_categories=["Cc", "Cs"]), min_size=1, max_size=12)
courses = st.from_regex(r"[A-Z]{2,6} [0-9]{3}[A-Z]?", fullmatch=True)
leaves = st.one_of(
    st.builds(
        CourseNeed,
        courses,
        st.none() | st.from_regex(r"[A-Z]{1,2}[+-]?", fullmatch=True),
        st.sampled_from(TIMINGS),
    ),
    st.builds(PlacementNeed, names, st.integers(-5, 1000), st.none() | st.integers(0, 20)),
    st.builds(CreditsNeed, st.integers(0, 300).map(lambda n: n / 2)),
    st.builds(
        MemberNeed,
        st.sampled_from(["program", "cohort", "campus"]),
        st.lists(names, min_size=1, max_size=3).map(tuple),
    ),
    st.just(ConsentNeed()),
)


def groups(inner: st.SearchStrategy[Requisite]) -> st.SearchStrategy[Requisite]:
    parts = st.lists(inner, min_size=1, max_size=4).map(tuple)
    counted = parts.flatmap(lambda p: st.builds(CountOf, st.integers(0, len(p)), st.just(p)))
    return st.builds(AllOf, parts) | counted


trees: st.SearchStrategy[Requisite] = st.recursive(leaves, groups, max_leaves=12)


class WrittenForm(unittest.TestCase):
    @examples(500)
    @given(trees)
    def test_what_is_printed_is_read_back(self, tree: Requisite) -> None:
        self.assertEqual(parse_requisite(print_requisite(tree)), tree)

    def test_examples(self) -> None:
        text = 'all(SOIL 240:C, any(CHEM 115, "placement test" 60+ 5y), 45 credits)'
        tree = AllOf(
            (
                CourseNeed("SOIL 240", "C"),
                CountOf(1, (CourseNeed("CHEM 115"), PlacementNeed("placement test", 60, 5))),
                CreditsNeed(45.0),
            )
        )
        self.assertEqual(parse_requisite(text), tree)
        self.assertEqual(print_requisite(tree), text)
        # Line breaks and blanks do not matter.
        self.assertEqual(parse_requisite(text.replace(", ", ",\n   ")), tree)

    def test_mistakes_are_told_with_their_place(self) -> None:
        for text, line, column, expected in (
            ("", 1, 1, "a course such as SOIL 110"),
            ("all(SOIL 110", 1, 13, "“)”"),
            ("all(SOIL 110\n  CHEM 115)", 2, 3, "“,”"),
            ("SOIL 11", 1, 1, "a course such as SOIL 110"),
            ("SOIL 110:", 1, 10, "a grade"),
            ("any(SOIL 110, )", 1, 15, "a course such as SOIL 110"),
            ("3 of (SOIL 110, SOIL 120)", 1, 1, "only 2 are listed"),
            ('"field test" 60', 1, 16, "“+”"),
            ('"field test" 1.5+', 1, 14, "a whole number"),
            ("SOIL 110 and SOIL 120", 1, 10, "~ or &"),
        ):
            with self.subTest(text):
                with self.assertRaises(RequisiteMistake) as caught:
                    parse_requisite(text)
                mistake = caught.exception
                self.assertEqual((mistake.line, mistake.column), (line, column), mistake)
                self.assertIn(expected, mistake.what)

    def test_a_list_reports_every_mistake_and_keeps_the_rest(self) -> None:
        found = read_list(
            "# soil\nSOIL 240: SOIL 110:C\nSOIL 310: all(SOIL 240\n\nnonsense\nSOIL 110:\nSOIL 110: consent\n"
        )
        self.assertEqual(set(found.requisites), {"SOIL 240", "SOIL 110"})
        self.assertEqual([(m.line, m.column) for m in found.mistakes], [(3, 23), (5, 1), (7, 1)])

    def test_the_demos_catalogue_goes_out_and_comes_back(self) -> None:
        catalogue = {c.key: c.requisites for c in read_courses()[1]}
        found = read_list(write_list(catalogue))
        self.assertEqual((found.requisites, found.mistakes, found.cycles), (catalogue, (), ()))


class Circles(unittest.TestCase):
    def test_a_circle_of_three_is_found_once(self) -> None:
        found = read_list("AA 100: BB 100\nBB 100: all(CC 100, DD 100)\nCC 100: AA 100\nDD 100:\n")
        self.assertEqual(found.cycles, (("AA 100", "BB 100", "CC 100"),))

    def test_another_way_in_is_no_circle(self) -> None:
        found = read_list('AA 100: any(BB 100, "field test" 60+)\nBB 100: AA 100\n')
        self.assertEqual(found.cycles, ())

    def test_corequisites_of_each_other_are_no_circle(self) -> None:
        self.assertEqual(read_list("AA 100: BB 100 &\nBB 100: AA 100 &\n").cycles, ())

    @examples(300)
    @given(st.dictionaries(st.integers(0, 8), st.sets(st.integers(0, 8), max_size=3), max_size=9))
    def test_agrees_with_networkx_where_everything_is_needed(self, edges: dict[int, set[int]]) -> None:
        # With "all of" everywhere a catalogue has a circle just when its graph has one.
        key = "LAND {}00".format
        catalogue = {
            key(n): AllOf(tuple(CourseNeed(key(m)) for m in sorted(needs))) if needs else None
            for n, needs in edges.items()
        }
        graph = networkx.DiGraph((n, m) for n, needs in edges.items() for m in needs if m in edges)
        cycles = find_cycles(catalogue)
        self.assertEqual(bool(cycles), not networkx.is_directed_acyclic_graph(graph))
        for circle in cycles:
            pairs = zip(circle, (*circle[1:], circle[0]), strict=True)
            for one, other in pairs:
                self.assertTrue(graph.has_edge(int(one[5]), int(other[5])))


class Nesting(unittest.TestCase):
    def test_so_deep_and_no_deeper(self) -> None:
        deep = "all(" * MAX_NESTING + "SOIL 110" + ")" * MAX_NESTING
        self.assertEqual(print_requisite(parse_requisite(deep)), deep)
        for text in (f"any({deep})", "all(" * 30_000 + "SOIL 110" + ")" * 30_000):
            with self.assertRaises(RequisiteMistake) as raised:
                parse_requisite(text)
            self.assertIn("nested more than 50 deep", str(raised.exception))
        # Brackets in a name are none.
        named = 'program "(((((' + "(" * 60 + '"'
        self.assertEqual(print_requisite(parse_requisite(named)), named)
