"""Routes of plans A, B, C. Submitting them is in :mod:`gremba.web.registration.submission_routes`."""

from __future__ import annotations

from fastapi import APIRouter, Request

from gremba.actions.registration import cart_plans
from gremba.actions.registration.cart_plans import JudgedPlans, look_at_plans
from gremba.core.registration.outcome import Result
from gremba.core.registration.plans import PlanFallback
from gremba.formats.decision_json import figures_data
from gremba.web.access.subject import About, SubjectId
from gremba.web.schemas import AskedSchema, FallbackChoice, PlanOrder, PlansResponse
from gremba.web.services import services_of
from gremba.web.timetables.timetable_routes import asked_of

router = APIRouter(prefix="/api/terms/{term}/cart/plans")


def _plans(request: Request, student: int, term: str) -> PlansResponse:
    return _response(look_at_plans(services_of(request).context, student, term))


@router.get("")
def read_plans(request: Request, subject_id: SubjectId, term: str) -> PlansResponse:
    """The plans, and what submitting them would do: now, or when the window opens."""
    return _plans(request, subject_id, term)


@router.post("")
def put_plan(request: Request, about: About, term: str, asked: AskedSchema) -> PlansResponse:
    """Add the timetable named with “show” to the cart's plans, in last place."""
    services = services_of(request)
    asked_for = asked_of(about.student_id, term, asked)
    cart_plans.put_plan(services.context, services.board, about, asked_for)
    return _plans(request, about.student_id, term)


@router.put("/order")
def order_plans(request: Request, about: About, term: str, order: PlanOrder) -> PlansResponse:
    """Reorder the plans; those not named are removed."""
    cart_plans.put_plans_in_order(services_of(request).context, about, term, order.ids)
    return _plans(request, about.student_id, term)


@router.put("/fallback")
def choose_plan_fallback(request: Request, about: About, term: str, choice: FallbackChoice) -> PlansResponse:
    """Choose what happens if no plan can be registered completely."""
    fallback = PlanFallback(choice.fallback)
    cart_plans.choose_fallback(services_of(request).context, about, term, fallback)
    return _plans(request, about.student_id, term)


def _response(judged: JudgedPlans) -> PlansResponse:
    by_number = judged.term.by_number
    decided = judged.decided
    outcomes = () if decided is None else decided.decision.outcomes
    plans = [
        {
            "id": plan.id,
            "name": verdict.name,
            "changes": [
                {
                    "kind": c.kind.value,
                    "section": {
                        "name": by_number[c.number].name if c.number in by_number else "",
                        "number": c.number,
                    },
                    "in_exchange": c.in_exchange,
                }
                for c in plan.changes
            ],
            "is_whole": verdict.is_whole,
            "stops": [{"section": section, "text": stop.text} for section, stop in verdict.stops],
        }
        for plan, verdict in zip(judged.plans, judged.verdicts, strict=True)
    ]
    sends = {
        "plans": [
            [
                {"kind": c.kind.value, "number": c.number, "in_exchange": c.in_exchange or None}
                for c in plan.changes
            ]
            for plan in judged.plans
        ],
        "fallback": judged.fallback.value,
    }
    return PlansResponse.model_validate(
        {
            "plans": plans,
            "fallback": judged.fallback.value,
            "taken": "" if decided is None or decided.taken is None else decided.verdicts[decided.taken].name,
            "passing": sum(1 for o in outcomes if o.result is not Result.REFUSED),
            "ahead": judged.as_of != judged.now,
            "as_of": judged.as_of.astimezone(judged.term.calendar.zone),
            "before": decided and figures_data(decided.decision.before),
            "after": decided and figures_data(decided.decision.after),
            "sends": sends if plans else None,
        }
    )
