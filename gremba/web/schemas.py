"""The shapes that the API takes and gives. Amounts of money are in cents."""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, StringConstraints, model_validator

Kind = Literal["add", "drop", "swap", "adjust"]
Lift = Literal[
    "consent", "seats", "requisite", "restriction", "late add", "repeat", "conflict", "hold"
]
Mode = Literal["each", "all"]
Severity = Literal["stop", "heed", "note"]
Number = Annotated[str, StringConstraints(pattern=r"^[0-9]{5}$")]


class Shape(BaseModel):
    """What every shape shares: nothing may stand in it that is not described."""

    model_config = ConfigDict(extra="forbid")


class Health(Shape):
    """The application and its database answer."""

    status: Literal["well"]


class PersonView(Shape):
    """Who is signed in."""

    username: str
    full_name: str
    role: Literal["student", "advisor", "instructor", "registrar", "cashier"]


class TermName(Shape):
    """A term to choose."""

    code: str
    name: str
    first_day: date
    last_day: date


class SessionView(Shape):
    """Who is signed in, what time it is, and where one is."""

    person: PersonView | None
    csrf_token: str = Field(description="To be sent back as X-CSRF-Token with every write")
    college: str
    demo: bool
    now: datetime = Field(description="The time in force, in the college's zone")
    zone: str
    terms: list[TermName]
    usual_term: str = Field(description="The term that is open for registration")


class Credentials(Shape):
    """A name and a password."""

    username: Annotated[str, StringConstraints(min_length=1, max_length=200)]
    password: Annotated[str, StringConstraints(min_length=1, max_length=1000)]


class DemoPerson(Shape):
    """Somebody to sign in as in the demo."""

    username: str
    full_name: str
    who: str
    situation: str


class DemoPeople(Shape):
    """The demo's people with the password they share."""

    password: str
    people: list[DemoPerson]


class DemoMoment(Shape):
    """A moment that the campus clock can be moved to."""

    name: str
    at: datetime


class ClockMove(Shape):
    """Where to move the campus clock."""

    to: datetime = Field(description="Without a zone it is a time of the campus")


class BreakView(Shape):
    """Days without classes."""

    name: str
    first_day: date
    last_day: date


class BlockView(Shape):
    """A part of the term with its deadlines; each holds to the end of that day."""

    code: str
    name: str
    first_day: date
    last_day: date
    add_by: date
    drop_by: date
    withdraw_by: date


class TermView(Shape):
    """The days of a term."""

    code: str
    name: str
    zone: str
    first_day: date
    last_day: date
    breaks: list[BreakView]
    blocks: list[BlockView]


class WishView(Shape):
    """A change that can be put into the cart."""

    kind: Kind
    number: Number
    gives_up: str = Field("", description="For a swap: the section held that is given up")


class ActionView(Shape):
    """What the screen can do about a finding."""

    do: Literal["put", "instead", "go"] = Field(
        description="Put changes into the cart; put another section in this change's place; or "
        "go where the matter is settled"
    )
    changes: list[WishView]
    numbers: list[Number] = Field(description="For instead: the section, then its companions")
    place: Literal["clearance", "payment", "consent", "options"] | None


class RemedyView(Shape):
    """A way on."""

    text: str
    action: ActionView | None


class FindingView(Shape):
    """What a rule says about a change."""

    code: str
    severity: Severity
    text: str
    facts: dict[str, str | int | float]
    remedies: list[RemedyView]
    ask: str


class OutcomeView(Shape):
    """A change and what becomes of it."""

    kind: Kind
    number: str
    name: str
    title: str
    gives_up: str = ""
    grading: str
    credits: float
    result: Literal["accepted", "refused"]
    withdrawn: bool
    refund_cents: int
    also_dropped: list[str] = []
    findings: list[FindingView]


class EvidenceView(Shape):
    """A requisite, or a part of one, with what the record shows for it."""

    need: str
    fact: str
    state: Literal["met", "provisional", "unmet"]
    least: int | None = Field(description="How many of the parts are needed; None for all")
    parts: list[EvidenceView]


class FiguresView(Shape):
    """Where a student stands."""

    credits: float
    load: str
    full_time: bool
    charge_cents: int


class WindowView(Shape):
    """The registration window: the open one, else the next, else the last."""

    state: Literal["none", "early", "open", "over"]
    opens_at: datetime | None
    closes_at: datetime | None


class OptionsView(Shape):
    """What can be chosen for a change, and what is chosen."""

    gradings: list[str]
    grading: str
    credits_least: float
    credits_most: float
    credits: float
    consent: str
    takes_consent: bool = Field(description="A consent code would be of use")


class CartChangeView(Shape):
    """A change in the cart with its verdict."""

    id: int
    outcome: OutcomeView
    gives_up_name: str = Field(description="For a swap: the name of the section given up")
    times: str = Field(description="When the section meets, in one line")
    seats: str = Field(description="How many seats are left, in words; empty for a drop")
    options: OptionsView | None
    instead: list[RemedyView] = Field(description="Sections that would go through in its place")
    requisites: EvidenceView | None
    otherwise: Literal["accepted", "refused"] | None = Field(
        description="What would become of it under the other choice, where that differs"
    )


class CartView(Shape):
    """The cart as it stands, and what sending it would do."""

    term: str
    student: str = Field(description="Whose cart it is")
    as_of: datetime = Field(description="The time the verdicts hold for: now, or the opening")
    ahead: bool = Field(description="The window is not open yet, and as_of is its opening")
    window: WindowView
    mode: Mode
    changes: list[CartChangeView]
    before: FiguresView
    after: FiguresView
    credit_limit: float


class Pasted(Shape):
    """Reference numbers in any shape, and what to do with their sections."""

    kind: Literal["add", "drop", "swap"] = "add"
    text: Annotated[str, StringConstraints(max_length=200_000)]
    gives_up: Number | None = None


class Wishes(Shape):
    """Changes to put into the cart, all at once."""

    changes: Annotated[list[WishView], Field(min_length=1, max_length=40)]


class Instead(Shape):
    """A section to put in a change's place, then the companions it needs."""

    numbers: Annotated[list[Number], Field(min_length=1, max_length=8)]


class Options(Shape):
    """What is chosen for a change."""

    grading: Annotated[str, StringConstraints(max_length=40)] | None = None
    credits: Annotated[float, Field(ge=0, le=30)] | None = None
    consent: Annotated[str, StringConstraints(max_length=40)] = ""


class ReportView(Shape):
    """What became of one piece of what was pasted."""

    piece: str
    taken: bool
    text: str
    mend: bool = Field(description="It may be a slip, to be corrected and given again")


class PastedView(Shape):
    """What became of what was pasted, and the cart now."""

    reports: list[ReportView]
    cart: CartView


class Order(Shape):
    """The ids of the cart's changes in the order wanted."""

    ids: Annotated[list[int], Field(max_length=100)]


class ModeChoice(Shape):
    """Each change by itself, or all or nothing."""

    mode: Mode


class ChangeWanted(Shape):
    """One change to put through."""

    kind: Kind
    number: Number
    grading: Annotated[str, StringConstraints(max_length=40)] | None = None
    credits: Annotated[float, Field(ge=0, le=30)] | None = None
    gives_up: Number | None = Field(None, description="For a swap: the section given up")
    consent: Annotated[str, StringConstraints(max_length=40)] = ""

    @model_validator(mode="after")
    def _swap_is_whole(self) -> ChangeWanted:
        if (self.kind == "swap") != (self.gives_up is not None):
            raise ValueError("a swap, and only a swap, names the section given up")
        return self


class Sent(Shape):
    """The changes to put through, the most wanted first."""

    changes: Annotated[list[ChangeWanted], Field(min_length=1, max_length=40)]
    mode: Mode = "each"


class ReceiptBody(Shape):
    """What was sent and what became of it; never altered later."""

    mode: Mode
    sent_by: str
    outcomes: list[OutcomeView]
    before: FiguresView
    after: FiguresView


class ReceiptView(Shape):
    """A receipt."""

    id: int
    term: str
    sent_at: datetime
    repeated: bool = Field(description="The same key had been sent before; this is its receipt")
    body: ReceiptBody


class ReceiptLine(Shape):
    """A receipt in the list."""

    id: int
    sent_at: datetime
    sent_by: str
    accepted: list[str]
    refused: list[str]
    credits_after: float


class ReceiptList(Shape):
    """Receipts, newest first."""

    receipts: list[ReceiptLine]
    more: bool


class MeetingView(Shape):
    """When and where a section meets, with every date."""

    pattern: str
    start: int = Field(description="Minutes since midnight, local")
    end: int
    room: str
    campus: str
    dates: list[date]


class SectionView(Shape):
    """A section as the week and the list show it."""

    number: str
    name: str
    course: str
    title: str
    component: str
    delivery: str
    campus: str
    block: str
    first_day: date
    last_day: date
    instructors: list[str]
    notes: str
    credits: float
    grading: str
    gradings: list[str]
    credits_least: float
    credits_most: float
    adjust_by: date = Field(description="Grading and credits can be changed up to that day")
    meetings: list[MeetingView]


class WeekView(Shape):
    """The registered week, and the sections that the cart is about."""

    term: str
    registered: list[SectionView]
    in_cart: list[SectionView]


class ItemView(Shape):
    """One item of clearance."""

    kind: Literal["agreement", "details", "survey", "orientation", "release"]
    name: str
    about: str
    owner: str
    done: bool
    done_at: datetime | None
    done_by: str
    alone: bool = Field(description="The student can clear it alone, right there")


class HoldView(Shape):
    """A hold."""

    id: int
    reason: str
    office: str
    contact: str
    stops: list[str]
    amount_cents: int | None
    payable: bool
    placed_at: datetime
    lifted_at: datetime | None
    lifted_why: str
    waiting_payment: str | None = Field(description="Reference of a payment without an answer")


class DetailsShape(Shape):
    """How the college reaches a student."""

    phone: Annotated[str, StringConstraints(max_length=60)]
    address: Annotated[str, StringConstraints(max_length=400)]
    emergency_name: Annotated[str, StringConstraints(max_length=120)]
    emergency_phone: Annotated[str, StringConstraints(max_length=60)]


class QuestionView(Shape):
    """A question of the survey."""

    key: str
    text: str
    options: list[str]


class StandingView(Shape):
    """The academic standing and what it limits."""

    name: str
    class_standing: str
    credits_earned: float
    credit_limit: float
    own_limit: bool = Field(description="The limit is the student's own, set by the advisor")


class ClearanceView(Shape):
    """Everything that stands between a student and registering."""

    sentence: str
    clear: bool
    window: WindowView
    items: list[ItemView]
    holds: list[HoldView]
    standing: StandingView
    email: str
    details: DetailsShape
    agreement: list[str]
    orientation: list[str]
    survey: list[QuestionView]


class Answers(Shape):
    """Answers to the survey, by the key of the question."""

    answers: Annotated[dict[str, Annotated[str, StringConstraints(max_length=200)]],
                       Field(max_length=20)]  # fmt: skip


class Card(Shape):
    """A card to pay with; it is passed on to the payment service and kept nowhere."""

    number: Annotated[str, StringConstraints(min_length=1, max_length=40)]


class PaymentView(Shape):
    """What became of a payment."""

    reference: str
    state: Literal["waiting", "approved", "declined", "returned"]
    text: str


class TestCardView(Shape):
    """A card of the demo."""

    number: str
    what: str


class AdviseeView(Shape):
    """One of an advisor's own students."""

    id: int
    username: str
    full_name: str
    program: str
    cohort: str
    standing: str
    released: bool | None
    own_limit: float | None
    credits: float
    in_cart: int
    holds: int
    window_opens_at: datetime | None


class Advisees(Shape):
    """An advisor's own students of a term."""

    students: list[AdviseeView]
    more: bool


class Release(Shape):
    """Released to register, or not."""

    released: bool


class Limit(Shape):
    """A credit limit of a student's own; None for the one of the standing."""

    credits: Annotated[float, Field(ge=0, le=60, multiple_of=0.5)] | None


class TaughtSection(Shape):
    """A section that an instructor teaches."""

    number: str
    name: str
    title: str
    times: str
    limit: int
    taken: int
    waiting: int


class RosterEntry(Shape):
    """A student of a section."""

    full_name: str
    username: str
    program: str
    cohort: str
    credits: float
    grading: str
    registered_at: datetime


class ConsentView(Shape):
    """A consent code and what became of it."""

    id: int
    code: str
    lifts: list[Lift]
    student: str
    given_at: datetime
    expires_at: datetime | None
    state: Literal["open", "used", "expired", "taken back"]
    used_by: str
    used_at: datetime | None


class TaughtView(Shape):
    """A section with its roster and the codes given out for it."""

    section: TaughtSection
    roster: list[RosterEntry]
    consents: list[ConsentView]


class ConsentWanted(Shape):
    """Codes to give out."""

    lifts: Annotated[list[Lift], Field(min_length=1, max_length=8)]
    many: Annotated[int, Field(ge=1, le=50)] = 1
    student: Annotated[str, StringConstraints(max_length=60)] = Field(
        "", description="User name of the one student they are for; empty for anybody"
    )
    expires_at: datetime | None = Field(None, description="Without a zone: a time of the campus")


class FoundStudent(Shape):
    """A student as the cashier finds one."""

    id: int
    username: str
    full_name: str
    program: str
    cohort: str


class FeeHolds(Shape):
    """A student with the fee holds placed on them."""

    student: FoundStudent
    holds: list[HoldView]


class FeeWanted(Shape):
    """A fee hold to place."""

    reason: Annotated[str, StringConstraints(strip_whitespace=True, min_length=5, max_length=300)]
    amount_cents: Annotated[int, Field(ge=1, le=10_000_000)]


class Lifted(Shape):
    """Why a hold is lifted."""

    why: Annotated[str, StringConstraints(strip_whitespace=True, min_length=3, max_length=300)]
