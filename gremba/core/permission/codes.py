"""Decides whether a permission code or grant is good for a section, a student and a moment."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime

from gremba.core.catalogue.term import Section
from gremba.core.permission.permission_code import PermissionCode
from gremba.core.registration.situation import Situation
from gremba.core.wording import listed

NO_SUCH = "there is no such code for this section and you"
"""Said of a code that does not exist, and alike of one for another section or student: who guesses
learns nothing."""


def permission_code_fault(
    permission_code: PermissionCode, section: Section, situation: Situation, now: datetime
) -> str | None:
    """Why a permission code is not valid for a section and student now; None if it is."""
    if permission_code.section != section.id:
        return NO_SUCH
    if permission_code.student is not None and permission_code.student != situation.student.id:
        return NO_SUCH
    if permission_code.used:
        return "it has been used already"
    if permission_code.expires_at is not None and permission_code.expires_at <= now:
        return "it has expired"
    return None


def with_what_is_granted(
    named: PermissionCode | None, section: Section, situation: Situation, now: datetime
) -> PermissionCode | None:
    """A valid permission code combined with all valid approvals for its section; None if there is neither."""
    good = [] if named is None else [named]
    good += [
        g for g in situation.grants[section.id] if permission_code_fault(g, section, situation, now) is None
    ]
    if len(good) < 2:
        return good[0] if good else None
    ends = [g.expires_at for g in good if g.expires_at is not None]
    return replace(
        good[0],
        waives=frozenset().union(*(g.waives for g in good)),
        by=listed(list(dict.fromkeys(g.by for g in good))),
        expires_at=min(ends, default=None),
        also=tuple(g.id for g in good[1:]),
    )
