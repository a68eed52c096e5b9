"""Consent codes: whether one is good for a section, a student and a moment."""

from __future__ import annotations

from datetime import datetime

from gremba.core.catalogue import Section
from gremba.core.situation import Consent, Situation

NO_SUCH = "there is no such code for this section and you"
"""Said of a code that does not exist, and alike of one for another section or student: who guesses
learns nothing."""


def consent_fault(consent: Consent, section: Section, situation: Situation, now: datetime) -> str | None:
    """Why a consent code is not good for a section and student now; None if it is."""
    if consent.section != section.id:
        return NO_SUCH
    if consent.student is not None and consent.student != situation.student.id:
        return NO_SUCH
    if consent.used:
        return "it has been used already"
    if consent.expires_at is not None and consent.expires_at <= now:
        return "it has expired"
    return None
