"""The API keeps to its own description: whatever is sent, the answer is one that is described."""

from __future__ import annotations

import re
import unittest
import warnings
from typing import Any

import httpx
import schemathesis
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st

from gremba.settings import Settings
from gremba.web.access.guard import ACCESS, CSRF_HEADER
from gremba.web.app import build_app
from tests.support.campus import TERM, Campus, Somebody
from tests.support.examples import how_many
from tests.support.servers import Server, new_database

LEFT_OUT = {"close_session", "open_session", "move_clock", "follow_term"}
"""They would end the session, be limited after a few attempts, or never end."""


def _names(path: str) -> list[str]:
    """The names in braces of a path."""
    return re.findall(r"{(\w+)}", path)


class Described(unittest.TestCase):
    campus: Campus
    numbers: list[str]
    student: Somebody
    hold: int
    people: dict[str, Somebody]
    server: Server
    schema: Any

    @classmethod
    def setUpClass(cls) -> None:
        cls.campus = Campus(new_database())
        cls.numbers = [cls.campus.section(seats=50, weekdays="MTWRF"[n]) for n in range(5)]
        cls.student, advisor = cls.campus.person(), cls.campus.person("advisor")
        instructor = cls.campus.person("instructor")
        cls.campus.advised_by(cls.student, advisor)
        cls.campus.taught_by(cls.numbers[0], instructor)
        cls.campus.clearance(cls.student, "agreement", "details", "survey", "release")
        cls.hold = cls.campus.fee_hold(cls.student)
        cls.people = {
            "student": cls.student,
            "advisor": advisor,
            "instructor": instructor,
            "cashier": cls.campus.person("cashier"),
            "registrar": cls.campus.person("registrar"),
        }
        cls.server = Server(cls.campus.url)
        document = build_app(Settings(database_url="postgresql://nowhere/none")).openapi()
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            cls.schema = schemathesis.openapi.from_dict(document)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.server.stop()
        cls.campus.close()

    def test_every_operation_as_a_role_it_is_for(self) -> None:
        for found in self.schema.get_all_operations():
            operation = found.ok()
            name = operation.definition.raw["operationId"]
            if name in LEFT_OUT:
                continue
            roles = [r for r in self.people if r in ACCESS[name]]
            # As the student and as the registrar wherever they may; else as the first who may.
            for role in [r for r in ("student", "registrar") if r in roles] or roles[:1]:
                with self.subTest(name, role=role):
                    self.try_many(operation, self.people[role])

    def test_every_operation_describes_what_is_hoped_for_and_one_problem(self) -> None:
        problem = {"application/problem+json": {"schema": {"$ref": "#/components/schemas/ProblemDocument"}}}
        for path, methods in self.schema.raw_schema["paths"].items():
            for method, operation in methods.items():
                with self.subTest(path, method=method):
                    hoped_for = set(operation["responses"]) - {"default"}
                    self.assertTrue(hoped_for <= {"200", "204"} and len(hoped_for) == 1, hoped_for)
                    self.assertEqual(operation["responses"]["default"]["content"], problem)

    def test_a_method_that_an_address_does_not_take_is_told_with_those_that_it_does(self) -> None:
        paths = self.schema.raw_schema["paths"]
        with self.campus.client(self.people["registrar"], self.server.url) as client:
            for path in paths:
                address = path.format(**dict.fromkeys(_names(path), "1"))
                # A longer way to say the same address may stand for another: answers/{reference}.
                taken = {
                    method.upper()
                    for other, methods in paths.items()
                    if re.fullmatch(re.sub(r"{\w+}", "[^/]+", other), address)
                    for method in methods
                }
                for method in {"GET", "POST", "PUT", "PATCH", "DELETE"} - taken:
                    with self.subTest(path, method=method):
                        answer = client.request(method, address)
                        self.assertEqual(answer.status_code, 405, answer.text)
                        self.assertEqual(answer.json()["type"], "/problems/method")
                        allowed = set(answer.headers["allow"].split(", "))
                        heads = {"HEAD"} if "GET" in taken and not path.endswith("/stream") else set()
                        self.assertEqual(allowed, taken | heads)

    def try_many(self, operation: Any, who: Somebody) -> None:
        # Addresses that lead somewhere, mostly; bodies are left to chance.
        known = st.fixed_dictionaries(
            {
                "term": st.just(TERM),
                "number": st.sampled_from([*self.numbers, "99999"]),
                "student": st.sampled_from([self.student.id, 999_999, -1]),
                "hold_id": st.sampled_from([self.hold, 0, 2**40]),
                "change_id": st.integers(-1, 60),
                "confirmation_id": st.integers(-1, 60),
                "permission_code_id": st.integers(-1, 9),
                "reference": st.just("none"),
                "token": st.text("abc-_", min_size=1),
                "link_id": st.integers(-1, 9),
                "entry_id": st.integers(-1, 9),
                "request_id": st.integers(-1, 9),
                "file_id": st.integers(-1, 9),
                "delegate": st.integers(-1, 9),
                "draft": st.integers(-1, 9),
                "entry": st.integers(-1, 9),
                "anticipated_payment": st.integers(-1, 9),
                "username": st.sampled_from(["nobody", "x" * 61]),
                "key": st.sampled_from(["offer_hours", "instructors_lift", "leave_office", "none"]),
            }
        )

        with self.campus.client(who, self.server.url) as client:

            @settings(
                max_examples=how_many(40, least=5),
                deadline=None,
                phases=[Phase.generate],
                database=None,
                suppress_health_check=list(HealthCheck),
            )
            @given(case=operation.as_strategy(), ids=known)
            def attempt(case: Any, ids: dict[str, Any]) -> None:
                path = operation.path.format(**ids)
                query = {k: v for k, v in (case.query or {}).items() if k != "student"}
                if who.username.startswith("advisor"):
                    query["student"] = self.student.id
                answer = self.send(client, case, path, query)
                self.assertLess(answer.status_code, 500, answer.text)
                described = operation.definition.raw["responses"]
                is_problem = answer.status_code >= 400
                self.assertIn("default" if is_problem else str(answer.status_code), described, answer.text)
                operation.validate_response(schemathesis.Response.from_any(answer))
                if is_problem:
                    self.assertEqual(answer.headers["content-type"], "application/problem+json")

            attempt()

    @staticmethod
    def send(client: httpx.Client, case: Any, path: str, query: dict[str, Any]) -> httpx.Response:
        headers = {
            name: value
            for name, value in (case.headers or {}).items()
            if name.lower() not in ("cookie", "host", CSRF_HEADER.lower(), "content-length")
            and str(value).isascii()
            and str(value).isprintable()
        }
        body = case.body if isinstance(case.body, dict | list) else None
        return client.request(case.operation.method, path, params=query, json=body, headers=headers)
