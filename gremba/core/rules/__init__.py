"""The rule book, in the order in which it is read.

``docs/rules.md`` is generated from this table.
"""

from gremba.core.rules import access, drop, load, requisite, seats, section, time, together
from gremba.core.rules.case import Case, EndState, Rule, Scope, Step

RULES: dict[str, tuple[Rule, ...]] = {
    "access": (
        access.term_closed,
        access.window_none,
        access.window_early,
        access.window_over,
        access.hold_stops,
    ),
    "section": (
        section.section_unknown,
        section.section_other_term,
        section.section_cancelled,
        section.course_held_already,
        section.course_twice_in_cart,
    ),
    "seats": (seats.seat_full,),
    "requisite": (requisite.requisite_unmet, requisite.requisite_provisional),
    "together": (together.together_stopped,),
    "time": (time.time_conflict,),
    "load": (load.credits_over, load.below_full_time, load.below_half_time),
    "drop": (
        drop.drop_not_held,
        drop.drop_last,
        drop.drop_hold,
        drop.drop_over,
        drop.drop_withdrawal,
    ),
}
"""Families of rules, each in the order in which its findings are shown."""

__all__ = ["RULES", "Case", "EndState", "Rule", "Scope", "Step"]
