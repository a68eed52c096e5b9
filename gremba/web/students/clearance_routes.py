"""Routes of clearance."""

from __future__ import annotations

from fastapi import APIRouter, Request

from gremba.actions.students import clearance
from gremba.store.students.clearance import Details
from gremba.web.access.guard import SignedIn
from gremba.web.access.subject import SubjectId
from gremba.web.registration.responses import clearance_response
from gremba.web.schemas import (
    Answers,
    ClearanceResponse,
    DetailsSchema,
)
from gremba.web.services import services_of

router = APIRouter(prefix="/api")


def _response(request: Request, student: int, term: str, to_student: bool = True) -> ClearanceResponse:
    context = services_of(request).context
    return clearance_response(clearance.look_at_clearance(context, student, term, to_student))


@router.get("/terms/{term}/clearance")
def read_clearance(
    request: Request, session: SignedIn, subject_id: SubjectId, term: str
) -> ClearanceResponse:
    """The registration checklist. Contact details and pending payments are hidden from advisors."""
    is_own = session.person.id == subject_id
    own = _response(request, subject_id, term, to_student=is_own)
    if is_own:
        return own
    holds = [hold.model_copy(update={"waiting_payment": None}) for hold in own.holds]
    return own.model_copy(update={"email": "", "details": None, "holds": holds})


@router.post("/terms/{term}/clearance/agreement")
def accept_the_agreement(request: Request, session: SignedIn, term: str) -> ClearanceResponse:
    """Accept the registration agreement."""
    clearance.accept_agreement(services_of(request).context, session.person.id, term)
    return _response(request, session.person.id, term)


@router.post("/terms/{term}/clearance/details")
def confirm_contact_details(
    request: Request, session: SignedIn, term: str, details: DetailsSchema
) -> ClearanceResponse:
    """Confirm or correct one's contact details."""
    own_details = Details(**details.model_dump())
    clearance.confirm_details(services_of(request).context, session.person.id, term, own_details)
    return _response(request, session.person.id, term)


@router.post("/terms/{term}/clearance/survey")
def answer_the_survey(request: Request, session: SignedIn, term: str, answers: Answers) -> ClearanceResponse:
    """Answer the survey."""
    context = services_of(request).context
    clearance.answer_survey(context, session.person.id, term, answers.answers)
    return _response(request, session.person.id, term)


@router.post("/terms/{term}/clearance/orientation")
def finish_the_orientation(request: Request, session: SignedIn, term: str) -> ClearanceResponse:
    """Finish orientation."""
    clearance.finish_orientation(services_of(request).context, session.person.id, term)
    return _response(request, session.person.id, term)
