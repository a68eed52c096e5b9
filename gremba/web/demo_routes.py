"""Routes that only the demo has: its people, and the clock."""

from __future__ import annotations

from fastapi import APIRouter, Request

from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.demo.cast import OFFICES, PASSWORD, STUDENTS
from gremba.demo.season import ZONE, moments
from gremba.web.schemas import ClockMove, DemoMoment, DemoPeople, DemoPerson
from gremba.web.services import Services, services_of

router = APIRouter(prefix="/api/demo")


def _demo(request: Request) -> Services:
    services = services_of(request)
    if not services.settings.demo:
        raise Problem(ProblemKind.NO_DEMO, "There is nothing at this address.")
    return services


@router.get("/people")
def list_demo_people(request: Request) -> DemoPeople:
    """List the people to sign in as, and the password they share."""
    _demo(request)
    return DemoPeople(
        password=PASSWORD,
        people=[
            DemoPerson(username=p.username, full_name=p.full_name, who=p.who, situation=p.situation)
            for p in (*STUDENTS, *OFFICES)
        ],
    )


@router.get("/moments")
def list_demo_moments(request: Request) -> list[DemoMoment]:
    """List the important moments of the demo's term."""
    _demo(request)
    return [DemoMoment(name=name, at=at) for name, at in moments()]


@router.put("/clock", status_code=204)
def move_clock(request: Request, move: ClockMove) -> None:
    """Set the campus clock, for everybody."""
    services = _demo(request)
    to = move.to if move.to.tzinfo else move.to.replace(tzinfo=ZONE)
    if not 2020 <= move.to.year <= 2040:
        raise Problem(ProblemKind.CLOCK_RANGE, "Name a time between 2020 and 2040.")
    if services.campus_clock is not None:
        services.campus_clock.move(to)
