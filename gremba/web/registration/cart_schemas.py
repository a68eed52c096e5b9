"""Schemas of the cart, submissions and confirmations. Amounts are in cents."""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated, Literal

from pydantic import Field, StringConstraints, model_validator

from gremba.core.registration.changes import Kind, Mode
from gremba.core.registration.findings import Severity
from gremba.core.registration.outcome import Result
from gremba.core.registration.plans import MOST_PLANS
from gremba.core.registration.section_action import SectionState
from gremba.web.catalogue.seat_schemas import SeatsResponse
from gremba.web.catalogue.term_schemas import GradingResponse, WindowResponse
from gremba.web.schema_base import Number, Schema

MOST_NAMED = 200
"""So many changes are read at the most; how many a cart may hold, and a sending carry, is the term's
policy."""


def check_exchange(kind: str, number: str, in_exchange: str | None) -> None:
    """Check that a change names the section it gives up if, and only if, it must.

    Raises:
        ValueError: it does not; says what would do.
    """
    if kind == "swap" and not in_exchange:
        raise ValueError("A swap names the section that is given up, with “in_exchange”.")
    if kind not in ("swap", "wait") and in_exchange:
        raise ValueError("Only a swap, or a wait, names a section that is given up.")
    if in_exchange == number:
        raise ValueError("A section cannot be given up for itself; name another one.")


class ProposedChangeSchema(Schema):
    """A change that can be added to the cart."""

    kind: Kind
    number: Number
    in_exchange: Annotated[str, StringConstraints(pattern=r"^([0-9]{5})?$")] = Field(
        "", description="For a swap or wait: the section held that is given up"
    )

    @model_validator(mode="after")
    def _gives_up_what_it_may(self) -> ProposedChangeSchema:
        check_exchange(self.kind, self.number, self.in_exchange)
        return self


class ActionResponse(Schema):
    """What the page can do about a finding."""

    do: Literal["put", "instead", "out", "up", "see", "go"] = Field(
        description="Put changes into the cart; put another section in this change's place; take "
        "others out of the cart; move this change to its top; see what stops another one; or go where "
        "the matter is settled"
    )
    changes: list[ProposedChangeSchema]
    numbers: list[Number] = Field(
        description="The section that comes instead, goes out or is to be seen, then its linked sections"
    )
    target: Literal["clearance", "payment", "consent", "options", "ask"] | None


class RemedyResponse(Schema):
    """A way to resolve a finding."""

    text: str
    action: ActionResponse | None


class FindingResponse(Schema):
    """What a rule says about a change."""

    code: str
    severity: Severity
    text: str
    facts: dict[str, str | int | float]
    remedies: list[RemedyResponse]
    ask: str
    common: bool = Field(False, description="It stands on every change alike, whatever it is about")


class SectionName(Schema):
    """A section by its name and number."""

    name: str
    number: str


class OutcomeResponse(Schema):
    """A change and its result."""

    kind: Kind
    number: str
    name: str
    title: str
    in_exchange: str = ""
    original: str = Field("", description="Where a next choice was taken: the first")
    grading: str
    credits: float
    unusual: bool = Field(False, description="The grading basis is not the usual one")
    result: Result
    withdrawn: bool
    refund_cents: int
    also_dropped: list[SectionName] = []
    findings: list[FindingResponse]


class EvidenceResponse(Schema):
    """A requisite, or a part of one, with the evidence from the record."""

    need: str
    fact: str
    state: Literal["met", "provisional", "unmet"]
    least: int | None = Field(description="How many of the parts are needed; None for all")
    parts: list[EvidenceResponse]


class FiguresResponse(Schema):
    """Credits, load, and charges."""

    credits: float
    load: str
    full_time: bool
    charge_cents: int


class OptionsResponse(Schema):
    """The options of a change, and those chosen."""

    gradings: list[GradingResponse]
    grading: str
    credits_least: float
    credits_most: float
    credits: float
    varies: bool = Field(description="Credits can be chosen with that grading basis")
    permission_code: str
    takes_consent: bool = Field(description="A permission code would be of use")
    leaves_waitlists: bool
    loosens: list[str] = Field(
        description="Sections waited for that would give up this one: their places end or stay"
    )


class NextChoice(Schema):
    """A backup section."""

    numbers: list[Number] = Field(description="The section, then linked sections named with it")
    name: str
    times: str
    taken: bool


class CartChangeResponse(Schema):
    """A change in the cart with its result."""

    id: int
    version: int = Field(description="Grows with everything that is chosen for it")
    original: SectionName = Field(description="The section wished for first")
    group: int = Field(description="Changes with the same figure belong together")
    together: str = Field(description="Why they do, in a few words; empty where it stands alone")
    alternatives: list[NextChoice]
    takes_next: bool = Field(description="It may be given one more choice")
    may_wait: bool = Field(description="It can wait where it is full")
    wait_if_full: bool
    outcome: OutcomeResponse
    in_exchange_name: str = Field(description="For a swap: the name of the section given up")
    times: str = Field(description="When the section meets, in one line")
    seats: SeatsResponse | None = Field(description="For an add or swap")
    options: OptionsResponse | None
    instead: list[RemedyResponse] = Field(description="Sections that would go through in its place")
    requisites: EvidenceResponse | None
    refund_through: date | None = Field(
        description="For a drop or swap: the last day on which as much is given back"
    )
    otherwise: Result | None = Field(
        description="What would become of it under the other choice, where that differs"
    )


class ActionOnSection(Schema):
    """What can be done with a section. Sections not listed can be added or waitlisted."""

    number: Number
    state: SectionState
    exchange: int | None = Field(description="The change in the cart in whose place it can be taken")
    in_exchange: str = Field(description="The section held that it would be swapped for")


class DueChangeResponse(Schema):
    """The amount due by the next date, now and after."""

    at: datetime | None
    before_cents: int
    after_cents: int
    over: bool = Field(description="The date has passed: it is due at once")


class OnceClear(Schema):
    """What the cart would lead to once the student is cleared."""

    passing: int
    after: FiguresResponse


class GrantedSection(Schema):
    """A section for which an approval has not been used yet."""

    number: Number
    name: str
    by: str
    until: datetime | None
    in_exchange: str = Field(description="What is given up for it, by name; empty for nothing")
    changes: list[ChangeWanted] = Field(description="What puts it through")


class CartResponse(Schema):
    """The cart, and what submitting it would do."""

    term: str
    student: str = Field(description="Whose cart it is")
    as_of: datetime = Field(description="The time the verdicts hold for: now, or the opening")
    ahead: bool = Field(description="The window is not open yet, and as_of is its opening")
    window: WindowResponse
    mode: Mode
    version: str = Field(description="Tells whether the cart still stands as it was seen")
    changes: list[CartChangeResponse]
    sends: SubmissionWanted | None = Field(
        description="What is to be sent to put it through; None for nothing"
    )
    due: DueChangeResponse | None = Field(description="None where the term has no due dates")
    passing: int = Field(description="So many changes would go through or wait")
    actions: list[ActionOnSection]
    linked_sections_added: list[OutcomeResponse] = Field(
        description="Linked sections that next choices bring along"
    )
    before: FiguresResponse
    after: FiguresResponse
    credit_limit: float
    week: list[Number] = Field(description="The sections of the week that the cart leads to")
    granted: list[GrantedSection]
    once_clear: OnceClear | None = Field(description="None where nothing is still to be cleared")


class PastedWanted(Schema):
    """Reference numbers in any form, and what to do with them."""

    kind: Literal["add", "drop", "swap", "wait"] = "add"
    text: Annotated[str, StringConstraints(max_length=200_000)]
    in_exchange: Number | None = None

    @model_validator(mode="after")
    def _gives_up_what_it_may(self) -> PastedWanted:
        check_exchange(self.kind, self.text.strip(), self.in_exchange)
        return self


class ProposedChanges(Schema):
    """Changes to add to the cart, all or none."""

    changes: Annotated[list[ProposedChangeSchema], Field(min_length=1, max_length=MOST_NAMED)]


class Instead(Schema):
    """The section that replaces a change's section, then its linked sections."""

    version: int = Field(description="The change's version as it was seen")
    numbers: Annotated[list[Number], Field(min_length=1, max_length=8)]


Credits = Annotated[float, Field(strict=True, ge=0, le=30, allow_inf_nan=False)]
Grading = Annotated[str, StringConstraints(max_length=40)]
Code = Annotated[str, StringConstraints(max_length=40)]
Alternatives = Annotated[
    list[Annotated[list[Number], Field(min_length=1, max_length=4)]], Field(max_length=12)
]
"""Sections to try in turn, each with linked sections named with it."""


class Choices(Schema):
    """The options of a change; those left out stay as they are."""

    version: int = Field(description="The change's version as it was seen")
    grading: Grading | None = None
    credits: Credits | None = None
    permission_code: Code = Field(default_factory=str)
    wait_if_full: bool = Field(default_factory=bool, description="It waits where there is no seat")
    leaves_waitlists: bool = Field(
        default_factory=bool, description="A waitlist entry that would give up the section ends with it"
    )
    alternatives: Alternatives = Field(default_factory=list)


class ReportResponse(Schema):
    """The result for one piece of the pasted text."""

    piece: str
    taken: bool
    text: str
    mend: bool = Field(description="It may be a slip, to be corrected and given again")


class PastedResponse(Schema):
    """The results for the pasted text, and the cart."""

    reports: list[ReportResponse]
    cart: CartResponse


class Order(Schema):
    """The ids of the cart's changes in the new order."""

    ids: Annotated[list[int], Field(max_length=100)]


class ModeChoice(Schema):
    """Each change by itself, or all or nothing."""

    mode: Mode


class ChangeWanted(Schema):
    """A change to submit."""

    kind: Kind
    number: Number
    grading: Grading | None = None
    credits: Credits | None = None
    in_exchange: Number | None = Field(
        None, description="For a swap: the section given up; for a wait: when the seat comes"
    )
    permission_code: Code = ""
    alternatives: Alternatives = Field(default_factory=list)
    wait_if_full: bool = False
    leaves_waitlists: bool = False

    @model_validator(mode="after")
    def _gives_up_what_it_may(self) -> ChangeWanted:
        check_exchange(self.kind, self.number, self.in_exchange)
        return self


class SubmissionWanted(Schema):
    """The changes to submit, in order of priority; or plans, of which the first that can be registered
    completely is used."""

    changes: Annotated[list[ChangeWanted], Field(max_length=MOST_NAMED)] = []
    mode: Mode = Mode.EACH
    plans: Annotated[list[list[ChangeWanted]], Field(max_length=MOST_PLANS)] = []
    fallback: Annotated[
        Literal["nothing", "best part"], Field(description="What is done where no plan goes through whole")
    ] = "nothing"
    cart: str | None = Field(
        None,
        max_length=64,
        description="The version of the cart that is sent; if it stands otherwise by now nothing is "
        "put through",
    )

    @model_validator(mode="after")
    def _says_what(self) -> SubmissionWanted:
        if bool(self.changes) == bool(self.plans):
            raise ValueError("Name at least one change, or plans instead; not both.")
        if any(not 0 < len(plan) <= MOST_NAMED for plan in self.plans):
            raise ValueError(f"A plan holds one change at least, and no more than {MOST_NAMED}.")
        return self


class PlanStop(Schema):
    """What blocks a plan."""

    section: str = Field(description="The name of the section that it is about")
    text: str


class PlanOutcome(Schema):
    """The result of one of several plans."""

    name: str = Field(description="A, B, C")
    taken: bool
    stops: list[PlanStop]


class ConfirmationBody(Schema):
    """What was submitted and the results; never altered later."""

    mode: Mode
    sent_by: str
    plans: list[PlanOutcome] = Field([], description="Where plans were sent: those that were looked at")
    outcomes: list[OutcomeResponse]
    before: FiguresResponse
    after: FiguresResponse


class ConfirmationResponse(Schema):
    """A confirmation."""

    id: int
    term: str
    sent_at: datetime
    repeated: bool = Field(description="The same key had been sent before; this is its confirmation")
    body: ConfirmationBody


class ConfirmationLine(Schema):
    """A confirmation in the list."""

    id: int
    sent_at: datetime
    sent_by: str
    accepted: list[str]
    waiting: list[str]
    refused: list[str]
    credits_after: float


class ConfirmationList(Schema):
    """Confirmations, newest first."""

    confirmations: list[ConfirmationLine]
    more: bool
