"""The demo's accounts: the running term is paid, the next partly, and Bram has a story."""

from __future__ import annotations

import random
from collections.abc import Iterator
from datetime import date, datetime, timedelta

from peewee import fn
from playhouse.pool import PooledPostgresqlDatabase

from gremba.actions.context import ActionContext
from gremba.core.account.due import Account
from gremba.core.account.ledger import AnticipatedPaymentKind, CounterAccount, EntryKind
from gremba.core.catalogue.term import TermCatalogue
from gremba.core.states import RegistrationEventKind, RegistrationState
from gremba.demo.cast import BRAM, CAST
from gremba.demo.season import HARVEST, MORNING, THAW, at
from gremba.demo.tariffs import BEYOND
from gremba.store import models
from gremba.store.account.ledger import NewEntry, add_entries, read_accounts
from gremba.store.database import connected
from gremba.store.models.base import literal
from gremba.store.queries import fetch_tuples, fetch_value, fetch_values, one_of, write

_SEED = 20270420
_AT_A_TIME = 400

_PAID_THAW = at(date(2027, 1, 8), 11)
_BRAM_DROPPED = at(THAW.first + timedelta(15), 14)

_SPONSORS = ("Guild of Coopers", "Millrace Savings Society", "Hedge and Wall Trust")


def fill_accounts(context: ActionContext) -> None:
    """Give every student an account: rate class, payments, and anticipated payments; and Bram his own."""
    rng = random.Random(_SEED)
    thaw, harvest = context.term(THAW.code), context.term(HARVEST.code)
    student = models.Student
    with connected(context.database) as database, database.atomic():
        write(database, student.update(rate_class=BEYOND).where(fn.MOD(student.id, 7) == 3))
        bram = _choose_bram(database, harvest)
        _drop_of_bram(database, thaw, bram)
        for accounts in _accounts(database, thaw):
            add_entries(database, _paid(rng, accounts, share=1.0, when=_PAID_THAW, origin="demo:thaw"))
        aided = set(fetch_values(database, student.select(student.id).where(student.receives_aid)))
        for accounts in _accounts(database, harvest):
            _anticipated_payment(database, rng, accounts, aided, bram)
            payers = {row: account for row, account in accounts.items() if rng.random() < 0.3}
            payers.pop(_row(database, bram, harvest.id), None)
            when = MORNING - timedelta(minutes=3)
            add_entries(database, _paid(rng, payers, share=0.8, when=when, origin="demo:harvest"))


def _accounts(database: PooledPostgresqlDatabase, term: TermCatalogue) -> Iterator[dict[int, Account]]:
    rows = fetch_values(
        database,
        models.StudentTerm.select(models.StudentTerm.id)
        .where(models.StudentTerm.term == term.id)
        .order_by(models.StudentTerm.id),
    )
    for start in range(0, len(rows), _AT_A_TIME):
        found = read_accounts(database, term, rows[start : start + _AT_A_TIME])
        yield {row: account for row, account in found.items() if account.charges.total_cents}


def _paid(
    rng: random.Random, accounts: dict[int, Account], share: float, when: datetime, origin: str
) -> Iterator[NewEntry]:
    """Most pay everything; the others a part.

    Args:
        share: of those who pay all.
    """
    for row, account in accounts.items():
        due = account.charges.total_cents
        by_card = rng.random() < 0.8
        if rng.random() > share:
            due = due * rng.randrange(20, 70) // 100 // 100 * 100
        if due > 0:
            yield NewEntry(
                row,
                EntryKind.PAYMENT,
                CounterAccount.CARDS if by_card else CounterAccount.DESK,
                due,
                f"{origin}:{row}",
                when,
                "by card" if by_card else "at the cash desk",
            )


def _anticipated_payment(
    database: PooledPostgresqlDatabase,
    rng: random.Random,
    accounts: dict[int, Account],
    aided: set[int],
    bram: int,
) -> None:
    own = models.StudentTerm
    students = dict(
        fetch_tuples(
            database,
            own.select(own.id, own.student).where(one_of(own.id, list(accounts))).order_by(own.id),
        )
    )
    rows = []
    for row, student in students.items():
        draw = rng.random()
        if student == bram:
            kind, label, cents = AnticipatedPaymentKind.AID, "the college's aid office", 108_000
        elif student in aided and draw < 0.7:
            kind, label = AnticipatedPaymentKind.AID, "the college's aid office"
            cents = rng.randrange(40_000, 260_000, 5_000)
        elif draw > 0.98:
            kind, label = AnticipatedPaymentKind.SPONSOR, rng.choice(_SPONSORS)
            cents = rng.randrange(50_000, 200_000, 5_000)
        elif draw > 0.975:
            kind, label, cents = AnticipatedPaymentKind.BENEFITS, "the service office", 150_000
        else:
            continue
        rows.append(
            {
                "student_term": row,
                "kind": kind,
                "label": label,
                "amount_cents": cents,
                "noted_at": MORNING - timedelta(days=20),
            }
        )
    if rows:
        write(database, models.AnticipatedPayment.insert_many(rows))


def _choose_bram(database: PooledPostgresqlDatabase, harvest: TermCatalogue) -> int:
    """A third-year resident student of the crowd becomes Bram Oakes."""
    own, person, student = models.Registration, models.Person, models.Student
    holder, hold = models.StudentTerm, models.Hold
    held = hold.select(hold.student).where(hold.lifted_at.is_null())
    query = (
        holder.select(holder.student, own.section_id)
        .join(own, on=own.student_term_id == holder.id)
        .join(student, on=student.id == holder.student)
        .where(
            holder.term == harvest.id,
            own.state == literal(RegistrationState.REGISTERED),
            student.cohort == "third year",
            student.rate_class == "",
            holder.standing == "good",
            student.id.not_in(held),
            student.id.not_in(
                person.select(person.id).where(person.username.in_([p.username for p in CAST]))
            ),
        )
        .order_by(holder.student, own.id)
    )
    sections: dict[int, list[int]] = {}
    for who, section in fetch_tuples(database, query):
        sections.setdefault(who, []).append(section)
    chosen = next(
        who
        for who, has in sections.items()
        if len(has) == 4 and sum(harvest.by_id[s].course.credits_least for s in has) >= 12
    )
    named = person.update(
        username=BRAM.username, full_name=BRAM.full_name, email=f"{BRAM.username}@brindlemere.example"
    )
    write(database, named.where(person.id == chosen))
    advisor = fetch_value(database, person.select(person.id).where(person.username == "idris"))
    write(database, student.update(receives_aid=True, advisor=advisor).where(student.id == chosen))
    return chosen


def _drop_of_bram(database: PooledPostgresqlDatabase, thaw: TermCatalogue, bram: int) -> None:
    """In Thaw, Bram dropped a course in the third week, with a refund of half."""
    own, happened = models.Registration, models.RegistrationEvent
    row = _row(database, bram, thaw.id)
    courses = own.select(own.id, own.section_id).where(own.student_term_id == row, own.credits > 0)
    dropped = [
        registration
        for registration, section in fetch_tuples(database, courses.order_by(own.id))
        if thaw.by_id[section].session.code == "full"
    ][:1]
    gone = own.update(state=RegistrationState.DROPPED, ended_at=_BRAM_DROPPED)
    write(database, gone.where(one_of(own.id, dropped)))
    events = [
        {"registration": each, "what": RegistrationEventKind.DROPPED, "at": _BRAM_DROPPED} for each in dropped
    ]
    write(database, happened.insert_many(events))


def _row(database: PooledPostgresqlDatabase, student: int, term_id: int) -> int:
    own = models.StudentTerm
    return int(fetch_value(database, own.select(own.id).where(own.student == student, own.term == term_id)))
