"""Requests to people on a real database: asked, answered, raced, used, taken back, gone through, ended."""

from __future__ import annotations

import secrets
import threading
import unittest
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta
from functools import partial
from typing import Any
from unittest import mock

from gremba.actions.actor import SubjectStudent
from gremba.actions.permission import delegates as delegates
from gremba.actions.permission import follow, put_through, to_answer
from gremba.actions.permission.answer import GivenAnswer, answer, take_back
from gremba.actions.permission.ask import (
    MAX_FILES_A_DAY,
    MAX_REQUESTS_A_DAY,
    answer_back,
    attach,
    look_at_asking,
    withdraw,
)
from gremba.actions.permission.codes import give_permission_codes
from gremba.actions.permission.let_in import let_in
from gremba.actions.permission.to_answer import attached_file, requests_to_answer
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.messages import Message, MessageKind
from gremba.core.states import Waiver
from tests.core.permission.test_attachments import PDF, PNG
from tests.support.campus import TERM, Somebody
from tests.support.requests import AskingCampus, actor
from tests.support.servers import new_database


class OnACampus(unittest.TestCase):
    campus: AskingCampus

    def setUp(self) -> None:
        self.campus = AskingCampus(new_database())
        self.addCleanup(self.campus.close)
        self.petra = actor(self.campus.petra, "instructor")
        self.maud = actor(self.campus.maud, "registrar")
        self.idris = actor(self.campus.idris, "advisor")

    def say(self, request_id: int, said: str, by: Any = None, **more: Any) -> Any:
        words = more.pop("words", "" if said == "yes" else "Why is that so?")
        return answer(self.campus.context(), by or self.petra, request_id, GivenAnswer(said), words, **more)

    def refused(self, kind: ProblemKind, call: Any, *arguments: Any, **more: Any) -> Problem:
        with self.assertRaises(Problem) as caught:
            call(*arguments, **more)
        self.assertIs(caught.exception.kind, kind, caught.exception.detail)
        return caught.exception


class Asking(OnACampus):
    def test_from_a_finding_to_a_seat_with_a_question_back(self) -> None:
        campus, who = self.campus, self.campus.student()
        self.assertEqual(campus.put_through(who), "refused")
        look = look_at_asking(campus.context(), who.id, TERM, campus.closed)
        self.assertEqual(look.who, ("Instructor1",))
        asked = campus.ask(who)
        self.assertEqual(campus.mailed(campus.petra), ["request came"])
        self.say(asked, "not yet")
        self.assertEqual((campus.state(asked), campus.told_to(who)), ("asked back", ["request question"]))
        answer_back(campus.context(), SubjectStudent.alone(who.id), asked, "Because of the kiln.")
        self.assertEqual(campus.mailed(campus.petra), ["request came", "request answered"])
        self.say(asked, "yes")
        self.assertEqual(campus.state(asked), "granted")
        self.assertEqual(campus.put_through(who), "accepted")
        self.assertEqual(campus.events(asked), ["asked", "asked back", "answered", "granted"])
        self.assertEqual(campus.disagreements(), [])

    def test_one_open_request_a_section_and_none_for_what_needs_nobody(self) -> None:
        campus, who = self.campus, self.campus.student()
        asked = campus.ask(who)
        self.refused(ProblemKind.REQUEST_OPEN, campus.ask, who)
        withdraw(campus.context(), SubjectStudent.alone(who.id), asked)
        self.refused(
            ProblemKind.REQUEST_MOVED, withdraw, campus.context(), SubjectStudent.alone(who.id), asked
        )
        self.assertNotEqual(campus.ask(who), asked)
        self.refused(ProblemKind.NOT_ASKED, campus.ask, who, campus.section(5))

    def test_many_at_once_ask_once(self) -> None:
        campus, who = self.campus, self.campus.student()

        def one(_: int) -> bool:
            try:
                campus.ask(who)
            except Problem as problem:
                self.assertIs(problem.kind, ProblemKind.REQUEST_OPEN)
                return False
            return True

        with ThreadPoolExecutor(6) as pool:
            self.assertEqual(sum(pool.map(one, range(6))), 1)
        self.assertEqual(campus.mailed(campus.petra), ["request came"])

    def test_words_and_how_many(self) -> None:
        campus, who = self.campus, self.campus.student()
        self.refused(ProblemKind.WORDS_MISSING, campus.ask, who, words="  \n ")
        self.refused(ProblemKind.TEXT_TOO_LONG, campus.ask, who, words="x" * 10_000)
        for _ in range(10):
            campus.ask(who, campus.section(1, consent_needed=True))
        self.refused(ProblemKind.TOO_MANY_ASKED, campus.ask, who)

    def test_so_many_a_day_those_taken_back_too(self) -> None:
        campus, who = self.campus, self.campus.student()
        me = SubjectStudent.alone(who.id)
        for n in range(MAX_REQUESTS_A_DAY):
            asked = campus.ask(who)
            if n < MAX_FILES_A_DAY:
                attach(campus.context(), me, asked, f"{n}.pdf", PDF + b"%d" % n)
            if n < MAX_REQUESTS_A_DAY - 1:
                withdraw(campus.context(), me, asked)
        self.refused(ProblemKind.ASKED_ENOUGH, attach, campus.context(), me, asked, "x.pdf", PDF + b"x")
        withdraw(campus.context(), me, asked)
        problem = self.refused(ProblemKind.ASKED_ENOUGH, campus.ask, who)
        self.assertEqual(problem.title, f"You have sent {MAX_REQUESTS_A_DAY} requests within a day")
        # Another student may, and the same one a day later.
        campus.ask(campus.student())
        campus.run("UPDATE permission_requests SET asked_at = asked_at - interval '1 day'")
        campus.ask(who)

    def test_what_many_ask_about_one_section_is_put_together(self) -> None:
        campus = self.campus
        other = campus.section(1, consent_needed=True)
        campus.run(
            "INSERT INTO section_instructors SELECT s.id, %s FROM sections s WHERE s.reference_number = %s",
            campus.petra.id,
            other,
        )
        for _ in range(5):
            campus.ask(campus.student())
        campus.ask(campus.student(), other)
        self.assertEqual(campus.mailed(campus.petra), ["request came"] * 3)
        told = campus.value(
            "SELECT json_agg(json_build_object('others', facts -> 'others', 'later', mail_after IS NOT NULL) "
            "ORDER BY id) FROM messages WHERE person_id = %s",
            campus.petra.id,
        )
        # At once the first of each section; in one, an hour later, the four that came after it.
        self.assertEqual(
            [(one["others"], one["later"]) for one in told], [(None, False), (3, True), (None, False)]
        )
        facts = campus.value("SELECT facts FROM messages WHERE facts ? 'others'")
        self.assertIn("Others who have asked since: 3.", Message(MessageKind.REQUEST_CAME, facts).body)
        # One that may be on its way is not added to, and the next comes an hour after it.
        claimed_until = campus.value("SELECT now() + interval '10 minutes'")
        campus.run("UPDATE messages SET mail_after = %s WHERE facts ? 'others'", claimed_until)
        for _ in range(2):
            campus.ask(campus.student())
        self.assertEqual(campus.mailed(campus.petra), ["request came"] * 4)
        (due, others) = campus.value(
            "SELECT json_build_array(extract(epoch FROM mail_after - %s), facts -> 'others') FROM messages "
            "WHERE person_id = %s ORDER BY id DESC LIMIT 1",
            claimed_until,
            campus.petra.id,
        )
        self.assertEqual((due, others), (3600, 1))
        # The first is claimed while it is handed over, and has then nothing added to it either.
        other_first = (
            "SELECT facts -> 'others' FROM messages WHERE facts ->> 'number' = %s ORDER BY id LIMIT 1"
        )
        campus.run("UPDATE messages SET mail_after = %s WHERE facts ->> 'number' = %s", claimed_until, other)
        campus.ask(campus.student(), other)
        self.assertIsNone(campus.value(other_first, other))
        # Hours later it goes out at once again.
        campus.run("UPDATE messages SET made_at = made_at - interval '9 hours', mail_after = NULL")
        campus.ask(campus.student())
        latest = "SELECT mail_after IS NULL FROM messages WHERE person_id = %s ORDER BY id DESC LIMIT 1"
        self.assertTrue(campus.value(latest, campus.petra.id))

    def test_somebody_elses_request_is_none(self) -> None:
        campus, who, other = self.campus, self.campus.student(), self.campus.student()
        asked = campus.ask(who)
        for call in (
            withdraw,
            lambda c, s, r: answer_back(c, s, r, "Mine."),
            lambda c, s, r: attach(c, s, r, "a.pdf", PDF),
        ):
            self.refused(
                ProblemKind.REQUEST_UNKNOWN, call, campus.context(), SubjectStudent.alone(other.id), asked
            )
        for by in (self.idris, self.maud, actor(campus.person("instructor"), "instructor")):
            self.refused(ProblemKind.REQUEST_UNKNOWN, self.say, asked, "yes", by)

    def test_before_the_window_and_without_anybody_named(self) -> None:
        campus = self.campus
        who = campus.person(opens_in=timedelta(days=5))
        nobodys = campus.section(1, consent_needed=True)
        asked = campus.ask(who, nobodys)
        # Nobody teaches it yet and no department is there: the registrar decides.
        self.assertEqual(campus.mailed(campus.maud), ["request came"])
        self.say(asked, "yes", self.maud)
        self.assertEqual(campus.state(asked), "granted")
        self.assertEqual(campus.put_through(who, nobodys), "refused")


class Attaching(OnACampus):
    def test_kept_with_the_request_for_those_concerned_alone(self) -> None:
        campus, who = self.campus, self.campus.student()
        asked = campus.ask(who)
        me = SubjectStudent.alone(who.id)
        attach(campus.context(), me, asked, "../letter.pdf", PDF)
        attach(campus.context(), me, asked, "again.pdf", PDF)
        attach(campus.context(), me, asked, "map.png", PNG)
        found = requests_to_answer(campus.context(), self.petra, TERM).requests[0].told.files
        self.assertEqual([f.name for f in found], ["letter.pdf", "map.png"])
        for by in (self.petra, actor(who, "student")):
            name, kind, content = attached_file(campus.context(), by, asked, found[0].id)
            self.assertEqual((name, kind.value, content), ("letter.pdf", "application/pdf", PDF))
        other = campus.student()
        for by in (actor(other, "student"), self.idris, actor(campus.person("cashier"), "cashier")):
            self.refused(ProblemKind.REQUEST_UNKNOWN, attached_file, campus.context(), by, asked, found[0].id)

    def test_what_lies_about_itself_and_what_is_too_much(self) -> None:
        campus, who = self.campus, self.campus.student()
        asked, me = campus.ask(who), SubjectStudent.alone(who.id)
        self.refused(
            ProblemKind.FILE_WRONG, attach, campus.context(), me, asked, "a.pdf", b"<script>alert(1)</script>"
        )
        for n in range(3):
            attach(campus.context(), me, asked, f"{n}.pdf", PDF + b"%d" % n)
        self.refused(ProblemKind.FILE_WRONG, attach, campus.context(), me, asked, "4.pdf", PDF + b"4")
        self.say(asked, "no")
        self.refused(ProblemKind.REQUEST_MOVED, attach, campus.context(), me, asked, "5.pdf", PDF)


class Listing(OnACampus):
    def test_what_is_open_comes_first_and_all_and_the_rest_by_page(self) -> None:
        campus = self.campus
        for _ in range(5):
            self.say(campus.ask(campus.student()), "no")
        still_open = [campus.ask(campus.student()) for _ in range(3)]
        with mock.patch.object(to_answer, "MAX_ANSWERED_A_PAGE", 2):
            pages = [requests_to_answer(campus.context(), self.petra, TERM)]
            while pages[-1].more is not None:
                pages.append(requests_to_answer(campus.context(), self.petra, TERM, pages[-1].more))
        ids = [[r.told.row.id for r in page.requests] for page in pages]
        self.assertEqual([len(page) for page in ids], [5, 2, 1])
        self.assertEqual(ids[0][:3], still_open)
        self.assertEqual(len({n for page in ids for n in page}), 8)
        self.assertEqual(
            sorted((n for page in ids for n in page if n not in still_open), reverse=True),
            [n for page in ids for n in page if n not in still_open],
        )
        counted = to_answer.count_to_answer(campus.context(), self.petra, campus.context().term(TERM))
        self.assertEqual(counted, 3)


class Answering(OnACampus):
    def test_two_at_the_same_second_one_wins_and_the_other_is_told(self) -> None:
        campus = self.campus
        second = campus.person("instructor")
        campus.taught_by(campus.closed, second)
        for _ in range(5):
            asked = campus.ask(campus.student())
            both = threading.Barrier(2)

            def one(
                by: Somebody, said: str, asked: int = asked, both: threading.Barrier = both
            ) -> Problem | None:
                both.wait()
                try:
                    self.say(asked, said, actor(by, "instructor"))
                except Problem as problem:
                    return problem
                return None

            with ThreadPoolExecutor(2) as pool:
                done = list(pool.map(one, (campus.petra, second), ("yes", "no")))
            (lost,) = [p for p in done if p is not None]
            self.assertIs(lost.kind, ProblemKind.REQUEST_MOVED)
            self.assertRegex(lost.detail, "^(Granted|Refused), Instructor")
            self.assertIn(campus.state(asked), ("granted", "refused"))
            self.assertEqual(len(campus.events(asked)), 2)

    def test_an_answer_to_what_has_moved_on_does_nothing(self) -> None:
        campus, who = self.campus, self.campus.student()
        asked = campus.ask(who)
        self.say(asked, "not yet", seen=1)
        answer_back(campus.context(), SubjectStudent.alone(who.id), asked, "So it is.")
        self.refused(ProblemKind.REQUEST_MOVED, self.say, asked, "yes", seen=1)
        self.say(asked, "yes", seen=3)

    def test_a_yes_lifts_just_that_for_just_that_student_once(self) -> None:
        campus, who, other = self.campus, self.campus.student(), self.campus.student()
        self.say(campus.ask(who), "yes")
        self.assertEqual(campus.put_through(other), "refused")
        self.assertEqual(campus.put_through(who), "accepted")
        campus.run(
            "UPDATE registrations SET state = 'dropped', ended_at = now() WHERE student_term_id = %s", who.row
        )
        self.assertEqual(campus.put_through(who), "refused")

    def test_until_its_date(self) -> None:
        campus, who = self.campus, self.campus.student()
        asked = campus.ask(who)
        now = campus.clock.now()
        for until in (now - timedelta(1), now + timedelta(days=15)):
            self.refused(ProblemKind.PERMISSION_CODE_EXPIRED, self.say, asked, "yes", until=until)
        self.say(asked, "yes", until=now + timedelta(days=2))
        campus.clock.by = timedelta(days=2, minutes=1)
        self.assertEqual(campus.put_through(who), "refused")

    def test_taken_back_until_used(self) -> None:
        campus, who = self.campus, self.campus.student()
        asked = campus.ask(who)
        self.say(asked, "yes")
        take_back(campus.context(), self.petra, asked, "The kiln is broken.")
        self.assertEqual((campus.state(asked), campus.put_through(who)), ("taken back", "refused"))
        self.assertEqual(campus.told_to(who)[-1], "grant taken back")
        again = campus.ask(who)
        self.say(again, "yes")
        self.assertEqual(campus.put_through(who), "accepted")
        self.refused(ProblemKind.GRANT_USED, take_back, campus.context(), self.petra, again, "Too late.")

    def test_used_and_taken_back_at_the_same_second(self) -> None:
        campus = self.campus
        campus.in_room(campus.closed, "Hill 12", 100)
        for _ in range(6):
            who = campus.student()
            asked = campus.ask(who)
            self.say(asked, "yes")
            both = threading.Barrier(2)

            def use(who: Somebody = who, both: threading.Barrier = both) -> bool:
                both.wait()
                return campus.put_through(who) == "accepted"

            def take(asked: int = asked, both: threading.Barrier = both) -> bool:
                both.wait()
                try:
                    take_back(campus.context(), self.petra, asked, "No.")
                except Problem:
                    return False
                return True

            with ThreadPoolExecutor(2) as pool:
                used, taken = pool.submit(use), pool.submit(take)
                self.assertNotEqual(used.result(), taken.result())

    def test_two_in_order(self) -> None:
        campus, who = self.campus, self.campus.student()
        head = campus.person("instructor")
        campus.run("INSERT INTO department_heads VALUES ('LAND', %s)", head.id)
        campus.run(
            "UPDATE terms SET policy = policy || "
            """'{"permission": {"deciders": {"consent": ["instructor", "department"]}}}'"""
        )
        asked = campus.ask(who)
        self.refused(ProblemKind.REQUEST_UNKNOWN, self.say, asked, "yes", actor(head, "instructor"))
        self.say(asked, "yes")
        self.assertEqual((campus.state(asked), campus.told_to(who)), ("open", ["request passed on"]))
        self.assertEqual(campus.mailed(head), ["request came"])
        # A colleague, and a delegate, a second later are told who passed it on.
        colleague, delegate = campus.person("instructor"), campus.person("instructor")
        campus.taught_by(campus.closed, colleague)
        term = campus.context().term(TERM)
        today = term.calendar.local_date(campus.clock.now())
        delegates.name_delegate(
            campus.context(), term, campus.petra.id, delegate.username, today, today + timedelta(1)
        )
        for late in (campus.petra, colleague, delegate):
            with self.assertRaises(Problem) as told:
                self.say(asked, "yes", actor(late, "instructor"))
            self.assertIs(told.exception.kind, ProblemKind.REQUEST_MOVED)
            self.assertRegex(told.exception.detail, "^Passed on, Instructor")
        self.assertEqual(campus.put_through(who), "refused")
        self.say(asked, "yes", actor(head, "instructor"))
        self.assertEqual((campus.state(asked), campus.put_through(who)), ("granted", "accepted"))

    def test_who_is_both_is_asked_once(self) -> None:
        campus, who = self.campus, self.campus.student()
        campus.run("INSERT INTO department_heads VALUES ('LAND', %s)", campus.petra.id)
        campus.run(
            "UPDATE terms SET policy = policy || "
            """'{"permission": {"deciders": {"consent": ["instructor", "department"]}}}'"""
        )
        asked = campus.ask(who)
        self.say(asked, "yes")
        self.assertEqual(campus.state(asked), "granted")

    def test_while_somebody_is_away_their_delegate_decides(self) -> None:
        campus, who = self.campus, self.campus.student()
        other = campus.person("instructor")
        term = campus.context().term(TERM)
        today = term.calendar.local_date(campus.clock.now())
        name = delegates.name_delegate
        asked = campus.ask(who)
        self.refused(ProblemKind.REQUEST_UNKNOWN, self.say, asked, "yes", actor(other, "instructor"))
        for username, first, last in (
            (campus.petra.username, today, today),
            (who.username, today, today),
            (other.username, today + timedelta(1), today),
            (other.username, today - timedelta(5), today - timedelta(1)),
            (other.username, today, today + timedelta(400)),
        ):
            self.refused(
                ProblemKind.DELEGATE_RANGE,
                name,
                campus.context(),
                term,
                campus.petra.id,
                username,
                first,
                last,
            )
        name(campus.context(), term, campus.petra.id, other.username, today, today + timedelta(3))
        self.assertEqual(
            [
                r.told.who
                for r in requests_to_answer(campus.context(), actor(other, "instructor"), TERM).requests
            ],
            ["Instructor1 or Instructor5 for Instructor1"],
        )
        self.say(asked, "yes", actor(other, "instructor"))
        self.assertEqual(campus.state(asked), "granted")
        (mine,) = delegates.delegates_of(campus.context(), term, campus.petra.id)
        self.refused(ProblemKind.DELEGATE_UNKNOWN, delegates.call_off, campus.context(), other.id, mine.id)
        delegates.call_off(campus.context(), campus.petra.id, mine.id)
        again = campus.ask(campus.student())
        self.refused(ProblemKind.REQUEST_UNKNOWN, self.say, again, "yes", actor(other, "instructor"))


class Rooms(OnACampus):
    """A limit of one, and a room for three."""

    def setUp(self) -> None:
        super().setUp()
        campus = self.campus
        self.full = campus.section(1, "TR")
        campus.taught_by(self.full, campus.petra)
        campus.in_room(self.full, "Hill 14", 3)
        self.assertEqual(campus.put_through(campus.student(), self.full), "accepted")

    def test_beyond_the_limit_but_beyond_the_room_only_with_the_registrar(self) -> None:
        campus = self.campus
        students = [campus.student() for _ in range(3)]
        asked = [campus.ask(s, self.full) for s in students]
        for one in asked:
            self.say(one, "yes")
        self.assertEqual([campus.state(a) for a in asked], ["granted", "granted", "open"])
        self.assertEqual(campus.mailed(campus.maud), ["request came"])
        self.say(asked[2], "yes", self.maud)
        results = [campus.put_through(s, self.full) for s in students]
        self.assertEqual(results, ["accepted"] * 3)
        self.assertEqual(campus.disagreements(), [])

    def test_many_yeses_at_once_do_not_fill_the_room_twice(self) -> None:
        campus = self.campus
        asked = [campus.ask(campus.student(), self.full) for _ in range(6)]
        with ThreadPoolExecutor(6) as pool:
            list(pool.map(lambda one: self.say(one, "yes"), asked))
        granted = [campus.state(one) for one in asked].count("granted")
        self.assertEqual(granted, 2)

    def test_letting_in_and_codes_keep_to_the_room_as_well(self) -> None:
        campus = self.campus
        term = campus.context().term(TERM)
        who = campus.student()
        self.refused(
            ProblemKind.ROOM_FULL,
            give_permission_codes,
            campus.context(),
            campus.petra.id,
            term,
            self.full,
            [Waiver.SEATS],
            3,
            "",
            None,
        )
        give_permission_codes(campus.context(), campus.petra.id, term, self.full, [Waiver.SEATS], 1, "", None)
        let_in(
            campus.context(),
            self.petra,
            term,
            self.full,
            who.username,
            [Waiver.SEATS],
            "Come.",
            key="let-in-once",
        )
        self.refused(
            ProblemKind.ROOM_FULL,
            partial(let_in, key="let-in-another"),
            campus.context(),
            self.petra,
            term,
            self.full,
            campus.student().username,
            [Waiver.SEATS],
        )
        self.assertEqual(campus.told_to(who), ["let in"])
        self.assertEqual(campus.put_through(who, self.full), "accepted")

    def test_whom_one_may_let_in(self) -> None:
        campus = self.campus
        term = campus.context().term(TERM)
        other = campus.section(1)

        def letting(number: str, username: str, *waives: Waiver) -> None:
            let_in(campus.context(), self.petra, term, number, username, waives, key=secrets.token_hex(8))

        self.refused(ProblemKind.SECTION_NOT_YOURS, letting, other, campus.student().username, Waiver.SEATS)
        self.refused(ProblemKind.STUDENT_NAME_UNKNOWN, letting, self.full, "nobody", Waiver.SEATS)
        self.refused(ProblemKind.STUDENT_NAME_UNKNOWN, letting, self.full, campus.maud.username, Waiver.SEATS)
        self.refused(
            ProblemKind.PERMISSION_NOT_YOURS, letting, self.full, campus.student().username, Waiver.HOLD
        )
        self.refused(
            ProblemKind.PERMISSION_NOT_YOURS, letting, self.full, campus.student().username, Waiver.CREDITS
        )


class ByThemselves(OnACampus):
    def follow(self) -> int:
        context = self.campus.context()
        return follow.RequestFollower(context).work([context.term(TERM)])

    def test_through_to_a_seat_without_the_student_awake(self) -> None:
        campus, who = self.campus, self.campus.student()
        asked = campus.ask(who, goes_through=True)
        self.say(asked, "yes")
        self.assertTrue(campus.has(who))
        self.assertEqual(campus.events(asked), ["asked", "granted", "put through"])
        self.assertEqual(campus.told_to(who), ["request granted", "request through"])
        self.assertEqual(self.follow(), 0)

    def test_what_cannot_go_through_yet_is_told_once_and_tried_again(self) -> None:
        campus, who = self.campus, self.campus.student()
        campus.clearance(who, "agreement")
        asked = campus.ask(who, goes_through=True)
        self.say(asked, "yes")
        self.assertEqual(campus.told_to(who), ["request granted", "request stuck"])
        self.assertEqual((self.follow(), campus.has(who)), (0, False))
        campus.run("UPDATE clearance_items SET done_at = now() WHERE student_term_id = %s", who.row)
        campus.clock.by = timedelta(minutes=11)
        self.assertEqual((self.follow(), campus.has(who)), (1, True))
        # No confirmation tells of a refusal that nobody has asked for.
        self.assertEqual(
            campus.value("SELECT count(*) FROM confirmations WHERE student_term_id = %s", who.row), 1
        )

    def test_before_the_window_it_goes_through_when_it_opens(self) -> None:
        campus = self.campus
        who = campus.person(opens_in=timedelta(hours=2))
        asked = campus.ask(who, goes_through=True)
        self.say(asked, "yes")
        campus.clock.by = timedelta(hours=1)
        self.assertEqual((self.follow(), campus.has(who)), (0, False))
        campus.clock.by = timedelta(hours=2, minutes=1)
        self.assertEqual((self.follow(), campus.has(who)), (1, True))
        self.assertEqual(campus.told_to(who).count("request stuck"), 1)

    def test_any_number_of_processes_put_it_through_once(self) -> None:
        campus = self.campus
        who = campus.person(opens_in=timedelta(hours=2))
        self.say(campus.ask(who, goes_through=True), "yes")
        campus.clock.by = timedelta(hours=3)
        with ThreadPoolExecutor(5) as pool:
            moved = list(pool.map(lambda _: self.follow(), range(5)))
        self.assertEqual((sum(moved), campus.has(who)), (1, True))
        self.assertEqual(
            campus.value("SELECT count(*) FROM confirmations WHERE student_term_id = %s", who.row), 1
        )

    def test_killed_between_putting_it_through_and_telling_of_it(self) -> None:
        campus = self.campus
        who = campus.person(opens_in=timedelta(hours=2))
        asked = campus.ask(who, goes_through=True)
        self.say(asked, "yes")
        campus.clock.by = timedelta(hours=3)
        with mock.patch.object(put_through, "tell_done", side_effect=KeyboardInterrupt):
            self.assertRaises(KeyboardInterrupt, self.follow)
        self.assertTrue(campus.has(who))
        self.assertNotIn("put through", campus.events(asked))
        with ThreadPoolExecutor(5) as pool:
            moved = list(pool.map(lambda _: self.follow(), range(5)))
        self.assertEqual((sum(moved), self.follow()), (1, 0))
        self.assertEqual(campus.events(asked).count("put through"), 1)
        self.assertEqual(campus.told_to(who).count("request through"), 1)
        # What a student puts through by hand is told by its confirmation.
        other = campus.student()
        self.say(campus.ask(other, goes_through=False), "yes")
        self.assertEqual((campus.put_through(other), self.follow()), ("accepted", 0))

    def test_after_two_working_days_whoever_has_it_is_reminded(self) -> None:
        campus = self.campus
        asked = campus.ask(campus.student())
        self.assertEqual(self.follow(), 0)
        campus.clock.by = timedelta(days=4)
        self.assertEqual((self.follow(), self.follow()), (1, 0))
        self.assertEqual(campus.mailed(campus.petra), ["request came", "request waits"])
        campus.clock.by = timedelta(days=8)
        self.assertEqual(self.follow(), 1)
        self.assertEqual(campus.events(asked), ["asked", "reminded", "reminded"])
        # While the student has to answer nobody else is reminded.
        self.say(asked, "not yet")
        campus.clock.by = timedelta(days=16)
        self.assertEqual(self.follow(), 0)

    def test_it_ends_when_the_student_has_the_course_or_the_last_day_is_over(self) -> None:
        campus, who = self.campus, self.campus.student()
        asked, late = campus.ask(who), campus.ask(campus.student())
        term = campus.context().term(TERM)
        give_permission_codes(
            campus.context(), campus.petra.id, term, campus.closed, [Waiver.CONSENT], 1, who.username, None
        )
        code = campus.value("SELECT code FROM permission_codes")
        campus.run("UPDATE permission_codes SET is_grant = true WHERE code = %s", code)
        self.assertEqual(campus.put_through(who), "accepted")
        self.assertEqual(self.follow(), 1)
        self.assertEqual((campus.state(asked), campus.told_to(who)), ("closed", ["request closed"]))
        campus.clock.by = timedelta(days=66)
        self.follow()
        self.assertEqual(campus.state(late), "closed")
        self.refused(ProblemKind.REQUEST_MOVED, self.say, late, "yes")

    def test_one_that_fails_delays_no_other(self) -> None:
        campus = self.campus
        broken, fine = campus.student(), campus.student()
        first = campus.ask(broken, goes_through=True)
        second = campus.ask(fine, goes_through=True)
        for one in (broken, fine):
            campus.clearance(one, "agreement")
        self.say(first, "yes")
        self.say(second, "yes")
        campus.run("UPDATE permission_requests SET changes = '[{}]' WHERE id = %s", first)
        campus.run("UPDATE clearance_items SET done_at = now()")
        campus.clock.by = timedelta(minutes=11)
        with mock.patch.object(follow, "log") as log:
            self.assertEqual(self.follow(), 1)
        log.exception.assert_called_once()
        self.assertTrue(campus.has(fine))

    def test_history_is_only_added_to(self) -> None:
        campus = self.campus
        who = campus.student()
        attach(campus.context(), SubjectStudent.alone(who.id), campus.ask(who), "a.pdf", PDF)
        for statement in (
            "DELETE FROM permission_requests",
            "UPDATE permission_events SET words = ''",
            "DELETE FROM permission_events",
            "UPDATE permission_files SET name = 'b.pdf'",
            "DELETE FROM permission_files",
        ):
            with self.assertRaisesRegex(Exception, "history is kept"):
                campus.run(statement)


if __name__ == "__main__":
    unittest.main()
