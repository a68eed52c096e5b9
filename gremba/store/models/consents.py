"""Consent codes that instructors give out, and what was granted without a code."""

from __future__ import annotations

from peewee import BooleanField, TextField

from gremba.core.states import Waiver
from gremba.store.models.base import (
    BigIdentity,
    Identity,
    Moment,
    Reference,
    Table,
    Words,
    check,
    default,
    index,
)
from gremba.store.models.clearance import StudentTerm
from gremba.store.models.people import Person, Student
from gremba.store.models.registration import Receipt
from gremba.store.models.sections import Section

_WAIVABLE = ", ".join(f"'{one.value}'" for one in Waiver)


class ConsentCode(Table):
    """An instructor's word, as a code that a student names."""

    id = Identity()
    is_grant = BooleanField(
        constraints=[default("false")],
        help_text="a yes to the one student it is for, who needs no code: it is used by itself",
    )
    code = TextField(unique=True, constraints=[check("code ~ '^[A-Z0-9]{8}$'")])
    section = Reference(Section)
    student = Reference(Student, null=True, help_text="the one it is for; anybody if none")
    waives = Words(constraints=[check(f"cardinality(waives) > 0 AND waives <@ ARRAY[{_WAIVABLE}]")])
    given_by = Reference(Person, column_name="given_by")
    given_at = Moment()
    expires_at = Moment(null=True)
    withdrawn_at = Moment(null=True)

    class Meta:
        table_name = "consent_codes"
        constraints = [check("student_id IS NOT NULL OR NOT is_grant")]


index(ConsentCode, "consent_codes_of_section", ConsentCode.section)
index(ConsentCode, "grants_of_student", ConsentCode.student, where="is_grant AND withdrawn_at IS NULL")
index(ConsentCode, "consent_codes_given", ConsentCode.given_by, ConsentCode.given_at)


class ConsentUse(Table):
    """That a code was used. One row a code: that it is used once is the table's own word."""

    consent = Reference(ConsentCode, primary_key=True)
    student_term = Reference(StudentTerm)
    receipt = Reference(Receipt)
    used_at = Moment()

    class Meta:
        table_name = "consent_uses"


class ConsentGuess(Table):
    """A code that somebody named and that does not exist."""

    id = BigIdentity()
    person = Reference(Person)
    code = TextField()
    at = Moment()

    class Meta:
        table_name = "consent_guesses"


index(ConsentGuess, "consent_guesses_of_person", ConsentGuess.person, ConsentGuess.at)
index(ConsentGuess, "consent_guesses_by_age", ConsentGuess.at)
