"""Clearance: seeing what stands in the way, clearing it, paying a fee hold."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Header, Request
from starlette.concurrency import run_in_threadpool

from gremba.actions import clearance, pay
from gremba.actions.payment_service import SignedAnswer
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.states import PaymentState
from gremba.standins.payment import TEST_CARDS
from gremba.store.clearance import Details
from gremba.store.holds import PaymentLine
from gremba.web.access import SignedIn
from gremba.web.responses import clearance_response
from gremba.web.schemas import (
    Answers,
    Card,
    ClearanceResponse,
    DetailsSchema,
    PaymentResponse,
    TestCardResponse,
)
from gremba.web.services import services_of
from gremba.web.subject import SubjectId

router = APIRouter(prefix="/api")


def _response(request: Request, student: int, term: str) -> ClearanceResponse:
    return clearance_response(clearance.look_at_clearance(services_of(request).context, student, term))


@router.get("/terms/{term}/clearance")
def read_clearance(
    request: Request, session: SignedIn, subject_id: SubjectId, term: str
) -> ClearanceResponse:
    """What stands between a student and registering, and what has been cleared. Where and how the
    student lives, and whether a payment is on its way, is not for the advisor."""
    own = _response(request, subject_id, term)
    if session.person.id == subject_id:
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
    """Confirm or correct how one is reached."""
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
    """Come to the end of orientation."""
    clearance.finish_orientation(services_of(request).context, session.person.id, term)
    return _response(request, session.person.id, term)


@router.get("/payments/test-cards")
def list_test_cards(request: Request) -> list[TestCardResponse]:
    """The cards of the payment stand-in, and what becomes of each."""
    if not services_of(request).settings.payment_standin:
        raise Problem(ProblemKind.PAYMENT_ELSEWHERE, "There are no test cards here.")
    return [TestCardResponse(number=c.number, what=c.what) for c in TEST_CARDS]


@router.post("/holds/{hold_id}/payment")
def pay_hold(request: Request, session: SignedIn, hold_id: int, card: Card) -> PaymentResponse:
    """Pay a fee hold of one's own; an approved payment lifts it."""
    services = services_of(request)
    if not 0 < hold_id < 2**31:
        raise Problem(ProblemKind.HOLD_UNKNOWN, "Look at Clearance again.")
    paid = pay.pay(services.context, services.payments, session.person.id, hold_id, card.number)
    return _payment_response(paid)


@router.post("/payments/{reference}/question")
def ask_about_payment(request: Request, session: SignedIn, reference: str) -> PaymentResponse:
    """Ask the payment service what became of a payment that has had no answer."""
    services = services_of(request)
    return _payment_response(pay.ask(services.context, services.payments, session.person.id, reference))


@router.post("/payments/answers")
async def take_payment_answer(
    request: Request,
    signature: Annotated[str, Header(alias="X-Payment-Signature", max_length=200)] = "",
) -> PaymentResponse:
    """Where the payment service posts its signed answers; each may come any number of times."""
    services = services_of(request)
    answer = SignedAnswer(await request.body(), signature)
    payment = await run_in_threadpool(pay.take_answer, services.context, services.payments, answer)
    return _payment_response(payment)


_TEXTS = {
    PaymentState.WAITING: "The payment service has not answered. Nothing is lost: ask again in a moment, "
    "before you try another card.",
    PaymentState.APPROVED: "Paid. The hold is lifted.",
    PaymentState.DECLINED: "The payment was declined. Nothing was charged; try another card.",
    PaymentState.RETURNED: "The hold was lifted already, so this payment is paid back.",
}


def _payment_response(payment: PaymentLine) -> PaymentResponse:
    return PaymentResponse(reference=payment.reference, state=payment.state.value, text=_TEXTS[payment.state])
