"""Copies a past term: the same sections on the same weekdays, moved by whole weeks.

A day keeps its weekday. Days that lie at the ends of the old term lie at the ends of the new one, even
where that is longer or shorter; a deadline that would fall into a break comes before it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime, timedelta

from gremba.core.account.policy import AccountPolicy
from gremba.core.account.tariff import Tariff
from gremba.core.catalogue.calendar import Break, Calendar, RefundStep, TermSession

MOST_DAYS = 400
"""A term lasts no longer."""


YEARS = (1990, 2200)
"""Between which a term begins: what lies far outside is a slip."""


class TermDaysMistake(ValueError):
    """Dates that do not make a term; the text says what to change."""


def check_days(first: date, last: date, breaks: Sequence[Break]) -> None:
    """Validate the dates of a term.

    Raises:
        TermDaysMistake: they do not.
    """
    if not YEARS[0] <= first.year <= YEARS[1]:
        raise TermDaysMistake(f"A term begins between {YEARS[0]} and {YEARS[1]}.")
    if not first < last:
        raise TermDaysMistake("The last day must lie after the first.")
    if (last - first).days > MOST_DAYS:
        raise TermDaysMistake(f"A term lasts no longer than {MOST_DAYS} days.")
    ended = None
    for pause in breaks:
        if not first <= pause.first <= pause.last <= last:
            raise TermDaysMistake(f"The {pause.name} must lie within the term, its days in order.")
        if ended is not None and pause.first <= ended:
            raise TermDaysMistake("Write the breaks in order; none begins within another.")
        ended = pause.last


@dataclass(frozen=True)
class Forward:
    """Maps days of one term to days of another.

    Attributes:
        first, last: of the new term.
        breaks: of the new term, in order.
    """

    old: Calendar
    first: date
    last: date
    breaks: tuple[Break, ...] = ()

    @property
    def weeks(self) -> int:
        """The number of weeks between the two terms' first days."""
        return (_monday(self.first) - _monday(self.old.first)).days // 7

    def day(self, of_old: date) -> date:
        """The day of the new term that corresponds to one of the old."""
        if of_old <= self.old.first:
            return self.first
        if of_old >= self.old.last:
            return self.last
        return min(max(of_old + timedelta(weeks=self.weeks), self.first), self.last)

    def deadline(self, of_old: date) -> date:
        """The same for a deadline: if it would lie in a break, the day before the break."""
        moved = self.day(of_old)
        for pause in reversed(self.breaks):
            if pause.first <= moved <= pause.last:
                moved = max(self.first, pause.first - timedelta(1))
        return moved

    def moment(self, of_old: datetime) -> datetime:
        """A moment at the same hour of the same weekday; it may lie outside the term."""
        return of_old.astimezone(self.old.zone) + timedelta(weeks=self.weeks)

    def any_day(self, of_old: date) -> date:
        """A day that may lie outside the term."""
        return of_old + timedelta(weeks=self.weeks)

    def session(self, session: TermSession) -> TermSession:
        """A session with its deadlines."""
        first, last = self.day(session.first), self.day(session.last)
        withdraw_by = min(self.deadline(session.withdraw_by), last)
        drop_by = min(self.deadline(session.drop_by), withdraw_by)
        add_by = min(self.deadline(session.add_by), drop_by)
        steps = [RefundStep(self.deadline(step.through), step.percent) for step in session.refund_steps]
        return replace(
            session,
            first=first,
            last=last,
            add_by=add_by,
            drop_by=drop_by,
            withdraw_by=withdraw_by,
            refund_steps=_falling(steps),
        )

    def days_of(
        self, first: date, last: date, of_old: TermSession, session: TermSession
    ) -> tuple[date, date]:
        """The first and last day of a meeting.

        Where it goes with its session, it goes with the new one.

        Args:
            of_old, session: the session of its section, in the old term and in the new.
        """
        begins = session.first if first <= of_old.first else self.day(first)
        ends = session.last if last >= of_old.last else self.day(last)
        begins = min(max(begins, session.first), session.last)
        return begins, min(max(ends, begins), session.last)

    def tariff(self, tariff: Tariff) -> Tariff:
        """The same rates, with the late fee's date moved."""
        late = tariff.late_from
        return tariff if late is None else replace(tariff, late_from=self.any_day(late))

    def account(self, policy: AccountPolicy) -> AccountPolicy:
        """The same due dates, moved."""
        return replace(
            policy,
            due_dates=tuple(
                replace(
                    due,
                    at=self.moment(due.at),
                    registered_through=None
                    if due.registered_through is None
                    else self.any_day(due.registered_through),
                )
                for due in policy.due_dates
            ),
            installments=tuple(
                replace(
                    plan,
                    join_by=self.moment(plan.join_by),
                    parts=tuple(
                        replace(part, at=None if part.at is None else self.moment(part.at))
                        for part in plan.parts
                    ),
                )
                for plan in policy.installments
            ),
            ask_back_until=None if policy.ask_back_until is None else self.moment(policy.ask_back_until),
        )


def _falling(steps: Sequence[RefundStep]) -> tuple[RefundStep, ...]:
    """Of refund steps moved to one day, the first, which refunds most."""
    kept: list[RefundStep] = []
    for step in steps:
        if not kept or step.through > kept[-1].through:
            kept.append(step)
    return tuple(kept)


def _monday(day: date) -> date:
    return day - timedelta(days=day.weekday())


def free_numbers(taken: Sequence[str], many: int) -> int | None:
    """The start for a new term's reference numbers, so that no number is used in two terms: the first
    round thousand with enough free numbers. None if there is none.

    Args:
        taken: five figures each.
    """
    used = sorted({int(number) for number in taken})
    for start in range(10_000, 100_000, 1_000):
        if start + many > 100_000:
            return None
        if not any(start <= number < start + many for number in used):
            return start
    return None
