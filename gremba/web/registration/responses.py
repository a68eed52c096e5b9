"""Turns decisions, carts and schedules into responses."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date, datetime
from zoneinfo import ZoneInfo

import orjson

from gremba.actions.registration.look_at_cart import JudgedCart
from gremba.actions.registration.process_submissions import Confirmation
from gremba.actions.students.clearance import ClearanceOverview
from gremba.core.account.due import DueChange
from gremba.core.catalogue.calendar import Calendar
from gremba.core.catalogue.search.fit import week_ahead
from gremba.core.catalogue.seats import SeatFigures
from gremba.core.catalogue.term import Section, TermCatalogue, earns_credits
from gremba.core.registration.changes import Change, Kind
from gremba.core.registration.deciding.effort import MAX_BACKUPS
from gremba.core.registration.findings import Remedy, Severity
from gremba.core.registration.outcome import Figures, Outcome, Result
from gremba.core.registration.rules import LIFTABLE
from gremba.core.registration.rules.requisite import requisite_evidence
from gremba.core.registration.section_action import section_actions
from gremba.core.states import ClearedBy
from gremba.core.windows.opening import WindowStatus
from gremba.core.wording import listed, pattern, times_text
from gremba.formats.decision_json import (
    evidence_data,
    outcome_data,
    remedy_data,
    title_of,
)
from gremba.store.students.holds import OVERDUE, HoldLine
from gremba.web import schemas
from gremba.web.registration.cart_schemas import ActionOnSection, DueChangeResponse

_NO_FIGURES = SeatFigures(0, 0)


def cart_response(judged: JudgedCart) -> schemas.CartResponse:
    """A cart with its results."""
    zone = judged.term.calendar.zone
    return schemas.CartResponse(
        term=judged.term.code,
        student=judged.situation.student.name,
        as_of=judged.as_of.astimezone(zone),
        ahead=judged.as_of != judged.now,
        window=window_response(judged.window, zone),
        mode=judged.cart.mode,
        version=judged.cart.token,
        changes=[
            _change(judged, index, group)
            for group in judged.groups
            for index in group
            if index < len(judged.cart.changes)
        ],
        due=due_change(judged.due, zone),
        passing=len(judged.passing),
        sends=_sends(judged),
        actions=[
            ActionOnSection(
                number=a.section.reference_number,
                state=a.state,
                exchange=None if a.exchange is None else judged.cart.changes[a.exchange].id,
                in_exchange=a.in_exchange,
            )
            for a in section_actions(judged.situation, judged.cart.request.changes)
        ],
        linked_sections_added=[_outcome(o) for o in judged.decision.outcomes[len(judged.cart.changes) :]],
        before=_figures(judged.decision.before),
        after=_figures(judged.decision.after),
        credit_limit=judged.situation.credit_limit,
        week=[s.reference_number for s in week_ahead(judged.decision)],
        once_clear=_once_clear(judged),
        granted=[
            schemas.GrantedSection(
                number=judged.term.by_id[permission_code.section].reference_number,
                name=judged.term.by_id[permission_code.section].name,
                by=permission_code.by,
                until=_local(permission_code.expires_at, zone),
                in_exchange=_exchanged(judged.term, changes),
                changes=[_change_wanted(c) for c in changes],
            )
            for permission_code, changes in judged.granted
        ],
    )


def _local(at: datetime | None, zone: ZoneInfo) -> datetime | None:
    return None if at is None else at.astimezone(zone)


def _outcome(outcome: Outcome) -> schemas.OutcomeResponse:
    return schemas.OutcomeResponse.model_validate(outcome_data(outcome))


def _remedy(remedy: Remedy) -> schemas.RemedyResponse:
    return schemas.RemedyResponse.model_validate(remedy_data(remedy))


def _figures(figures: Figures) -> schemas.FiguresResponse:
    return schemas.FiguresResponse.model_validate(figures, from_attributes=True)


def _once_clear(judged: JudgedCart) -> schemas.OnceClear | None:
    if judged.once_clear is None:
        return None
    return schemas.OnceClear(
        passing=sum(o.result is not Result.REFUSED for o in judged.once_clear.outcomes),
        after=_figures(judged.once_clear.after),
    )


def due_change(due: DueChange | None, zone: ZoneInfo) -> DueChangeResponse | None:
    """The next amount due, now and after."""
    if due is None:
        return None
    return DueChangeResponse(
        at=_local(due.at, zone),
        before_cents=due.before_cents,
        after_cents=due.after_cents,
        over=due.is_over,
    )


def _sends(judged: JudgedCart) -> schemas.SubmissionWanted | None:
    request = judged.sends
    if request is None:
        return None
    changes = [_change_wanted(c) for c in request.changes]
    return schemas.SubmissionWanted(mode=request.mode, cart=judged.cart.token, changes=changes)


def _exchanged(term: TermCatalogue, changes: Sequence[Change]) -> str:
    """The sections that swaps give up, by name."""
    given_up = [term.by_number[c.in_exchange] for c in changes if c.in_exchange in term.by_number]
    return listed([f"{s.name} {s.reference_number}" for s in given_up])


def _change_wanted(change: Change) -> schemas.ChangeWanted:
    """A change as it is submitted."""
    return schemas.ChangeWanted(
        kind=change.kind,
        number=change.number,
        grading=change.grading,
        credits=change.credits,
        in_exchange=change.in_exchange or None,
        permission_code=change.permission_code,
        alternatives=[list(numbers) for numbers in change.alternatives],
        wait_if_full=change.wait_if_full,
        leaves_waitlists=change.leaves_waitlists,
    )


def window_response(window: WindowStatus, zone: ZoneInfo) -> schemas.WindowResponse:
    """A window's state, with its times in the term's zone."""
    found = window.window
    return schemas.WindowResponse(
        state=window.state,
        opens_at=None if found is None else found.opens_at.astimezone(zone),
        closes_at=None if found is None else found.closes_at.astimezone(zone),
    )


def _change(judged: JudgedCart, index: int, group: tuple[int, ...]) -> schemas.CartChangeResponse:
    there, outcome = judged.cart.changes[index], judged.decision.outcomes[index]
    other = judged.otherwise.outcomes[index]
    section, change = outcome.section, outcome.change
    wants = change.kind in (Kind.ADD, Kind.SWAP, Kind.WAIT)
    given_up = judged.term.by_number.get(change.in_exchange)
    today = judged.term.calendar.local_date(judged.as_of)
    evidence = None
    if section is not None and wants and any("requisite" in f.code for f in outcome.findings):
        evidence = requisite_evidence(judged.situation, judged.decision.held, section)
    original = judged.term.by_number[there.change.number]
    is_wanted = there.change.kind in (Kind.ADD, Kind.SWAP)
    return schemas.CartChangeResponse(
        id=there.id,
        version=there.version,
        original=schemas.SectionName(name=original.name, number=there.change.number),
        group=group[0],
        together=_together(judged, group),
        alternatives=[
            _next_choice(judged.term, numbers, change.number)
            for numbers in there.change.alternatives
            if numbers[0] in judged.term.by_number
        ],
        takes_next=is_wanted and len(there.change.alternatives) < MAX_BACKUPS,
        may_wait=is_wanted and section is not None and section.waitlist_limit > 0,
        wait_if_full=there.change.wait_if_full,
        outcome=_outcome(outcome),
        in_exchange_name=given_up.name if given_up else "",
        times=times_text(section.meetings) if section else "",
        seats=seats_response(section, judged.situation.seats, today) if section and wants else None,
        options=_options(judged, outcome),
        instead=[_remedy(r) for r in judged.instead.get(index, ())],
        requisites=None
        if evidence is None
        else schemas.EvidenceResponse.model_validate(evidence_data(evidence)),
        refund_through=_refund_through(judged, outcome, today),
        otherwise=other.result if other.result is not outcome.result else None,
    )


def _refund_through(judged: JudgedCart, outcome: Outcome, today: date) -> date | None:
    """The last day of the current refund for what a change gives up."""
    steps = [seat.held.section.session.refund_step(today) for seat in outcome.drops if seat.refund_cents]
    return min([step.through for step in steps if step is not None], default=None)


def _together(judged: JudgedCart, group: tuple[int, ...]) -> str:
    sections = [judged.decision.outcomes[index].section for index in group]
    if len(group) < 2:
        return ""
    bundles = {s.bundle for s in sections if s is not None and s.bundle}
    if bundles:
        return f"The bundle “{bundles.pop()}”: together or not at all"
    return "Go through together or not at all"


def _next_choice(term: TermCatalogue, numbers: tuple[str, ...], taken: str) -> schemas.NextChoice:
    section = term.by_number[numbers[0]]
    return schemas.NextChoice(
        numbers=list(numbers),
        name=section.name,
        times=times_text(section.meetings),
        taken=numbers[0] == taken,
    )


def _options(judged: JudgedCart, outcome: Outcome) -> schemas.OptionsResponse | None:
    section, change = outcome.section, outcome.change
    if section is None:
        return None
    loosens = [
        f"{p.section.name} {p.section.reference_number}" for p in judged.situation.entries_touched_by(change)
    ]
    if change.kind is Kind.DROP and not loosens:
        return None
    could_lift = any(f.severity is Severity.STOP and f.code in LIFTABLE for f in outcome.findings)
    is_drop = change.kind is Kind.DROP
    least, most = _credits_range(section)
    return schemas.OptionsResponse(
        gradings=[] if is_drop else _gradings(section),
        grading=outcome.grading,
        credits_least=least,
        credits_most=least if is_drop else most,
        credits=outcome.credits,
        varies=not is_drop and least < most and earns_credits(outcome.grading),
        permission_code=change.permission_code,
        takes_consent=change.kind not in (Kind.ADJUST, Kind.DROP)
        and (bool(change.permission_code) or could_lift),
        leaves_waitlists=change.leaves_waitlists,
        loosens=loosens,
    )


def _gradings(section: Section) -> list[schemas.GradingResponse]:
    """The grading bases of a section."""
    if not section.carries_credit:
        return []
    return [schemas.GradingResponse(name=g, earns_credits=earns_credits(g)) for g in section.course.gradings]


def _credits_range(section: Section) -> tuple[float, float]:
    if not section.carries_credit:
        return 0.0, 0.0
    return section.course.credits_least, section.course.credits_most


def clearance_response(own: ClearanceOverview) -> schemas.ClearanceResponse:
    """The registration checklist."""
    situation = own.situation
    texts = situation.catalogue.policy.clearance
    return schemas.ClearanceResponse(
        sentence=own.sentence,
        clear=own.is_clear,
        window=window_response(own.window, situation.catalogue.calendar.zone),
        items=[
            schemas.ItemResponse(
                kind=item.kind,
                name=item.notes.name,
                about=item.notes.about,
                owner=item.notes.owner,
                alone=item.notes.alone,
                done=item.is_done,
                done_at=item.line.done_at,
                done_by=item.line.done_by,
            )
            for item in own.items
            if item.line is not None
        ],
        holds=[hold_response(h, own.waiting.get(h.id)) for h in own.holds],
        standing=schemas.StandingResponse(
            name=situation.student.standing,
            class_standing=situation.class_standing,
            credits_earned=situation.credits_earned,
            credit_limit=situation.credit_limit,
            own_limit=situation.student.credit_limit is not None,
        ),
        email=own.email,
        details=None
        if own.details is None
        else schemas.DetailsSchema.model_validate(own.details, from_attributes=True),
        agreement=list(texts.agreement),
        orientation=list(texts.orientation),
        survey=[schemas.QuestionResponse.model_validate(q, from_attributes=True) for q in texts.survey],
    )


def hold_response(hold: HoldLine, waiting: str | None) -> schemas.HoldResponse:
    """A hold and its state."""
    return schemas.HoldResponse(
        id=hold.id,
        reason=hold.reason,
        office=hold.office,
        contact=hold.contact,
        stops=list(hold.stops),
        amount_cents=hold.amount_cents,
        payable=hold.amount_cents is not None
        and hold.cleared_by == ClearedBy.STUDENT
        and hold.lifted_at is None,
        by_account=hold.kind == OVERDUE and hold.lifted_at is None,
        placed_at=hold.placed_at,
        lifted_at=hold.lifted_at,
        lifted_why=hold.lifted_why,
        waiting_payment=waiting if hold.lifted_at is None else None,
    )


def seats_response(section: Section, seats: Mapping[int, SeatFigures], on: date) -> schemas.SeatsResponse:
    """A section's seats, for display."""
    figures = seats.get(section.pool, _NO_FIGURES)
    return schemas.SeatsResponse(
        limit=figures.limit,
        taken=figures.taken,
        offered=figures.offered,
        left=figures.left,
        reserved=figures.reserved(on) if figures.reserved_seats else 0,
        waiting=figures.waiting,
        waitlist_limit=section.waitlist_limit,
    )


def section_response(
    section: Section, calendar: Calendar, credits: float, grading: str
) -> schemas.SectionResponse:
    """A section with all its dates."""
    return schemas.SectionResponse(
        number=section.reference_number,
        name=section.name,
        course=section.course.key,
        title=title_of(section),
        component=section.component,
        delivery=section.delivery,
        campus=section.campus,
        session=section.session.name,
        first_day=section.session.first,
        last_day=section.session.last,
        instructors=list(section.instructors),
        notes=section.notes,
        credits=credits,
        grading=grading,
        earns_credits=section.carries_credit and earns_credits(grading),
        gradings=_gradings(section),
        credits_least=_credits_range(section)[0],
        credits_most=_credits_range(section)[1],
        adjust_by=section.session.drop_by,
        meetings=[
            schemas.MeetingResponse(
                pattern=pattern(m),
                start=m.start,
                end=m.end,
                room=m.room,
                campus=m.campus,
                dates=list(calendar.dates(m.days)),
            )
            for m in section.meetings
        ],
    )


def term_response(term: TermCatalogue) -> schemas.TermResponse:
    """A term with its sessions, deadlines and breaks."""
    calendar = term.calendar
    return schemas.TermResponse(
        code=term.code,
        name=term.name,
        zone=str(calendar.zone),
        first_day=calendar.first,
        last_day=calendar.last,
        breaks=[
            schemas.BreakResponse(name=b.name, first_day=b.first, last_day=b.last) for b in calendar.breaks
        ],
        sessions=[
            schemas.TermSessionResponse(
                code=b.code,
                name=b.name,
                first_day=b.first,
                last_day=b.last,
                add_by=b.add_by,
                drop_by=b.drop_by,
                withdraw_by=b.withdraw_by,
            )
            for b in calendar.sessions.values()
        ],
    )


def confirmation_json(confirmation: Confirmation, term: str) -> bytes:
    """A ConfirmationResponse around a body that is already JSON."""
    return orjson.dumps(
        {
            "id": confirmation.id,
            "term": term,
            "sent_at": confirmation.sent_at,
            "repeated": confirmation.repeated,
            "body": orjson.Fragment(confirmation.body),
        }
    )
