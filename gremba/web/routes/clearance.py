"""Clearance: seeing what stands in the way, clearing it, paying a fee hold."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Header, Request
from starlette.concurrency import run_in_threadpool

from gremba.actions import clearance, pay
from gremba.actions.problem import Problem
from gremba.standins import payment
from gremba.store.clearance import Details
from gremba.web.access import SignedIn
from gremba.web.schemas import (
    Answers,
    Card,
    ClearanceView,
    DetailsShape,
    PaymentView,
    TestCardView,
)
from gremba.web.services import services_of
from gremba.web.subject import SubjectId
from gremba.web.views import clearance_view

router = APIRouter(prefix="/api")


def _view(request: Request, student: int, term: str) -> ClearanceView:
    return clearance_view(clearance.look_at_clearance(services_of(request).desk, student, term))


@router.get("/terms/{term}/clearance")
def read_clearance(
    request: Request, session: SignedIn, subject_id: SubjectId, term: str
) -> ClearanceView:
    """What stands between a student and registering, and what has been cleared. Where and how the
    student lives, and whether a payment is on its way, is not for the advisor."""
    view = _view(request, subject_id, term)
    if session.person.id == subject_id:
        return view
    holds = [hold.model_copy(update={"waiting_payment": None}) for hold in view.holds]
    return view.model_copy(update={"email": "", "details": None, "holds": holds})


@router.post("/terms/{term}/clearance/agreement")
def accept_the_agreement(request: Request, session: SignedIn, term: str) -> ClearanceView:
    """Accept the registration agreement."""
    clearance.accept_agreement(services_of(request).desk, session.person.id, term)
    return _view(request, session.person.id, term)


@router.post("/terms/{term}/clearance/details")
def confirm_contact_details(
    request: Request, session: SignedIn, term: str, details: DetailsShape
) -> ClearanceView:
    """Confirm or correct how one is reached."""
    kept = Details(**details.model_dump())
    clearance.confirm_details(services_of(request).desk, session.person.id, term, kept)
    return _view(request, session.person.id, term)


@router.post("/terms/{term}/clearance/survey")
def answer_the_survey(
    request: Request, session: SignedIn, term: str, answers: Answers
) -> ClearanceView:
    """Answer the survey."""
    desk = services_of(request).desk
    clearance.answer_survey(desk, session.person.id, term, answers.answers)
    return _view(request, session.person.id, term)


@router.post("/terms/{term}/clearance/orientation")
def finish_the_orientation(request: Request, session: SignedIn, term: str) -> ClearanceView:
    """Come to the end of orientation."""
    clearance.finish_orientation(services_of(request).desk, session.person.id, term)
    return _view(request, session.person.id, term)


@router.get("/payments/test-cards")
def list_test_cards(request: Request) -> list[TestCardView]:
    """The cards of the payment stand-in, and what becomes of each."""
    _standin_secret(request)
    return [TestCardView(number=c.number, what=c.what) for c in payment.TEST_CARDS]


def _standin_secret(request: Request) -> str:
    """What the stand-in signs with.

    Raises:
        Problem: payments do not go to the stand-in here.
    """
    settings = services_of(request).settings
    if not settings.payment_standin:
        raise Problem("payment-elsewhere", "Paying is not possible on this page",
                      "Pay at the office that placed the hold; it is lifted there.", 409)  # fmt: skip
    return settings.payment_secret


@router.post("/holds/{hold_id}/payment")
def pay_hold(request: Request, session: SignedIn, hold_id: int, card: Card) -> PaymentView:
    """Pay a fee hold of one's own; an approved payment lifts it."""
    services = services_of(request)
    secret = _standin_secret(request)
    if not 0 < hold_id < 2**31:
        raise Problem("hold-unknown", "No such hold of yours", "Look at Clearance again.", 404)
    found = payment.find_card(card.number)
    begun = pay.begin(services.desk, session.person.id, hold_id)
    state = "waiting"
    for told in payment.charge(found, begun.reference, begun.amount_cents, secret):
        state = pay.take_answer(services.desk, secret, told.body, told.signature).state
    return _payment_view(begun.reference, state)


@router.post("/payments/{reference}/question")
def ask_about_payment(request: Request, session: SignedIn, reference: str) -> PaymentView:
    """Ask the payment service what became of a payment that has had no answer."""
    services = services_of(request)
    secret = _standin_secret(request)
    own = pay.own_payment(services.desk, session.person.id, reference)
    state = own.state
    if state == "waiting":
        told = payment.inquire(own.reference, own.amount_cents, secret)
        state = pay.take_answer(services.desk, secret, told.body, told.signature).state
    return _payment_view(reference, state)


@router.post("/payments/answers")
async def take_payment_answer(
    request: Request,
    signature: Annotated[str, Header(alias="X-Payment-Signature", max_length=200)] = "",
) -> PaymentView:
    """Where the payment service posts its signed answers; each may come any number of times."""
    services = services_of(request)
    body = await request.body()
    payment_now = await run_in_threadpool(
        pay.take_answer, services.desk, services.settings.payment_secret, body, signature
    )
    return _payment_view(payment_now.reference, payment_now.state)


_TEXTS = {
    "waiting": "The payment service has not answered. Nothing is lost: ask again in a moment, "
    "before you try another card.",
    "approved": "Paid. The hold is lifted.",
    "declined": "The payment was declined. Nothing was charged; try another card.",
    "returned": "The hold was lifted already, so this payment is paid back.",
}


def _payment_view(reference: str, state: str) -> PaymentView:
    return PaymentView.model_validate(
        {"reference": reference, "state": state, "text": _TEXTS[state]}
    )
