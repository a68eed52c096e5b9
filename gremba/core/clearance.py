"""Clearance in words: what each item is about, and the one sentence that sums it up."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from gremba.core.situation import ClearanceKind, Situation
from gremba.core.windows import WindowState, WindowStatus
from gremba.core.wording import counted, duration, listed, moment


@dataclass(frozen=True, slots=True)
class ItemNotes:
    """What is said about an item.

    Attributes:
        owner: whose it is to clear.
        alone: the student can clear it alone, right there.
    """

    name: str
    about: str
    owner: str
    alone: bool


def item_notes(kind: ClearanceKind, situation: Situation) -> ItemNotes:
    """What is said about an item to this student."""
    advisor = situation.student.advisor or "your advisor"
    texts = situation.catalogue.policy.clearance
    return {
        ClearanceKind.AGREEMENT: ItemNotes(
            "Registration agreement", "What registering binds you to, and what a drop costs.", "you", True
        ),
        ClearanceKind.DETAILS: ItemNotes(
            "Contact details", "How the college reaches you, and whom it calls in an emergency.", "you", True
        ),
        ClearanceKind.SURVEY: ItemNotes("Survey", texts.survey_about, "you", True),
        ClearanceKind.ORIENTATION: ItemNotes("Orientation", texts.orientation_about, "you", True),
        ClearanceKind.RELEASE: ItemNotes(
            "Advisor’s release", f"{advisor} looks at your plan with you and releases you.", advisor, False
        ),
    }[kind]


def sentence(situation: Situation, window: WindowStatus, now: datetime) -> tuple[str, bool]:
    """The sentence at the top, and whether nothing but the window stands in the way."""
    things = []
    stopping = [h for h in situation.holds if "add" in h.stops]
    if stopping:
        things.append(counted(len(stopping), "hold", "holds"))
    things += [_SHORT[kind] for kind in situation.clearance_open]
    when = _when(situation, window, now)
    if not things:
        return f"You are clear. {when}", True
    stand = "stands" if len(things) == 1 and len(stopping) < 2 else "stand"
    text = f"{listed(things)} {stand} between you and registering. {when}"
    return text[0].upper() + text[1:], False


_SHORT = {
    ClearanceKind.AGREEMENT: "the agreement",
    ClearanceKind.DETAILS: "your contact details",
    ClearanceKind.SURVEY: "the survey",
    ClearanceKind.ORIENTATION: "orientation",
    ClearanceKind.RELEASE: "your advisor’s release",
}


def _when(situation: Situation, window: WindowStatus, now: datetime) -> str:
    name = situation.catalogue.name
    zone = situation.catalogue.calendar.zone
    found = window.window
    if window.state is WindowState.NONE or found is None:
        return f"You have no window for {name} yet; ask the registrar’s office."
    if window.state is WindowState.EARLY:
        left = duration((found.opens_at - now).total_seconds())
        return f"Your window opens on {moment(found.opens_at.astimezone(zone))}, in {left}."
    if window.state is WindowState.OPEN:
        return f"Your window is open until {moment(found.closes_at.astimezone(zone))}."
    return f"Your window closed on {moment(found.closes_at.astimezone(zone))}."
