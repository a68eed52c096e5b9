"""What goes into a cart and what does not, each with a sentence that says what to do."""

from __future__ import annotations

import unittest

from gremba.actions.actor import SubjectStudent
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.actions.registration import edit_cart
from gremba.actions.registration.edit_cart import Report
from gremba.actions.registration.process_submissions import process_submissions
from gremba.actions.registration.submission import Submission
from gremba.core.registration.changes import Kind
from gremba.core.registration.findings import ProposedChange
from tests.support.campus import TERM, Campus
from tests.support.servers import new_database
from tests.support.world import request


class Cart(unittest.TestCase):
    def setUp(self) -> None:
        self.campus = Campus(new_database())
        self.addCleanup(self.campus.close)
        self.own, self.one, self.two = (
            self.campus.section(seats=5, weekdays="M", starts=8 + n) for n in range(3)
        )
        who = self.campus.person()
        self.context = self.campus.context()
        self.subject = SubjectStudent.alone(who.id)
        term = self.context.term(TERM)
        sent = Submission(who.row, term, request([f"+{self.own}"]), "key-of-own", who.id, who.username)
        process_submissions(self.context, [sent])

    def put(self, *proposals: tuple[Kind, str, str]) -> list[Report]:
        wanted = [ProposedChange(*proposed) for proposed in proposals]
        return edit_cart.put_changes(self.context, self.subject, TERM, wanted)

    def paste(self, text: str, kind: Kind = Kind.ADD, in_exchange: str = "") -> list[Report]:
        return edit_cart.put_pasted(self.context, self.subject, TERM, kind, text, in_exchange)

    def test_what_cannot_be_put_says_why(self) -> None:
        for kind, number, in_exchange, why in (
            (Kind.ADD, "99999", "", "has this number. One digit may be off."),
            (Kind.ADD, self.own, "", "You are registered for LAND 101 already."),
            (Kind.DROP, self.one, "", "so it cannot be dropped."),
            (Kind.ADJUST, self.one, "", "so there is nothing to adjust."),
            (
                Kind.SWAP,
                self.one,
                self.two,
                f"You are not registered for {self.two}, so it cannot be given up.",
            ),
            (
                Kind.WAIT,
                self.one,
                self.two,
                f"You are not registered for {self.two}, so it cannot be given up.",
            ),
        ):
            with self.subTest(kind=kind, number=number):
                [report] = self.put((kind, number, in_exchange))
                self.assertFalse(report.taken)
                self.assertIn(why, report.text)
        self.put((Kind.ADD, self.one, ""))
        [again] = self.put((Kind.ADD, self.one, ""))
        self.assertEqual((again.taken, again.text), (False, "LAND 102 is in your cart already."))

    def test_a_wish_that_is_there_becomes_another(self) -> None:
        self.put((Kind.ADD, self.one, ""))
        said = [
            self.put((kind, self.one, in_exchange))[0].text
            for kind, in_exchange in ((Kind.SWAP, self.own), (Kind.WAIT, ""), (Kind.ADD, ""))
        ]
        self.assertEqual(
            said, ["LAND 102 is a swap now.", "LAND 102 is a wait now.", "LAND 102 is an add now."]
        )

    def test_a_swap_takes_one_number_and_says_so(self) -> None:
        reports = self.paste(f"{self.one} {self.two}", Kind.SWAP, self.own)
        self.assertEqual([r.taken for r in reports], [True, False])
        self.assertIn(f"A swap is for one section; {self.one} was taken", reports[1].text)

    def test_pasted_twice_in_no_digits_and_nothing_at_all(self) -> None:
        reports = self.paste(f"{self.one}, {self.one} and 4000O")
        self.assertEqual([r.taken for r in reports], [True, False, False])
        self.assertIn("once is enough", reports[1].text)
        [nothing] = self.paste("  ")
        self.assertIn("There is no reference number in it.", nothing.text)

    def test_a_full_cart_says_what_was_left_out(self) -> None:
        self.campus.run("UPDATE terms SET policy = policy || '{\"most_changes\": 1}'")
        self.context = self.campus.context()
        reports = self.paste(f"{self.one} {self.two}")
        self.assertEqual([r.taken for r in reports], [True, False])
        self.assertEqual(reports[1].text, f"A cart holds 1 change. Left out: {self.two}.")

    def test_next_choices_are_sections_that_one_does_not_have(self) -> None:
        self.put((Kind.ADD, self.one, ""))
        change = self.campus.value("SELECT id FROM cart_changes")
        for choices, kind in (
            ([["99999"]], ProblemKind.CHOICE_UNKNOWN),
            ([[self.own]], ProblemKind.HELD_ALREADY),
            ([[self.two]] * 5, ProblemKind.TOO_MANY_CHOICES),
        ):
            with self.subTest(kind), self.assertRaises(Problem) as met:
                edit_cart.choose(
                    self.context, self.subject, TERM, change, version=1, chosen={"alternatives": choices}
                )
            self.assertIs(met.exception.kind, kind)
