"""Finds out whether a blocked change can be asked for, and whom to ask."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import datetime

from gremba.core.catalogue.term import Section
from gremba.core.permission.policy import Decider
from gremba.core.registration.findings import Finding, GoTo, Remedy, Severity, Target
from gremba.core.registration.rules import WAIVER_OF
from gremba.core.registration.rules.codes import RuleCode
from gremba.core.registration.situation import Situation
from gremba.core.states import Waiver
from gremba.core.waitlists.deadlines import closes_at
from gremba.core.wording import listed

HOPELESS = frozenset(
    {
        RuleCode.SECTION_UNKNOWN,
        RuleCode.SECTION_OTHER_TERM,
        RuleCode.SECTION_CANCELLED,
        RuleCode.COURSE_HELD_ALREADY,
        RuleCode.COURSE_TWICE_IN_CART,
        RuleCode.TOGETHER_CONTRADICTION,
    }
)
"""Codes of the rules that say of a section that there is nothing to ask for."""


def has_open_waitlist(section: Section, situation: Situation, now: datetime) -> bool:
    """Whether its waitlist can be joined."""
    catalogue = situation.catalogue
    closes = closes_at(section.session, catalogue.calendar, catalogue.policy)
    return section.waitlist_limit > 0 and now < closes and not section.cancelled


def can_be_asked(finding: Finding, section: Section, situation: Situation, now: datetime) -> bool:
    """Whether somebody could override what a rule says about a section."""
    what = WAIVER_OF.get(finding.code)
    policy = situation.catalogue.policy.permission
    if finding.severity is not Severity.STOP or what is None or not policy.may_be_asked(what):
        return False
    return what is not Waiver.SEATS or may_ask_for_seat(section, situation, now)


def may_ask_for_seat(section: Section, situation: Situation, now: datetime) -> bool:
    """Whether a seat beyond the limit can be requested: not if the waitlist is open, unless the college
    allows it."""
    policy = situation.catalogue.policy.permission
    return policy.seats_beside_waitlist or not has_open_waitlist(section, situation, now)


def who_decides(decider: Decider, section: Section, situation: Situation) -> str:
    """Who decides for a section and a student, as named in a sentence."""
    if decider is Decider.INSTRUCTOR:
        return listed(section.instructors, "or") or "the instructor"
    if decider is Decider.ADVISOR:
        return situation.student.advisor or "your advisor"
    return "the department" if decider is Decider.DEPARTMENT else "the registrar's office"


def with_asking(
    findings: Sequence[Finding], section: Section, situation: Situation, now: datetime
) -> tuple[Finding, ...]:
    """The findings of a blocked change; the first that somebody could override leads to a request."""
    if any(f.code in HOPELESS for f in findings):
        return tuple(findings)
    for index, finding in enumerate(findings):
        if can_be_asked(finding, section, situation, now):
            route = situation.catalogue.policy.permission.route([WAIVER_OF[finding.code]])
            who = who_decides(route[0], section, situation)
            way = Remedy(f"Ask {who} to allow it.", GoTo(Target.ASK))
            asked = replace(finding, remedies=(*finding.remedies, way))
            return (*findings[:index], asked, *findings[index + 1 :])
    return tuple(findings)
