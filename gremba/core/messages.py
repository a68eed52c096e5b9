"""Messages to students: their kinds, and the texts made from their facts.

What is sent and kept is a kind with its facts; the words are made when it is read or mailed. A new kind is
one entry of :data:`TEMPLATES`.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from string import Formatter

from gremba.core.catalogue.term import Section

Facts = Mapping[str, str | int]


class MessageKind(StrEnum):
    """The kinds of messages."""

    OFFERED = "offered"
    REGISTERED = "registered"
    SEATS_TRADED = "seats traded"
    PASSED_OVER = "passed over"
    LAPSED = "lapsed"
    CLOSED = "closed"
    CANCELLED = "cancelled"
    LEFT = "left"
    LOOSENED = "loosened"
    DUE_SOON = "due soon"
    SEATS_LOST = "seats lost"
    INSTALLMENT_MISSED = "installment missed"
    PAID = "paid"
    REQUEST_PASSED_ON = "request passed on"
    REQUEST_QUESTION = "request question"
    REQUEST_GRANTED = "request granted"
    REQUEST_REFUSED = "request refused"
    REQUEST_CLOSED = "request closed"
    REQUEST_STUCK = "request stuck"
    REQUEST_THROUGH = "request through"
    LET_IN = "let in"
    GRANT_TAKEN_BACK = "grant taken back"
    REQUEST_CAME = "request came"
    REQUEST_ANSWERED = "request answered"
    REQUEST_WAITS = "request waits"
    WEEK_SENT = "week sent"
    SECTION_MOVED = "section moved"
    SECTION_OFF = "section off"
    WINDOW_SET = "window set"
    WINDOW_MOVED = "window moved"


OF_MONEY = frozenset(
    {MessageKind.DUE_SOON, MessageKind.SEATS_LOST, MessageKind.INSTALLMENT_MISSED, MessageKind.PAID}
)
"""What tells what somebody pays: for the student alone."""


@dataclass(frozen=True, slots=True)
class Template:
    """The wording of a kind, with its facts in braces.

    Attributes:
        body: sentences; one is left out where a fact that it names is not there.
        optional: facts that need not be there.
    """

    title: str
    body: tuple[str, ...]
    optional: frozenset[str] = frozenset()

    @property
    def needed(self) -> frozenset[str]:
        """The facts the wording requires."""
        return frozenset().union(*map(_facts_of, (self.title, *self.body))) - self.optional


def _facts_of(text: str) -> frozenset[str]:
    return frozenset(name for _, name, _, _ in Formatter().parse(text) if name)


TEMPLATES: Mapping[MessageKind, Template] = {
    MessageKind.OFFERED: Template(
        "A seat for you in {section}",
        (
            "A seat has come in {section} {number}, {times}.",
            "It is held for you until {until}.",
            "Accept or decline it under Waitlists; after that it goes to the next.",
            "At the moment every {full} that goes with it is full.",
        ),
        optional=frozenset({"full"}),
    ),
    MessageKind.REGISTERED: Template(
        "You are registered for {section}",
        (
            "A seat came in {section} {number}, {times}, and you were registered.",
            "{dropped} was given up for it.",
            "Confirmation {confirmation}.",
        ),
        optional=frozenset({"dropped"}),
    ),
    MessageKind.SEATS_TRADED: Template(
        "You are registered for {section}",
        (
            "You and {others} each waited for what another of you had: all of you changed places in one "
            "step.",
            "You have {section} {number} now, and {dropped} went to somebody who waited for it.",
            "Confirmation {confirmation}.",
        ),
    ),
    MessageKind.PASSED_OVER: Template(
        "Passed over for {section}",
        (
            "A seat came for {section} {number}, but you could not have it: {why}",
            "You keep your position and are looked at again when that has changed.",
        ),
    ),
    MessageKind.LAPSED: Template(
        "The offer for {section} has lapsed",
        (
            "Nobody answered in time, so the seat in {section} {number} went to the next.",
            "You may join its waitlist again, at the end.",
        ),
    ),
    MessageKind.CLOSED: Template(
        "The waitlist for {section} has closed",
        (
            "No seat came in {section} {number} in time.",
            "Should one be free now, whoever comes first has it.",
        ),
    ),
    MessageKind.CANCELLED: Template(
        "{section} {number} is cancelled",
        (
            "It does not take place, so your place on its waitlist has ended.",
            "Look for another section of the course.",
        ),
    ),
    MessageKind.LEFT: Template(
        "You no longer wait for {section}",
        (
            "Your place for section {number} has ended with what you put through: you have the course now, "
            "or chose that it ends with the section it would give up.",
        ),
    ),
    MessageKind.LOOSENED: Template(
        "You still wait for {section}",
        (
            "The section that you would have given up for section {number} is no longer yours, so your "
            "place gives nothing up now.",
        ),
    ),
    MessageKind.DUE_SOON: Template(
        "{amount} is due by {until}",
        (
            "{amount} is open of what must be paid by {until}.",
            "If it is not paid by then, your seats go to those who wait: {sections}.",
            "Pay it under Account, or speak to the cashier before then.",
        ),
    ),
    MessageKind.SEATS_LOST: Template(
        "Your seats for {term} were taken back",
        (
            "{why}, so these were dropped: {sections}.",
            "Confirmation {confirmation}.",
            "Pay what is open under Account and you may ask them back there until {until}, as long as seats "
            "are left.",
        ),
        optional=frozenset({"until"}),
    ),
    MessageKind.INSTALLMENT_MISSED: Template(
        "An installment was not paid",
        (
            "{amount} was due on {due}: {what}.",
            "Until it is paid a hold stops you from adding, swapping and waiting; pay under Account.",
        ),
    ),
    MessageKind.PAID: Template(
        "{amount} was paid",
        ("{amount} has come for {term}; your statement has it.",),
    ),
    MessageKind.REQUEST_PASSED_ON: Template(
        "Your request for {section} goes on",
        (
            "{by} has said yes to your request for {section} {number}.",
            "{who} has to say yes, too, and has it now.",
        ),
    ),
    MessageKind.REQUEST_QUESTION: Template(
        "A question about your request for {section}",
        ("{by} asks about {section} {number}: “{words}”", "Answer under Requests; it goes on then."),
    ),
    MessageKind.REQUEST_GRANTED: Template(
        "Yes to your request for {section}",
        (
            "{by} has said yes for {section} {number}.",
            "That covers: {lifted}.",
            "“{words}”",
            "It is good once, until {until}.",
            "Put it through from your cart or under Requests.",
            "It is put through for you as soon as nothing else stops it, {itself}.",
        ),
        optional=frozenset({"words", "itself"}),
    ),
    MessageKind.REQUEST_REFUSED: Template(
        "No to your request for {section}",
        ("{by} has said no for {section} {number}: “{words}”",),
    ),
    MessageKind.REQUEST_CLOSED: Template(
        "Your request for {section} has ended",
        ("Your request for {section} {number} has ended by itself: {why}.",),
    ),
    MessageKind.REQUEST_STUCK: Template(
        "{section} could not be put through yet",
        (
            "Your request for {section} {number} was granted, but something else stops it: {why}",
            "It is tried again until {until}; or put it through yourself once that is settled.",
        ),
    ),
    MessageKind.REQUEST_THROUGH: Template(
        "You are registered for {section}",
        (
            "Your request for {section} {number} was granted, and it was put through for you.",
            "Confirmation {confirmation}.",
        ),
    ),
    MessageKind.LET_IN: Template(
        "{by} lets you into {section}",
        (
            "{by} lets you into {section} {number}, {times}.",
            "That covers: {lifted}.",
            "“{words}”",
            "It is good once, until {until}.",
            "Add the section to your cart and put it through.",
        ),
        optional=frozenset({"words"}),
    ),
    MessageKind.GRANT_TAKEN_BACK: Template(
        "The yes for {section} was taken back",
        ("{by} has taken back what was granted for {section} {number}: “{words}”",),
    ),
    MessageKind.REQUEST_CAME: Template(
        "{student} asks for {section}",
        (
            "{student} asks you for {section} {number}.",
            "To be lifted: {lifted}.",
            "“{words}”",
            "Others who have asked since: {others}.",
            "Answer under Requests.",
        ),
        optional=frozenset({"others"}),
    ),
    MessageKind.REQUEST_ANSWERED: Template(
        "{student} has answered about {section}",
        (
            "{student} has answered your question about {section} {number}: “{words}”",
            "Answer under Requests.",
        ),
    ),
    MessageKind.REQUEST_WAITS: Template(
        "{student} waits for an answer about {section}",
        (
            "{student} has asked you for {section} {number}, and has had no answer since {since}.",
            "Others who wait for one about it: {others}.",
        ),
        optional=frozenset({"others"}),
    ),
    MessageKind.WEEK_SENT: Template(
        "Your week in {term}",
        ("{classes}", "The calendar file is attached to the mail."),
        optional=frozenset({"calendar"}),
    ),
    MessageKind.SECTION_MOVED: Template(
        "{section} has moved",
        (
            "{section} {number} meets {times} now; it was {before}.",
            "In your week it clashes with {clashes}: swap or drop one of them.",
        ),
        optional=frozenset({"clashes"}),
    ),
    MessageKind.SECTION_OFF: Template(
        "{section} does not take place",
        (
            "{section} {number}, which you are registered for, does not take place.",
            "Swap it for another section of the course, or drop it.",
        ),
    ),
    MessageKind.WINDOW_SET: Template(
        "Your window for {term}",
        (
            "You can register for {term} from {opens} until {closes}.",
            "Gather what you want in the cart before; Clearance says what is still to be done.",
        ),
    ),
    MessageKind.WINDOW_MOVED: Template(
        "Your window for {term} is another one",
        ("You can register for {term} from {opens} until {closes}; it was from {before}.", "{why}"),
        optional=frozenset({"why"}),
    ),
}


@dataclass(frozen=True, slots=True)
class Message:
    """A message to a student."""

    kind: MessageKind
    facts: Facts

    @property
    def title(self) -> str:
        """The subject line."""
        return TEMPLATES[self.kind].title.format_map(_Facts(self.facts))

    @property
    def body(self) -> str:
        """The text."""
        known = self.facts.keys()
        said = [s for s in TEMPLATES[self.kind].body if _facts_of(s) <= known]
        return " ".join(s.format_map(self.facts) for s in said)


class _Facts(dict[str, str | int]):
    def __missing__(self, name: str) -> str:
        # A message from before its title named this: what else it says is still told.
        return ""


def message(kind: MessageKind, section: Section, **facts: str | int | None) -> Message:
    """A message about a section; see :func:`message_of`."""
    return message_of(kind, section=section.name, number=section.reference_number, **facts)


def message_of(kind: MessageKind, **facts: str | int | None) -> Message:
    """A message.

    Args:
        facts: what its template names; None for one that there is not.

    Raises:
        ValueError: its template needs more facts, or knows nothing of one.
    """
    given: dict[str, str | int] = {name: value for name, value in facts.items() if value is not None}
    template = TEMPLATES[kind]
    if not template.needed <= given.keys() or not given.keys() <= template.needed | template.optional:
        raise ValueError(f"a message of kind {kind} is not told with {', '.join(sorted(given))}")
    return Message(kind, given)
