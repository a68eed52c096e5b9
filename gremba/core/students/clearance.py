"""Clearance in words: what each item is about, and the sentence that sums it up."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from gremba.core.registration.situation import Situation
from gremba.core.states import ClearanceKind
from gremba.core.windows.opening import WindowState, WindowStatus
from gremba.core.wording import counted, duration, listed, moment


@dataclass(frozen=True, slots=True)
class ItemNotes:
    """The texts about a checklist item.

    Attributes:
        owner: whose it is to clear.
        alone: the student can clear it alone, right there.
    """

    name: str
    about: str
    owner: str
    alone: bool


def item_notes(kind: ClearanceKind, situation: Situation, to_student: bool = True) -> ItemNotes:
    """The texts about an item, for the student or for their advisor."""
    advisor = situation.student.advisor or "your advisor"
    texts = situation.catalogue.policy.clearance
    theirs = "you" if to_student else "the student"
    you, them = ("you", "you") if to_student else ("the student", "them")
    if kind is ClearanceKind.RELEASE and not to_student:
        return ItemNotes("Advisor’s release", "You look at the plan together, and release them.", "you", True)
    return {
        ClearanceKind.AGREEMENT: ItemNotes(
            "Registration agreement",
            f"What registering binds {them} to, and what a drop costs.",
            theirs,
            to_student,
        ),
        ClearanceKind.DETAILS: ItemNotes(
            "Contact details",
            f"How the college reaches {you}, and whom it calls in an emergency.",
            theirs,
            to_student,
        ),
        ClearanceKind.SURVEY: ItemNotes("Survey", texts.survey_about, theirs, to_student),
        ClearanceKind.ORIENTATION: ItemNotes("Orientation", texts.orientation_about, theirs, to_student),
        ClearanceKind.RELEASE: ItemNotes(
            "Advisor’s release", f"{advisor} looks at your plan with you and releases you.", advisor, False
        ),
    }[kind]


def sentence(
    situation: Situation, window: WindowStatus, now: datetime, to_student: bool = True
) -> tuple[str, bool]:
    """The status sentence, and whether only the window is still to come.

    Args:
        to_student: it is said to the student; else to somebody who looks at it for them.
    """
    things = []
    stopping = [h for h in situation.holds if "add" in h.stops]
    if stopping:
        things.append(counted(len(stopping), "hold", "holds"))
    short = _SHORT if to_student else _SHORT_OF_ANOTHER
    things += [short[kind] for kind in situation.clearance_open]
    when = _when(situation, window, now, to_student)
    name = situation.student.name
    if not things:
        return f"{'You are' if to_student else f'{name} is'} clear. {when}", True
    stand = "stands" if len(things) == 1 and len(stopping) < 2 else "stand"
    text = f"{listed(things)} {stand} between {'you' if to_student else name} and registering. {when}"
    return text[0].upper() + text[1:], False


_SHORT = {
    ClearanceKind.AGREEMENT: "the agreement",
    ClearanceKind.DETAILS: "your contact details",
    ClearanceKind.SURVEY: "the survey",
    ClearanceKind.ORIENTATION: "orientation",
    ClearanceKind.RELEASE: "your advisor’s release",
}
_SHORT_OF_ANOTHER = _SHORT | {
    ClearanceKind.DETAILS: "the contact details",
    ClearanceKind.RELEASE: "your release",
}


def _when(situation: Situation, window: WindowStatus, now: datetime, to_student: bool) -> str:
    name = situation.catalogue.name
    zone = situation.catalogue.calendar.zone
    found = window.window
    whose = "Your" if to_student else "Their"
    if window.state is WindowState.NONE or found is None:
        have = "You have" if to_student else "They have"
        return f"{have} no window for {name} yet; ask the registrar’s office."
    if window.state is WindowState.EARLY:
        left = duration((found.opens_at - now).total_seconds())
        return f"{whose} window opens on {moment(found.opens_at.astimezone(zone))}, in {left}."
    if window.state is WindowState.OPEN:
        return f"{whose} window is open until {moment(found.closes_at.astimezone(zone))}."
    return f"{whose} window closed on {moment(found.closes_at.astimezone(zone))}."
