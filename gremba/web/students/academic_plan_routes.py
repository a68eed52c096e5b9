"""Routes of academic plans."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from fastapi import APIRouter, Request, Response

from gremba.actions.students import academic_plans as academic_plans
from gremba.core.students.academic_plan import LineMistake, PlanLine
from gremba.formats import table_file
from gremba.formats.academic_plan_file import line_data, line_of, write_json, write_table
from gremba.web.access.subject import About, SubjectId
from gremba.web.files import TABLE, as_file
from gremba.web.schemas import AcademicPlanResponse, PlanAgreed, PlanFile, PlanWritten
from gremba.web.services import services_of

router = APIRouter(prefix="/api/terms/{term}/academic-plan")


def _plan(
    request: Request, student: int, term: str, read: int = 0, mistakes: Sequence[LineMistake] = ()
) -> AcademicPlanResponse:
    context = services_of(request).context
    opened = academic_plans.look_at_plan(context, student, term)
    found = context.term(term)
    latest = opened.latest
    zone = found.calendar.zone
    return AcademicPlanResponse.model_validate(
        {
            "lines": [
                line_data(line)
                | {
                    "titles": [found.courses[k].title if k in found.courses else "" for k in line.courses],
                    "state": None if state is None else state.value,
                }
                for line, state in zip(latest.lines if latest else (), opened.states, strict=True)
            ],
            "is_agreed": latest is not None and latest.is_agreed,
            "versions": [
                {
                    "version": v.version,
                    "written_by": v.written_by,
                    "written_at": v.written_at.astimezone(zone),
                    "student_agreed_at": v.student_agreed_at and v.student_agreed_at.astimezone(zone),
                    "advisor_agreed_at": v.advisor_agreed_at and v.advisor_agreed_at.astimezone(zone),
                    "advisor": v.advisor,
                }
                for v in opened.versions
            ],
            "mistakes": [{"line": m.line, "text": m.text} for m in mistakes[:200]],
            "read": read,
        }
    )


@router.get("")
def read_academic_plan(request: Request, subject_id: SubjectId, term: str) -> AcademicPlanResponse:
    """The plan, with what has become of this term's lines."""
    return _plan(request, subject_id, term)


@router.put("")
def write_academic_plan(
    request: Request, about: About, term: str, written: PlanWritten
) -> AcademicPlanResponse:
    """Write a new version; its author agrees to it."""
    lines: list[PlanLine] = [line_of(line.model_dump()) for line in written.lines]
    mistakes = academic_plans.write_plan(services_of(request).context, about, lines)
    return _plan(request, about.student_id, term, len(lines), mistakes)


@router.post("/agreement")
def agree_to_academic_plan(
    request: Request, about: About, term: str, agreed: PlanAgreed
) -> AcademicPlanResponse:
    """Agree to the latest version, as student or advisor."""
    academic_plans.agree_to_plan(services_of(request).context, about, agreed.version)
    return _plan(request, about.student_id, term)


@router.post("/file")
def read_academic_plan_file(
    request: Request, about: About, term: str, file: PlanFile
) -> AcademicPlanResponse:
    """Write a new version from a file; if it has errors nothing is written, and each is reported by line."""
    context = services_of(request).context
    many, mistakes = academic_plans.read_plan_file(context, about, file.form, file.text)
    return _plan(request, about.student_id, term, many, mistakes)


@router.get("/file", responses=TABLE, response_class=Response)
def download_academic_plan(
    request: Request, subject_id: SubjectId, term: str, form: Literal["csv", "json"] = "csv"
) -> Response:
    """Download the latest version."""
    latest = academic_plans.look_at_plan(services_of(request).context, subject_id, term).latest
    lines = latest.lines if latest else ()
    if form == "json":
        return as_file(write_json(lines), "application/json", "plan.json")
    return as_file(write_table(lines), table_file.MEDIA_TYPE, "plan.csv")
