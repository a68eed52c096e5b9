"""Requisites: states, evidence, and the branch nearest to being met."""

from __future__ import annotations

import unittest
from datetime import date
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from gremba.core.catalogue.requisites import (
    BEFORE_OR_TOGETHER,
    TIMINGS,
    TOGETHER,
    AllOf,
    ConsentNeed,
    CountOf,
    CourseNeed,
    CreditsNeed,
    MemberNeed,
    PlacementNeed,
    Requisite,
    RequisiteContext,
    State,
    describe,
    evaluate,
    from_data,
    to_data,
)
from gremba.core.students.grades import GradeScale
from gremba.core.students.transcript import Attempt, PlacementScore, Record


def standing(*attempts: tuple[str, str | None], this_term: str = "", **more: Any) -> RequisiteContext:
    record = Record(
        tuple(Attempt(c, "Thaw 2026", g, 3.0) for c, g in attempts),
        tuple(more.pop("placements", ())),
    )
    return RequisiteContext(
        record,
        frozenset(this_term.split(",")) - {""},
        date(2027, 8, 23),
        {"program": "Orcharding", "cohort": "", "campus": "hillfoot"},
        more.pop("same_as", {}),
        float(more.pop("earned", 0.0)),
        bool(more.pop("consent", False)),
    )


SOIL = CourseNeed("SOIL 110", "C")
MATH = CourseNeed("MATH 120")

leaves = st.one_of(
    st.builds(
        CourseNeed,
        st.sampled_from(["SOIL 110", "MATH 120", "CHEM 115"]),
        st.sampled_from([None, "C", "B-"]),
        st.sampled_from(TIMINGS),
    ),
    st.builds(PlacementNeed, st.just("placement test"), st.integers(1, 99), st.sampled_from([None, 5])),
    st.builds(CreditsNeed, st.integers(0, 120).map(float)),
    st.builds(
        MemberNeed,
        st.sampled_from(["program", "cohort", "campus"]),
        st.lists(st.sampled_from(["Orcharding", "hillfoot"]), min_size=1).map(tuple),
    ),
    st.just(ConsentNeed()),
)
trees = st.recursive(
    leaves,
    lambda inner: st.one_of(
        st.lists(inner, min_size=1, max_size=3).map(lambda p: AllOf(tuple(p))),
        st.lists(inner, min_size=1, max_size=3).flatmap(
            lambda p: st.integers(1, len(p)).map(lambda n: CountOf(n, tuple(p)))
        ),
    ),
    max_leaves=8,
)


class Courses(unittest.TestCase):
    CASES: tuple[Any, ...] = (
        # attempts, this term, need, expected state, a word of the evidence
        ([("SOIL 110", "C")], "", SOIL, State.MET, "a C in SOIL 110"),
        ([("SOIL 110", "B-")], "", SOIL, State.MET, "a B-"),
        ([("SOIL 110", "A")], "", SOIL, State.MET, "an A"),
        ([("SOIL 110", "C-")], "", SOIL, State.UNMET, "a C-"),
        ([("SOIL 110", "D+"), ("SOIL 110", "B")], "", SOIL, State.MET, "a B"),
        ([("SOIL 110", "B"), ("SOIL 110", "F")], "", SOIL, State.MET, "a B"),
        ([("SOIL 110", "W")], "", SOIL, State.UNMET, "withdrew"),
        ([("SOIL 110", "P")], "", SOIL, State.MET, "a P"),
        ([("SOIL 110", "T")], "", SOIL, State.MET, "a T"),
        (
            [("SOIL 110", "P")],
            "",
            CourseNeed("SOIL 110", "B"),
            State.UNMET,
            "a pass in SOIL 110 (Thaw 2026), which counts as a C at most",
        ),
        (
            [("SOIL 110", "T")],
            "",
            CourseNeed("SOIL 110", "B"),
            State.UNMET,
            "transfer credit in SOIL 110 (Thaw 2026), which counts as a C at most",
        ),
        ([("SOIL 110", "NP")], "", SOIL, State.UNMET, "NP"),
        ([("SOIL 110", "AU")], "", CourseNeed("SOIL 110"), State.UNMET, "AU"),
        ([("SOIL 110", None)], "", SOIL, State.PROVISIONAL, "in progress"),
        ([("SOIL 110", "D"), ("SOIL 110", None)], "", SOIL, State.PROVISIONAL, "in progress"),
        ([("SOIL 110", "B"), ("SOIL 110", None)], "", SOIL, State.MET, "a B"),
        ([("SOIL 110", "F")], "", CourseNeed("SOIL 110"), State.UNMET, "an F"),
        ([("SOIL 110", "D-")], "", CourseNeed("SOIL 110"), State.MET, "a D-"),
        ([], "", SOIL, State.UNMET, "has no SOIL 110"),
        ([], "SOIL 110", SOIL, State.UNMET, "has no SOIL 110"),
        ([], "SOIL 110", CourseNeed("SOIL 110", "C", BEFORE_OR_TOGETHER), State.MET, "same term"),
        ([], "SOIL 110", CourseNeed("SOIL 110", None, TOGETHER), State.MET, "same term"),
        ([("SOIL 110", "A")], "", CourseNeed("SOIL 110", None, TOGETHER), State.UNMET, "week"),
    )

    def test_table(self) -> None:
        for attempts, this_term, need, state, word in self.CASES:
            with self.subTest(attempts=attempts, need=need):
                found = evaluate(need, standing(*attempts, this_term=this_term))
                self.assertEqual(found.state, state)
                self.assertIn(word, found.fact)

    def test_renumbered_course_counts_as_the_same(self) -> None:
        same = {"SOIL 110": frozenset({"SOIL 110", "SOIL 100"})}
        self.assertEqual(evaluate(SOIL, standing(("SOIL 100", "B"), same_as=same)).state, State.MET)


class Others(unittest.TestCase):
    def test_placement_age_is_counted_to_the_first_class_day(self) -> None:
        need = PlacementNeed("placement test", 40, 5)
        fresh = PlacementScore("placement test", 55, date(2022, 8, 23))
        old = PlacementScore("placement test", 99, date(2022, 8, 22))
        self.assertEqual(evaluate(need, standing(placements=[fresh])).state, State.MET)
        aged = evaluate(need, standing(placements=[old]))
        self.assertEqual(aged.state, State.UNMET)
        self.assertIn("older than 5 years", aged.fact)
        low = PlacementScore("placement test", 30, date(2027, 1, 5))
        both = evaluate(need, standing(placements=[old, low]))
        self.assertEqual(both.state, State.UNMET)
        self.assertEqual(
            both.fact,
            "your score for placement test is 30, and that of 99 is older than 5 years",
        )

    def test_credits_memberships_consent(self) -> None:
        self.assertEqual(evaluate(CreditsNeed(30), standing(earned=30.0)).state, State.MET)
        self.assertEqual(evaluate(CreditsNeed(31), standing(earned=30.0)).state, State.UNMET)
        program = MemberNeed("program", ("Baking", "Orcharding"))
        self.assertEqual(evaluate(program, standing()).state, State.MET)
        self.assertEqual(evaluate(ConsentNeed(), standing()).state, State.UNMET)
        self.assertEqual(evaluate(ConsentNeed(), standing(consent=True)).state, State.MET)


class Trees(unittest.TestCase):
    def test_nearest_branch_is_the_one_with_least_missing(self) -> None:
        tree = CountOf(1, (AllOf((SOIL, MATH)), CourseNeed("CHEM 115")))
        nearest = evaluate(tree, standing()).nearest()
        self.assertEqual([leaf.node for leaf in nearest], [CourseNeed("CHEM 115")])

    def test_all_of_takes_the_least_state(self) -> None:
        found = evaluate(AllOf((SOIL, MATH)), standing(("SOIL 110", None), ("MATH 120", "B")))
        self.assertEqual(found.state, State.PROVISIONAL)
        self.assertEqual([e.node for e in found.provisional_leaves()], [SOIL])

    def test_count_of_two(self) -> None:
        tree = CountOf(2, (SOIL, MATH, CourseNeed("CHEM 115")))
        self.assertEqual(evaluate(tree, standing(("SOIL 110", "B"))).state, State.UNMET)
        two = standing(("SOIL 110", "B"), ("CHEM 115", "B"))
        self.assertEqual(evaluate(tree, two).state, State.MET)

    def test_wording(self) -> None:
        self.assertEqual(describe(AllOf((SOIL, MATH))), "SOIL 110 with C or better, and MATH 120")
        self.assertEqual(
            describe(AllOf((SOIL, CountOf(1, (MATH, CreditsNeed(30)))))),
            "SOIL 110 with C or better, and (MATH 120, or 30 credits earned)",
        )

    @given(trees)
    def test_data_and_back_is_the_same_tree(self, tree: Requisite) -> None:
        self.assertEqual(from_data(to_data(tree)), tree)

    @given(trees, st.booleans())
    def test_nearest_leaves_are_there_exactly_when_unmet(self, tree: Requisite, rich: bool) -> None:
        who = standing(("SOIL 110", "B"), ("MATH 120", None), consent=True) if rich else standing()
        found = evaluate(tree, who)
        self.assertEqual(bool(found.nearest()), found.state is State.UNMET)

    def test_unreadable_data_is_refused(self) -> None:
        for data in (
            {},
            {"is": "star"},
            {"is": "course"},
            {"is": "course", "course": "X 1", "timing": "after"},
        ):
            with self.subTest(data), self.assertRaises(ValueError):
                from_data(data)


class Scale(unittest.TestCase):
    def test_order_and_values_beside_the_scale(self) -> None:
        scale = GradeScale()
        self.assertTrue(scale.at_least("A+", "C") and scale.at_least("C", "C"))
        for grade in ("C-", "D", "F", "W", "NP", "AU"):
            self.assertFalse(scale.at_least(grade, "C"), grade)
        self.assertFalse(scale.earns_credit(None))
