"""Finds whose pages a request is about: the caller's own, or those of a student they act for."""

from __future__ import annotations

from typing import Annotated

from fastapi import Depends, Query, Request
from starlette.concurrency import run_in_threadpool

from gremba.actions.actor import Actor, SubjectStudent
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.actions.students.offices import any_student, own_student
from gremba.store.access.sessions import Session
from gremba.web.access.guard import SignedIn
from gremba.web.services import services_of


async def find_student_id(request: Request, session: Session, student: int | None) -> int:
    """The id of the student a request is about.

    Raises:
        Problem: an advisor names nobody, or a student of somebody else; the registrar names nobody; a
            student names another.
    """
    role = session.person.role
    if role not in ("advisor", "registrar"):
        if student not in (None, session.person.id):
            raise Problem(ProblemKind.STUDENT_NOT_YOURS, "You can only see and change what is your own.")
        return session.person.id
    if student is None or not 0 < student < 2**31:
        raise Problem(ProblemKind.STUDENT_MISSING, "Name one of your students with “student”.")
    context = services_of(request).context
    request.state.about = student
    if role == "registrar":
        return (await run_in_threadpool(any_student, context, student)).id
    return (await run_in_threadpool(own_student, context, session.person.id, student)).id


async def subject_id(
    request: Request,
    session: SignedIn,
    student: Annotated[
        int | None,
        Query(description="For advisors: the id of one of their own students; for the registrar of any"),
    ] = None,
) -> int:
    """Dependency of routes about one student."""
    return await find_student_id(request, session, student)


SubjectId = Annotated[int, Depends(subject_id)]


async def subject(request: Request, session: SignedIn, student_id: SubjectId) -> SubjectStudent:
    """Dependency of routes that change a student's data."""
    return SubjectStudent(student_id, actor_of(session))


def actor_of(session: Session) -> Actor:
    """Who performs a request, for the record."""
    person = session.person
    return Actor(person.id, person.full_name, person.role)


About = Annotated[SubjectStudent, Depends(subject)]
