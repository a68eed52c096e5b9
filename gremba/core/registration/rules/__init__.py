"""The rule book, in the order in which rules are read.

``docs/rules.md`` is generated from this table.
"""

from gremba.core.registration.rules import (
    access,
    drop,
    load,
    requisite,
    seats,
    section,
    time,
    together,
    wait,
    who,
)
from gremba.core.registration.rules.case import Case, EndState, Gate, Matter, Rule, Scope, Step
from gremba.core.states import Waiver

RULES: dict[str, tuple[Rule, ...]] = {
    "access": (
        access.term_not_open,
        access.term_closed,
        access.window_none,
        access.window_early,
        access.window_over,
        access.hold_stops,
        access.clearance_open,
        access.session_add_over,
    ),
    "section": (
        section.section_unknown,
        section.section_other_term,
        section.section_cancelled,
        section.course_held_already,
        section.course_twice_in_cart,
        section.repeat_counts,
        section.repeat_refused,
    ),
    "seats": (seats.seat_full, seats.seat_reserved, seats.seat_waitlist_first),
    "requisite": (
        requisite.requisite_unmet,
        requisite.requisite_provisional,
        requisite.corequisite_missing,
        requisite.placement_expired,
    ),
    "together": (
        together.linked_section_missing,
        together.linked_section_mismatch,
        together.bundle_incomplete,
        together.contradiction,
        together.next_choice,
        together.together_stopped,
        together.unfinished,
    ),
    "who": (
        who.restricted_program,
        who.restricted_standing,
        who.restricted_campus,
        who.restricted_cohort,
        who.consent_needed,
        who.consent_bad,
        who.consent_used,
        who.grant_used,
    ),
    "time": (time.time_conflict, time.time_travel),
    "load": (
        load.credits_over,
        load.credits_range,
        load.below_full_time,
        load.below_half_time,
        load.grading_not_offered,
        load.adjust_not_held,
        load.adjust_over,
    ),
    "drop": (
        drop.drop_not_held,
        drop.drop_last,
        drop.drop_hold,
        drop.drop_over,
        drop.drop_withdrawal,
        drop.drop_linked_sections,
        drop.drop_entry,
        drop.drop_aid,
    ),
    "wait": (
        wait.wait_none,
        wait.wait_closed,
        wait.wait_full,
        wait.wait_limit,
        wait.wait_course_held,
        wait.wait_twice,
        wait.wait_needs_swap,
        wait.wait_not_held,
        wait.wait_entry,
        wait.wait_named,
    ),
}
"""Families of rules, each in the order in which its findings are shown."""

LIFTABLE = frozenset(r.code for rules in RULES.values() for r in rules if r.lifted_by is not None)
"""Codes of the rules that a permission code could silence."""

WAIVER_OF = {r.code: r.lifted_by for rules in RULES.values() for r in rules if r.lifted_by is not None} | {
    # Only where the term still runs: what is asked for is judged again with the yes.
    access.term_closed.code: Waiver.LATE_ADD
}
"""By the code of a rule, what must be lifted for it to be silent."""

ABOUT_STUDENT = frozenset(r.code for r in RULES["access"] if r is not access.session_add_over)
"""Codes of the rules that stop whatever the student wants, for now: they say nothing of the section."""

__all__ = [
    "ABOUT_STUDENT",
    "LIFTABLE",
    "RULES",
    "WAIVER_OF",
    "Case",
    "EndState",
    "Gate",
    "Matter",
    "Rule",
    "Scope",
    "Step",
]
