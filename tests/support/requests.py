"""A campus with a class that one has to ask for, and everybody who decides."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from gremba.actions.actor import Actor, SubjectStudent
from gremba.actions.context import ActionContext
from gremba.actions.permission.ask import ask
from gremba.actions.registration.process_submissions import Confirmation, process_submissions
from gremba.actions.registration.submission import Submission
from gremba.core.registration.changes import Change, Kind, Request
from gremba.store.catalogue.cache import CatalogueCache
from tests.support.campus import TERM, Campus, Somebody


class MovedClock:
    """The real time, moved on by so much."""

    def __init__(self) -> None:
        self.by = timedelta()

    def now(self) -> datetime:
        return datetime.now(UTC) + self.by


class AskingCampus(Campus):
    """One section that its instructor has to consent to, in a room for three with a limit of one."""

    def __init__(self, url: str) -> None:
        super().__init__(url)
        self.petra, self.idris, self.maud = map(self.person, ("instructor", "advisor", "registrar"))
        self.run("INSERT INTO campuses (code, name) VALUES ('hill', 'Hill')")
        self.closed = self.section(1, "MW", consent_needed=True)
        self.taught_by(self.closed, self.petra)
        self.in_room(self.closed, "Hill 12", 3)
        self.clock = MovedClock()

    def in_room(self, number: str, room: str, capacity: int) -> None:
        """Let a section meet in a room that holds so many."""
        self.run(
            "INSERT INTO rooms VALUES ('hill', %s, %s) ON CONFLICT (campus, name) "
            "DO UPDATE SET capacity = excluded.capacity",
            room,
            capacity,
        )
        self.run(
            "UPDATE meetings SET campus = 'hill', room = %s WHERE section_id = %s", room, int(number) - 40_000
        )

    def context(self) -> ActionContext:
        """With a clock that can be moved on."""
        return ActionContext(self.database, CatalogueCache(self.database), self.clock)

    def student(self) -> Somebody:
        """A student of Idris's."""
        who = self.person()
        self.advised_by(who, self.idris)
        return who

    def ask(self, who: Somebody, number: str = "", goes_through: bool = False, words: str = "Please.") -> int:
        """Have a student ask for a section; gives the request's id."""
        subject = SubjectStudent.alone(who.id, who.username)
        return ask(self.context(), subject, TERM, number or self.closed, words, goes_through)

    def state(self, request_id: int) -> str:
        """What has become of a request."""
        return str(self.value("SELECT state FROM permission_requests WHERE id = %s", request_id))

    def events(self, request_id: int) -> list[str]:
        """What has happened to a request, in order."""
        found = self.value(
            "SELECT array_agg(what ORDER BY id) FROM permission_events WHERE request_id = %s", request_id
        )
        return list(found)

    def mailed(self, who: Somebody) -> list[str]:
        """The kinds of mail that somebody of the college has got."""
        return list(
            self.value(
                "SELECT coalesce(array_agg(kind ORDER BY id), '{}') FROM messages WHERE person_id = %s",
                who.id,
            )
        )

    def told_to(self, who: Somebody) -> list[str]:
        """The kinds of messages that a student has got."""
        return [message.kind.value for row, message in self.told() if row == who.row]

    def has(self, who: Somebody, number: str = "") -> bool:
        """Whether a student is registered for a section."""
        return bool(
            self.value(
                "SELECT count(*) FROM registrations WHERE student_term_id = %s AND section_id = %s "
                "AND state = 'registered'",
                who.row,
                int(number or self.closed) - 40_000,
            )
        )

    def put_through(self, who: Somebody, number: str = "") -> str:
        """Have a student add a section without a code; gives the result."""
        context = self.context()
        change = Change(Kind.ADD, number or self.closed)
        key = f"test-{who.id}-{datetime.now(UTC).timestamp()}"
        submission = Submission(who.row, context.term(TERM), Request((change,)), key, who.id, who.username)
        (answer,) = process_submissions(context, [submission])
        assert isinstance(answer, Confirmation), answer
        return "accepted" if self.has(who, number) else "refused"


def actor(who: Somebody, role: str) -> Actor:
    """Somebody who is signed in."""
    return Actor(who.id, who.username.title(), role)
