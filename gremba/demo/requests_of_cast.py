"""Rooms, department heads, and the requests waiting for Petra, made through the real actions."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import timedelta

from gremba.actions.actor import Actor, SubjectStudent
from gremba.actions.permission.answer import GivenAnswer, answer
from gremba.actions.permission.ask import ask, attach, look_at_asking
from gremba.actions.registration.edit_cart import put_changes
from gremba.core.catalogue.term import Section
from gremba.core.permission.asking import Asking
from gremba.core.registration.changes import Kind
from gremba.core.registration.findings import ProposedChange
from gremba.core.states import Waiver
from gremba.demo.morning import Morning
from gremba.demo.season import MORNING, THAW
from gremba.demo.students import StudentPlan
from gremba.demo.tables import Tables
from gremba.store import models
from gremba.store.database import connected
from gremba.store.queries import fetch_value, write
from gremba.store.students.people import sections_held

PETRA = "petra"
PETRAS_DEPARTMENT = "BSKT"
"""Petra decides for basketry, beside what she teaches."""
WITHOUT_WAITLIST = "CERM 105"
"""One of Petra's classes: no waitlist, and as many seats as are taken."""
_SPARE = 4
"""A room holds somewhat more than the largest class in it."""


def add_rooms(tables: Tables) -> None:
    """Add every room in use, with its capacity."""
    pools = {p["id"]: p["seat_limit"] for p in tables.rows["seat_pools"]}
    sections = {s["id"]: s for s in tables.rows["sections"]}
    largest: dict[tuple[str, str], int] = {}
    for meeting in tables.rows["meetings"]:
        if meeting["room"] and meeting["campus"]:
            room = (meeting["campus"], meeting["room"])
            seats = pools[sections[meeting["section_id"]]["pool_id"]]
            largest[room] = max(largest.get(room, 0), seats)
    for (campus, name), seats in sorted(largest.items()):
        tables.add_link("rooms", campus=campus, name=name, capacity=seats + _SPARE)


def add_heads(tables: Tables, teachers: dict[str, list[int]], petra: int) -> None:
    """Add a department head for each subject."""
    for subject, people in teachers.items():
        head = petra if subject == PETRAS_DEPARTMENT else people[-1]
        tables.add_link("department_heads", subject=subject, person_id=head)


def take_waitlist_away(tables: Tables) -> None:
    """Remove the waitlist of one of Petra's sections: seats in it are requested."""
    subject, number = WITHOUT_WAITLIST.split()
    courses = {c["id"] for c in tables.rows["courses"] if (c["subject"], c["number"]) == (subject, number)}
    for section in tables.rows["sections"]:
        if section["course_id"] in courses and section["term_id"] != 1:
            section["waitlist_limit"] = 0


def play_requests(morning: Morning, cast: dict[str, StudentPlan], others: Sequence[StudentPlan]) -> None:
    """Leave three requests for Petra, and approve one of Isolde's.

    Raises:
        LookupError: nobody of the crowd is as the scenario has it.
    """
    petra = _petra(morning)
    mine = [s for s in morning.term.sections if petra.name in s.instructors and not s.cancelled]
    full = next(s for s in mine if s.course.key == WITHOUT_WAITLIST)
    with connected(morning.context.database) as database:
        pool = models.SeatPool
        write(database, pool.update(seat_limit=pool.taken).where(pool.id == full.pool))
    morning.clock.time = MORNING - timedelta(minutes=40)
    first = _ask(
        morning,
        others,
        [full],
        lambda a: a.waives == (Waiver.SEATS,),
        "Clay is the only one of my three craft courses that I cannot get into, and I finish next spring. I "
        "would bring my own wheel.",
    )
    morning.clock.time = MORNING - timedelta(minutes=25)
    needing = [s for s in mine if s.course.requisites is not None]
    rest = [s for s in others if s is not first]
    second = _ask(
        morning,
        rest,
        needing,
        lambda a: a.waives == (Waiver.REQUISITE,),
        "I took the same course at the evening school at home before I came here. The certificate is "
        "attached; it lists what we did.",
    )
    with connected(morning.context.database) as database:
        own = models.PermissionRequest
        latest = int(fetch_value(database, own.select(own.id).order_by(own.id.desc())))
    attach(
        morning.context,
        SubjectStudent.alone(second.id),
        latest,
        "certificate evening school.pdf",
        certificate(),
    )
    morning.clock.time = MORNING - timedelta(minutes=12)
    _late_add(morning, petra, [s for s in rest if s is not second])
    morning.clock.time = MORNING - timedelta(days=1, hours=2)
    _say_yes_to(morning, petra, cast["isolde"], mine)


def _petra(morning: Morning) -> Actor:
    own = models.Person
    with connected(morning.context.database) as database:
        found = fetch_value(database, own.select(own.id).where(own.username == PETRA))
        name = fetch_value(database, own.select(own.full_name).where(own.username == PETRA))
    return Actor(found, name, "instructor")


def _ask(
    morning: Morning,
    students: Sequence[StudentPlan],
    sections: Sequence[Section],
    fits: Callable[[Asking], bool],
    words: str,
) -> StudentPlan:
    """Has the first student for whom this is the only obstacle make a request; returns the student."""
    for section in sections:
        for student in students[:400]:
            look = look_at_asking(morning.context, student.id, morning.term.code, section.reference_number)
            if fits(look.asking) and not look.asking.otherwise:
                me = SubjectStudent.alone(student.id, student.full_name)
                ask(morning.context, me, morning.term.code, section.reference_number, words, True)
                return student
    raise LookupError("nobody of the crowd could ask for it")


def _late_add(morning: Morning, petra: Actor, students: Sequence[StudentPlan]) -> None:
    """A student who has attended one of Petra's classes since January without being registered."""
    thaw = morning.context.term(THAW.code)
    windows = models.Window
    for section in thaw.sections:
        if petra.name not in section.instructors or section.cancelled:
            continue
        for student in students[:400]:
            number = section.reference_number
            look = look_at_asking(morning.context, student.id, THAW.code, number)
            if look.asking.waives != (Waiver.LATE_ADD,) or len(look.asking.otherwise) != 1:
                continue
            # All that is missing beside is a window, and the registrar's office has given one.
            with connected(morning.context.database) as database:
                row = morning.context.student_term(student.id, thaw)
                opens, closes = MORNING - timedelta(days=3), MORNING + timedelta(days=18)
                write(database, windows.insert(student_term=row, opens_at=opens, closes_at=closes))
            if look_at_asking(morning.context, student.id, THAW.code, number).asking.otherwise:
                continue
            ask(
                morning.context,
                SubjectStudent.alone(student.id, student.full_name),
                THAW.code,
                number,
                "I have been in every class since January and handed everything in. Only now did I see "
                "that I am not on the list; the form must have got lost.",
                False,
            )
            return
    raise LookupError("nobody of the crowd could be added late")


def _say_yes_to(morning: Morning, petra: Actor, isolde: StudentPlan, mine: Sequence[Section]) -> None:
    """Approves Isolde's request for one of Petra's sections in place of one of her own."""
    me = SubjectStudent.alone(isolde.id, isolde.full_name)
    code, row = morning.term.code, morning.rows_of[isolde.id]
    with connected(morning.context.database) as database:
        held = [morning.term.by_id[s] for s in sections_held(database, [row])[row]]
    for section in reversed(mine):
        for own in held:
            wish = ProposedChange(Kind.SWAP, section.reference_number, own.reference_number)
            put_changes(morning.context, me, code, [wish])
            look = look_at_asking(morning.context, isolde.id, code, section.reference_number)
            if look.asking.waives and not look.asking.otherwise:
                words = (
                    "It is my last term, and the one class of yours that I never got into. I would take "
                    "any wheel."
                )
                asked = ask(morning.context, me, code, section.reference_number, words, False)
                _take_out(morning, row, section)
                morning.clock.time += timedelta(hours=1)
                answer(morning.context, petra, asked, GivenAnswer.YES, "Gladly. Bring an apron.")
                return
            _take_out(morning, row, section)
    raise LookupError("nothing of Petra's can be granted to Isolde")


def _take_out(morning: Morning, row: int, section: Section) -> None:
    own = models.CartChange
    with connected(morning.context.database) as database:
        mine = (own.student_term_id == row) & (own.section_id == section.id)
        write(database, own.delete().where(mine))


def certificate() -> bytes:
    """A PDF page (ISO 32000-2, 7.5, from memory) with a few made-up lines."""
    lines = ("Evening School of Underwood", "Certificate", "Clay and kiln, 60 hours, passed with merit")
    shown = " T* ".join(f"({line}) Tj" for line in lines)
    drawn = f"BT /F1 18 Tf 26 TL 72 700 Td {shown} ET".encode()
    objects = (
        b"<< /Type /Catalog /Pages 2 0 R >>",
        b"<< /Type /Pages /Kids [3 0 R] /Count 1 >>",
        b"<< /Type /Page /Parent 2 0 R /MediaBox [0 0 595 842] /Contents 4 0 R "
        b"/Resources << /Font << /F1 5 0 R >> >> >>",
        b"<< /Length %d >>\nstream\n%s\nendstream" % (len(drawn), drawn),
        b"<< /Type /Font /Subtype /Type1 /BaseFont /Times-Roman >>",
    )
    body, places = b"%PDF-1.4\n", []
    for number, one in enumerate(objects, 1):
        places.append(len(body))
        body += b"%d 0 obj\n%s\nendobj\n" % (number, one)
    table = b"".join(b"%010d 00000 n \n" % place for place in places)
    size = len(objects) + 1
    end = b"trailer\n<< /Size %d /Root 1 0 R >>\nstartxref\n%d\n%%%%EOF\n" % (size, len(body))
    return body + b"xref\n0 %d\n0000000000 65535 f \n%s" % (size, table) + end
