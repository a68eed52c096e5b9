"""Permission codes and grants."""

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
from gremba.store.models.registration import Confirmation
from gremba.store.models.sections import Section

_WAIVABLE = ", ".join(f"'{one.value}'" for one in Waiver)


class PermissionCode(Table):
    """An instructor's permission as a code for a student to enter."""

    id = Identity()
    is_grant = BooleanField(
        constraints=[default("false")],
        help_text="a permission for one student, used without entering a code",
    )
    code = TextField(unique=True, constraints=[check("code ~ '^[A-Z0-9]{8}$'")])
    section = Reference(Section)
    student = Reference(Student, null=True, help_text="the student it is for; none for anybody")
    waives = Words(constraints=[check(f"cardinality(waives) > 0 AND waives <@ ARRAY[{_WAIVABLE}]")])
    given_by = Reference(Person, column_name="given_by")
    given_at = Moment()
    expires_at = Moment(null=True)
    withdrawn_at = Moment(null=True)

    class Meta:
        table_name = "permission_codes"
        constraints = [check("student_id IS NOT NULL OR NOT is_grant")]


index(PermissionCode, "permission_codes_of_section", PermissionCode.section)
index(PermissionCode, "grants_of_student", PermissionCode.student, where="is_grant AND withdrawn_at IS NULL")
index(PermissionCode, "permission_codes_given", PermissionCode.given_by, PermissionCode.given_at)


class PermissionCodeUse(Table):
    """The use of a code. Its key makes sure that a code is used once."""

    permission_code = Reference(PermissionCode, primary_key=True)
    student_term = Reference(StudentTerm)
    confirmation = Reference(Confirmation)
    used_at = Moment()

    class Meta:
        table_name = "permission_code_uses"


class PermissionCodeGuess(Table):
    """A wrong code that somebody entered."""

    id = BigIdentity()
    person = Reference(Person)
    code = TextField()
    at = Moment()

    class Meta:
        table_name = "permission_code_guesses"


index(
    PermissionCodeGuess,
    "permission_code_guesses_of_person",
    PermissionCodeGuess.person,
    PermissionCodeGuess.at,
)
index(PermissionCodeGuess, "permission_code_guesses_by_age", PermissionCodeGuess.at)
