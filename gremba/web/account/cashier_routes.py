"""Routes of the cashier: balances, a student's account, drops for nonpayment, the day's entries."""

from __future__ import annotations

from datetime import date
from typing import Annotated

from fastapi import APIRouter, Query, Request, Response

from gremba.actions.account import cashier
from gremba.actions.account.day_file import export_day, import_day
from gremba.actions.account.nonpayment import drop_unpaid, due_date, preview_nonpayment
from gremba.actions.account.statement import look_at_account
from gremba.actions.actor import Actor
from gremba.core.account.ledger import AnticipatedPaymentKind, EntryKind
from gremba.core.account.nonpayment import NonpaymentResult
from gremba.core.catalogue.term import TermCatalogue
from gremba.formats import table_file
from gremba.store.account.nonpayment import count_results, list_results, nonpayment_drops_of
from gremba.store.database import connected, reading
from gremba.web.access.guard import SignedIn
from gremba.web.account.responses import account_response, owing_response, place_after, read_place
from gremba.web.files import TABLE, as_file
from gremba.web.once import OnceKey
from gremba.web.schemas import (
    AnticipatedPaymentResponse,
    AnticipatedPaymentWanted,
    DayFile,
    DayTakenResponse,
    DeskResponse,
    DueAt,
    LineProblemResponse,
    NonpaymentDateResponse,
    NonpaymentLineResponse,
    NonpaymentLines,
    OwingList,
    PostingWanted,
    Why,
)
from gremba.web.services import services_of
from gremba.web.values import known_id

router = APIRouter(prefix="/api/terms/{term}")

_MOST = 60
_MOST_TRIED = 500
_MOST_PROBLEMS = 200

Place = Annotated[str, Query(max_length=300, description="Where to go on, as the list before said")]


@router.get("/accounts")
def list_accounts(
    request: Request,
    term: str,
    search: Annotated[str, Query(max_length=100)] = "",
    only_open: bool = True,
    place: Place = "",
) -> OwingList:
    """List students with their balances, by name."""
    context = services_of(request).context
    found = context.term(term)
    page = cashier.list_owing(
        context, found, read_place(place), search.strip(), only_open=only_open, most=_MOST
    )
    return OwingList(
        students=[owing_response(line, found) for line in page.lines], next=place_after(page.last)
    )


def _desk(request: Request, term: str, student: int) -> DeskResponse:
    context = services_of(request).context
    holder = cashier.holder_of(context, context.term(term), known_id(student))
    found = look_at_account(context, holder.student_id, term)
    return DeskResponse(
        student=holder.student_id,
        username=holder.username,
        full_name=holder.full_name,
        account=account_response(found),
        anticipated_payments=[
            AnticipatedPaymentResponse(
                id=payment.id,
                kind=payment.kind.value,
                label=payment.label,
                amount_cents=payment.amount_cents,
                open_cents=payment.open_cents,
            )
            for payment in found.account.anticipated_payments
        ],
        spared=found.account.spared,
    )


@router.get("/accounts/{student}")
def read_desk(request: Request, term: str, student: int) -> DeskResponse:
    """A student's account, with what the cashier can do."""
    return _desk(request, term, student)


@router.post("/accounts/{student}/entries")
def post_entry(
    request: Request,
    session: SignedIn,
    term: str,
    student: int,
    wanted: PostingWanted,
    key: OnceKey,
) -> DeskResponse:
    """Post an entry. The same key posts it only once."""
    posting = cashier.Posting(
        EntryKind(wanted.kind),
        wanted.amount_cents,
        wanted.label,
        wanted.reason,
        key,
        wanted.anticipated_payment,
    )
    context = services_of(request).context
    cashier.post_entry(context, session.person.id, known_id(student), term, posting)
    return _desk(request, term, student)


@router.post("/accounts/{student}/entries/{entry}/undoing")
def undo_entry(
    request: Request, session: SignedIn, term: str, student: int, entry: int, why: Why
) -> DeskResponse:
    """Reverse an entry with a counter-entry."""
    context = services_of(request).context
    entry = entry if 0 < entry < 2**63 else 0
    cashier.undo_entry(context, session.person.id, known_id(student), term, entry, why.reason)
    return _desk(request, term, student)


@router.post("/accounts/{student}/anticipated-payments")
def note_anticipated_payment(
    request: Request,
    session: SignedIn,
    term: str,
    student: int,
    wanted: AnticipatedPaymentWanted,
    key: OnceKey,
) -> DeskResponse:
    """Record an anticipated payment. The same key records it only once."""
    context = services_of(request).context
    cashier.anticipate_payment(
        context,
        session.person.id,
        known_id(student),
        term,
        AnticipatedPaymentKind(wanted.kind),
        wanted.label,
        wanted.amount_cents,
        key,
    )
    return _desk(request, term, student)


@router.delete("/accounts/{student}/anticipated-payments/{anticipated_payment}")
def withdraw_anticipated_payment(
    request: Request, session: SignedIn, term: str, student: int, anticipated_payment: int
) -> DeskResponse:
    """Withdraw an anticipated payment."""
    context = services_of(request).context
    cashier.end_anticipated_payment(
        context, session.person.id, known_id(student), term, known_id(anticipated_payment)
    )
    return _desk(request, term, student)


@router.put("/accounts/{student}/seats-kept")
def keep_seats(request: Request, session: SignedIn, term: str, student: int, why: Why) -> DeskResponse:
    """Exempt a student from the drop for nonpayment."""
    context = services_of(request).context
    cashier.keep_seats(context, session.person.id, known_id(student), term, why.reason)
    return _desk(request, term, student)


@router.delete("/accounts/{student}/seats-kept")
def keep_seats_no_more(request: Request, session: SignedIn, term: str, student: int) -> DeskResponse:
    """Withdraw that exemption."""
    context = services_of(request).context
    cashier.keep_seats(context, session.person.id, known_id(student), term, None)
    return _desk(request, term, student)


@router.get("/nonpayment-drops")
def list_nonpayment_drops(request: Request, term: str) -> list[NonpaymentDateResponse]:
    """List the due dates with a drop for nonpayment, and their results."""
    context = services_of(request).context
    return _nonpayment_drops(request, context.term(term))


def _nonpayment_drops(request: Request, term: TermCatalogue) -> list[NonpaymentDateResponse]:
    context = services_of(request).context
    zone = term.calendar.zone
    now = context.clock.now()
    found = []
    with connected(context.database) as database:
        made = nonpayment_drops_of(database, term.id)
        for due in term.policy.account.due_dates:
            if not due.loses_seats:
                continue
            nonpayment_drop = made.get(due.at)
            counts = count_results(database, nonpayment_drop.id) if nonpayment_drop else {}
            found.append(
                NonpaymentDateResponse(
                    at=due.at.astimezone(zone),
                    percent=due.percent,
                    registered_through=due.registered_through,
                    warn_days=list(term.policy.account.warn_days),
                    has_come=due.at <= now,
                    begun_at=nonpayment_drop.begun_at.astimezone(zone) if nonpayment_drop else None,
                    done_at=nonpayment_drop.done_at.astimezone(zone)
                    if nonpayment_drop and nonpayment_drop.done_at
                    else None,
                    settled=counts.get(NonpaymentResult.SETTLED, 0),
                    spared=counts.get(NonpaymentResult.SPARED, 0),
                    lost=counts.get(NonpaymentResult.LOST, 0),
                )
            )
    return found


@router.post("/nonpayment-drops/trial")
def preview_nonpayment_drop(request: Request, term: str, due: DueAt, place: Place = "") -> NonpaymentLines:
    """Preview who would be dropped on a due date, and who would be spared and why. Students who have paid are
    left out. Nothing is changed."""
    context = services_of(request).context
    found = context.term(term)
    lines, last = preview_nonpayment(context, found, due_date(found, due.at), read_place(place), _MOST_TRIED)
    shown = [
        NonpaymentLineResponse(
            student=line.holder.student_id,
            username=line.holder.username,
            full_name=line.holder.full_name,
            result=line.judgement.result,
            owed_cents=line.judgement.owed_cents,
            why=line.judgement.why,
            sections=[section.name for section in line.judgement.sections],
            confirmation=None,
        )
        for line in lines
        if line.judgement.result is not NonpaymentResult.SETTLED
    ]
    return NonpaymentLines(lines=shown, looked_at=len(lines), next=place_after(last))


@router.post("/nonpayment-drops")
def drop_unpaid_students(
    request: Request, session: SignedIn, term: str, due: DueAt
) -> list[NonpaymentDateResponse]:
    """Run the drop for nonpayment of a due date that has passed, or continue it."""
    context = services_of(request).context
    found = context.term(term)
    person = session.person
    drop_unpaid(context, found, due_date(found, due.at), Actor(person.id, person.full_name, person.role))
    return _nonpayment_drops(request, found)


@router.post("/nonpayment-drops/results")
def read_nonpayment_results(
    request: Request, term: str, due: DueAt, after: Annotated[int, Query(ge=0, le=2**31 - 1)] = 0
) -> NonpaymentLines:
    """What the drop for nonpayment did, by student."""
    context = services_of(request).context
    found = context.term(term)
    when = due_date(found, due.at).at
    with reading(context.database) as database:
        nonpayment_drop = nonpayment_drops_of(database, found.id).get(when)
        which = (NonpaymentResult.LOST, NonpaymentResult.SPARED)
        lines = (
            list_results(database, nonpayment_drop.id, which, after, _MOST_TRIED) if nonpayment_drop else []
        )
    return NonpaymentLines(
        lines=[
            NonpaymentLineResponse(
                student=line.student_id,
                username=line.username,
                full_name=line.full_name,
                result=line.result,
                owed_cents=line.owed_cents,
                why=line.why,
                sections=[],
                confirmation=line.confirmation,
            )
            for line in lines
        ],
        looked_at=len(lines),
        next=str(lines[-1].row) if len(lines) == _MOST_TRIED else "",
    )


@router.get("/day-file", responses=TABLE, response_class=Response)
def download_day(request: Request, term: str, day: date) -> Response:
    """Download a day's entries for the finance office."""
    body = export_day(services_of(request).context, term, day)
    return as_file(body, table_file.MEDIA_TYPE, f"entries-{day.isoformat()}.csv")


@router.post("/day-file")
def take_day_file(request: Request, session: SignedIn, term: str, file: DayFile) -> DayTakenResponse:
    """Import entries from the finance office; if any line is wrong, nothing is imported."""
    taken = import_day(services_of(request).context, session.person.id, term, file.text)
    return DayTakenResponse(
        taken=taken.taken,
        known=taken.known,
        problems=[LineProblemResponse(line=p.line, text=p.text) for p in taken.problems[:_MOST_PROBLEMS]],
        more=max(0, len(taken.problems) - _MOST_PROBLEMS),
    )
