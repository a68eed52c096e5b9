"""The shapes that the API takes and gives. Amounts of money are in cents."""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, StringConstraints

Kind = Literal["add", "drop"]
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


class ActionView(Shape):
    """A change that can be put into the cart."""

    kind: Kind
    number: Number


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
    grading: str
    credits: float
    result: Literal["accepted", "refused"]
    withdrawn: bool
    refund_cents: int
    findings: list[FindingView]


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


class CartChangeView(Shape):
    """A change in the cart with its verdict."""

    id: int
    outcome: OutcomeView
    times: str = Field(description="When the section meets, in one line")
    seats: str = Field(description="How many seats are left, in words; empty for a drop")


class CartView(Shape):
    """The cart as it stands, and what sending it now would do."""

    term: str
    as_of: datetime
    window: WindowView
    mode: Mode
    changes: list[CartChangeView]
    before: FiguresView
    after: FiguresView
    credit_limit: float


class Pasted(Shape):
    """Reference numbers in any shape, and what to do with their sections."""

    kind: Kind = "add"
    text: Annotated[str, StringConstraints(max_length=200_000)]


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
    credits: Annotated[float, Field(ge=0, le=30, multiple_of=0.5)] | None = None


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
    meetings: list[MeetingView]


class WeekView(Shape):
    """The registered week, and the sections that the cart is about."""

    term: str
    registered: list[SectionView]
    in_cart: list[SectionView]
