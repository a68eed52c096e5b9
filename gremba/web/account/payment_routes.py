"""Routes of card payments."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Header, Request
from starlette.concurrency import run_in_threadpool

from gremba.actions.account import pay
from gremba.actions.account.payment_service import SignedAnswer
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.states import PaymentState
from gremba.core.wording import amount
from gremba.store.account.payments import PaymentLine
from gremba.web.access.guard import SignedIn
from gremba.web.schemas import BegunResponse, PaymentResponse
from gremba.web.services import services_of

router = APIRouter()


@router.post("/api/holds/{hold_id}/payment")
def pay_hold(
    request: Request, session: SignedIn, hold_id: int, back: Annotated[str, Header()] = ""
) -> BegunResponse:
    """Start paying one's own fee hold; an approved payment lifts it."""
    services = services_of(request)
    if not 0 < hold_id < 2**31:
        raise Problem(ProblemKind.HOLD_UNKNOWN, "Look at Clearance again.")
    begun = pay.pay_hold(services.context, services.payments, session.person.id, hold_id, _way_back(back))
    return BegunResponse(reference=begun.reference, page=begun.page)


def _way_back(address: str) -> str:
    """The address on this server to return to, whatever the request says."""
    is_ours = address.startswith("/") and not address.startswith(("//", "/\\")) and len(address) < 200
    return address if is_ours and address.isascii() and address.isprintable() else "/"


@router.get("/api/payments/{reference}")
def read_payment(request: Request, session: SignedIn, reference: str) -> PaymentResponse:
    """What is known about one's own payment."""
    payment = pay.own_payment(services_of(request).context, session.person.id, reference)
    return _payment_response(payment)


@router.post("/api/payments/{reference}/question")
def ask_about_payment(request: Request, session: SignedIn, reference: str) -> PaymentResponse:
    """Ask the payment service about a payment that has no result yet."""
    services = services_of(request)
    return _payment_response(
        pay.inquire_about(services.context, services.payments, session.person.id, reference)
    )


@router.post("/api/payments/answers")
async def take_payment_answer(
    request: Request,
    signature: Annotated[str, Header(alias="X-Payment-Signature", max_length=200)] = "",
) -> PaymentResponse:
    """Receives the signed results of the payment service; each may arrive any number of times."""
    services = services_of(request)
    answer = SignedAnswer(await request.body(), signature)
    payment = await run_in_threadpool(pay.take_answer, services.context, services.payments, answer)
    return _payment_response(payment)


def _payment_response(payment: PaymentLine) -> PaymentResponse:
    sum_ = amount(payment.amount_cents)
    texts = {
        PaymentState.WAITING: "The payment service has not answered. Nothing is lost: ask again in a "
        "moment, before you try another card.",
        PaymentState.APPROVED: f"Paid. {sum_} is on your account.",
        PaymentState.DECLINED: "The payment was not made. Nothing was charged.",
        PaymentState.RETURNED: "The hold was lifted already, so this payment is paid back.",
    }
    if payment.hold_id is not None:
        texts[PaymentState.APPROVED] = "Paid. The hold is lifted."
    return PaymentResponse(
        reference=payment.reference,
        state=payment.state.value,
        amount_cents=payment.amount_cents,
        hold=payment.hold_id,
        text=texts[payment.state],
    )
