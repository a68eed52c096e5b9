"""Maps each table of the exchange folder to the models' columns.

The folder names rows by what people know them by, the models by ids; a :class:`Link` says how one is found
from the other. Both ways, reading out and merging in, are made from these.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from peewee import JOIN, SQL, Field, Model, Select, fn

from gremba.store import models as m

NO_PASSWORD = "none yet"
"""In the place of a password's hash; no password has it."""


@dataclass(frozen=True)
class Link:
    """A foreign key that the folder expresses by another name.

    Attributes:
        to: the referring column.
        lookup: a query that gives an id with the columns by which the folder names it.
        columns: by the column of the lookup the one of the folder.
        back: a lookup in which each id stands once, where `lookup` has several names for one.
    """

    to: Field
    lookup: Callable[[], Select]
    columns: Mapping[str, str]
    back: Callable[[], Select] | None = None


@dataclass(frozen=True)
class Kept:
    """How a table of the folder is stored in the models.

    Attributes:
        fields: by the folder's column the model's that holds the same.
        links: what is referred to.
        at_first: what new rows get beside, in SQL.
        placed: where an owner has several rows that are told apart by their place ("place" in the
            folder), the owner's column and the one by which they stand in order.
    """

    model: type[Model]
    fields: Mapping[str, Field]
    links: tuple[Link, ...] = ()
    at_first: Mapping[str, SQL] = field(default_factory=dict)
    placed: tuple[Field, Field] | None = None

    @property
    def place(self) -> Any:
        """The position of each row within its owner, from 1."""
        assert self.placed is not None
        owner, order = self.placed
        return fn.ROW_NUMBER().over(partition_by=[owner], order_by=[order])


def _same(model: type[Model], *names: str) -> dict[str, Field]:
    """Columns with the same name in both."""
    return {name: getattr(model, name) for name in names}


def terms_by_code() -> Select:
    """Terms by their code."""
    return m.Term.select(m.Term.id.alias("id"), m.Term.code.alias("term"))


def _people() -> Select:
    return m.Person.select(m.Person.id.alias("id"), m.Person.username.alias("username"))


def _student_terms() -> Select:
    own = m.StudentTerm
    return (
        own.select(own.id.alias("id"), m.Term.code.alias("term"), m.Person.username.alias("username"))
        .join(m.Term)
        .switch(own)
        .join(m.Person, on=m.Person.id == own.student)
    )


def _courses() -> Select:
    own = m.Course
    return own.select(own.id.alias("id"), own.subject.concat(" ").concat(own.number).alias("course"))


def _of_term(own: Any, name: str) -> Select:
    query: Select = own.select(
        own.id.alias("id"), m.Term.code.alias("term"), getattr(own, name).alias("name")
    ).join(m.Term)
    return query


def _sessions() -> Select:
    return _of_term(m.TermSession, "code")


def _bundles() -> Select:
    return _of_term(m.Bundle, "name")


def sections() -> Select:
    """Sections by term and reference number."""
    return _of_term(m.Section, "reference_number")


def pools_of_sections() -> Select:
    """The seat pool of each section."""
    own = m.Section
    return own.select(
        own.pool_id.alias("id"), m.Term.code.alias("term"), own.reference_number.alias("name")
    ).join(m.Term)


def first_sections_of_pools() -> Select:
    """Each pool once, by its section with the lowest number."""
    own = m.Section
    return (
        own.select(
            own.pool_id.alias("id"),
            m.Term.code.alias("term"),
            fn.MIN(own.reference_number).alias("name"),
        )
        .join(m.Term)
        .group_by(own.pool_id, m.Term.code)
    )


def _term(model: Any) -> Link:
    return Link(model.term, terms_by_code, {"term": "term"})


def _person(to: Any, column: str = "username") -> Link:
    return Link(to, _people, {"username": column})


def _student_term(to: Any) -> Link:
    return Link(to, _student_terms, {"term": "term", "username": "username"})


def _section(to: Any, column: str = "number") -> Link:
    return Link(to, sections, {"term": "term", "name": column})


KEPT: Mapping[str, Kept] = {
    "campuses": Kept(m.Campus, _same(m.Campus, "code", "name")),
    "travel": Kept(m.Travel, _same(m.Travel, "campus_from", "campus_to", "minutes")),
    "rooms": Kept(m.Room, _same(m.Room, "campus", "name", "capacity")),
    "terms": Kept(
        m.Term,
        _same(m.Term, "code", "name", "zone", "first_day", "last_day", "state", "late_from")
        | {"late_fee": m.Term.late_cents},
        at_first={"policy": SQL("'{}'::jsonb")},
    ),
    "tariff_rates": Kept(
        m.TariffRate,
        _same(m.TariffRate, "rate_class", "name", "band_from", "band_to")
        | {
            "per_credit": m.TariffRate.per_credit_cents,
            "band_price": m.TariffRate.band_cents,
            "audit_per_credit": m.TariffRate.audit_per_credit_cents,
        },
        (_term(m.TariffRate),),
    ),
    "tariff_fees": Kept(
        m.TariffFee,
        _same(m.TariffFee, "label", "campus", "delivery", "refund")
        | {"amount": m.TariffFee.cents, "each": m.TariffFee.for_each},
        (_term(m.TariffFee),),
        placed=(m.TariffFee.term, m.TariffFee.id),
    ),
    "breaks": Kept(m.TermBreak, _same(m.TermBreak, "name", "first_day", "last_day"), (_term(m.TermBreak),)),
    "sessions": Kept(
        m.TermSession,
        _same(m.TermSession, "code", "name", "first_day", "last_day", "add_by", "drop_by", "withdraw_by")
        | {"refunds": m.TermSession.refund_steps},
        (_term(m.TermSession),),
    ),
    "subjects": Kept(m.Subject, _same(m.Subject, "code", "name")),
    "courses": Kept(
        m.Course,
        _same(
            m.Course,
            *("subject", "number", "title", "description", "credits_least", "credits_most", "requisites"),
            *("gradings", "equivalents", "by_topic", "attempts_allowed", "tags", "fees", "repeats"),
        ),
    ),
    "people": Kept(
        m.Person,
        _same(m.Person, "username", "full_name", "role", "email"),
        at_first={"password_hash": SQL(f"'{NO_PASSWORD}'")},
    ),
    "students": Kept(
        m.Student,
        _same(m.Student, "program", "cohort", "campus", "residence", "receives_aid", "rate_class"),
        (_person(m.Student.id), _person(m.Student.advisor, "advisor")),
    ),
    "details": Kept(
        m.ContactDetails,
        _same(m.ContactDetails, "phone", "address", "emergency_name", "emergency_phone"),
        (_person(m.ContactDetails.student),),
    ),
    "records": Kept(
        m.RecordEntry,
        _same(m.RecordEntry, "course", "grade", "credits") | {"term": m.RecordEntry.term_name},
        (_person(m.RecordEntry.student),),
    ),
    "placements": Kept(
        m.PlacementScore,
        _same(m.PlacementScore, "test", "score", "taken_on"),
        (_person(m.PlacementScore.student),),
    ),
    "heads": Kept(m.DepartmentHead, _same(m.DepartmentHead, "subject"), (_person(m.DepartmentHead.person),)),
    "bundles": Kept(m.Bundle, _same(m.Bundle, "name"), (_term(m.Bundle),)),
    "sections": Kept(
        m.Section,
        _same(
            m.Section,
            *("component", "delivery", "campus", "carries_credit", "cancelled", "topic", "notes"),
            *("waitlist_limit", "waitlist_way", "consent_needed", "no_textbook_cost", "restrictions", "fees"),
        )
        | {"number": m.Section.reference_number},
        (
            _term(m.Section),
            Link(m.Section.course, _courses, {"course": "course"}),
            Link(m.Section.session_id, _sessions, {"term": "term", "name": "session"}),
            Link(m.Section.bundle, _bundles, {"term": "term", "name": "bundle"}),
        ),
        at_first={"pool_id": SQL("pool_id")},
    ),
    "meetings": Kept(
        m.Meeting,
        _same(m.Meeting, "weekdays", "starts", "ends", "first_day", "last_day", "campus", "room"),
        (_section(m.Meeting.section),),
        placed=(m.Meeting.section, m.Meeting.id),
    ),
    "instructors": Kept(
        m.SectionInstructor, {}, (_section(m.SectionInstructor.section), _person(m.SectionInstructor.person))
    ),
    "linked_sections": Kept(
        m.LinkedSection,
        {},
        (_section(m.LinkedSection.section), _section(m.LinkedSection.with_section, "with_number")),
    ),
    "reserved_seats": Kept(
        m.ReservedSeats,
        _same(m.ReservedSeats, "seats", "release_on")
        | {"kind": m.ReservedSeats.group_kind, "value": m.ReservedSeats.group_value},
        (
            Link(
                m.ReservedSeats.pool,
                pools_of_sections,
                {"term": "term", "name": "number"},
                back=first_sections_of_pools,
            ),
        ),
    ),
    "plans": Kept(
        m.AcademicPlan,
        _same(m.AcademicPlan, "version", "written_at", "student_agreed_at", "advisor_agreed_at"),
        (
            _person(m.AcademicPlan.student),
            _person(m.AcademicPlan.written_by, "written_by"),
            _person(m.AcademicPlan.advisor, "advisor"),
        ),
        at_first={"lines": SQL("'[]'::jsonb")},
    ),
    "student_terms": Kept(
        m.StudentTerm,
        _same(m.StudentTerm, "standing", "credit_limit"),
        (_term(m.StudentTerm), _person(m.StudentTerm.student)),
    ),
    "windows": Kept(
        m.Window,
        _same(m.Window, "opens_at", "closes_at"),
        (_student_term(m.Window.student_term),),
        placed=(m.Window.student_term, m.Window.opens_at),
    ),
    "clearance": Kept(
        m.ClearanceItem,
        {"item": m.ClearanceItem.kind, "done_at": m.ClearanceItem.done_at},
        (_student_term(m.ClearanceItem.student_term),),
    ),
    "holds": Kept(
        m.Hold,
        _same(m.Hold, "kind", "placed_at", "reason", "office", "contact", "stops", "cleared_by", "lifted_at")
        | {"amount": m.Hold.amount_cents},
        (_person(m.Hold.student),),
    ),
}
"""All but "policies", which stand in a document of their term, and "plan_lines", in one of their plan."""


def as_kept(name: str) -> Any:
    """A query of a table's stored rows, under the folder's names."""
    kept = KEPT[name]
    chosen: dict[str, Any] = {column: held for column, held in kept.fields.items()}
    joins = []
    for number, link in enumerate(kept.links):
        looked_up = (link.back or link.lookup)().alias(f"l{number}")
        joins.append((looked_up, link))
        for theirs, ours in link.columns.items():
            chosen.setdefault(ours, getattr(looked_up.c, theirs))
    if kept.placed is not None:
        chosen["place"] = kept.place
    if name == "courses":
        chosen["course"] = m.Course.subject.concat(" ").concat(m.Course.number)
    if name == "sections":
        return _sections_as_kept(kept, chosen, joins)
    return _joined(kept.model.select(*(held.alias(ours) for ours, held in chosen.items())), kept, joins)


def _joined(query: Any, kept: Kept, joins: list[Any]) -> Any:
    for looked_up, link in joins:
        query = query.switch(kept.model).join(looked_up, JOIN.LEFT_OUTER, on=(link.to == looked_up.c.id))
    return query


def _sections_as_kept(kept: Kept, chosen: dict[str, Any], joins: list[Any]) -> Any:
    """Sections with their seats, and the section they share them with."""
    own, first = m.Section, first_sections_of_pools().alias("first")
    shares = fn.NULLIF(first.c.name, own.reference_number)
    query: Any = own.select(
        *(held.alias(ours) for ours, held in chosen.items()),
        m.SeatPool.seat_limit.alias("seats"),
        shares.alias("seats_with"),
    )
    query = _joined(query, kept, joins)
    return (
        query.switch(own)
        .join(m.SeatPool, on=(m.SeatPool.id == own.pool_id))
        .switch(own)
        .join(first, on=(first.c.id == own.pool_id))
    )
