"""Schemas of academic plans."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from gremba.core.students.academic_plan import MOST_ALTERNATIVES, MOST_LINES, MOST_OF_NOTE
from gremba.web.schema_base import PlainText, Schema
from gremba.web.timetables.timetable_schemas import CourseKey


class PlanLineSchema(Schema):
    """A line: a term, a course or several to choose from, and optionally a section."""

    term: Annotated[str, StringConstraints(min_length=1, max_length=40)]
    courses: list[CourseKey] = Field(min_length=1, max_length=MOST_ALTERNATIVES)
    count: int = Field(1, ge=1, le=MOST_ALTERNATIVES)
    section: Annotated[str, StringConstraints(pattern=r"^([0-9]{5})?$")] = ""
    note: Annotated[PlainText, StringConstraints(max_length=MOST_OF_NOTE)] = ""


class PlanWritten(Schema):
    """A new version of a plan."""

    lines: list[PlanLineSchema] = Field(max_length=MOST_LINES)


class PlanFile(Schema):
    """A plan as a file."""

    form: Literal["csv", "json"]
    text: Annotated[str, StringConstraints(max_length=2_000_000)]


class PlanAgreed(Schema):
    """The version agreed to."""

    version: int = Field(ge=1, lt=2**31)


class LineMistakeResponse(Schema):
    """An error in a line, and how to fix it."""

    line: int
    text: str


class AcademicPlanLine(PlanLineSchema):
    """A line, and what has become of it."""

    titles: list[str] = Field(description="Of the courses")
    state: Literal["registered", "waiting", "in cart", "passed", "not yet"] | None = Field(
        description="None for lines of other terms"
    )


class AcademicPlanVersion(Schema):
    """A version of a plan: its author, time, and agreements."""

    version: int
    written_by: str
    written_at: datetime
    student_agreed_at: datetime | None
    advisor_agreed_at: datetime | None
    advisor: str


class AcademicPlanResponse(Schema):
    """A plan, and what has become of it."""

    lines: list[AcademicPlanLine]
    is_agreed: bool = Field(description="Both have agreed to the latest version")
    versions: list[AcademicPlanVersion] = Field(description="Latest first")
    mistakes: list[LineMistakeResponse] = Field(
        [], description="Of what was sent; with any, nothing of it was written"
    )
    read: int = Field(0, description="So many lines were read of what was sent")
