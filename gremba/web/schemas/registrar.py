"""What the registrar sees and sends."""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated, Any, Literal

from pydantic import AwareDatetime, Field

from gremba.web.schemas.base import Schema

TermStateName = Literal["in preparation", "open", "closed"]


class FaultResponse(Schema):
    """One thing that is not in order."""

    text: str
    number: str = Field(description="Reference number of the section it is about; empty if it is about none")


class CheckResponse(Schema):
    """A line of a term's check list."""

    key: str
    title: str
    is_well: bool
    holds_up: bool = Field(description="Opening the term like that stops students")
    mend: Literal["folder", "sections", "windows", "policies"]
    faults: list[FaultResponse]
    has_more: bool


class SettingResponse(Schema):
    """Something that a college decides for a term."""

    key: str
    title: str
    does: str
    kind: Literal["number", "yes or no", "text", "some of"]
    unit: str
    least: float
    most: float
    is_whole: bool
    among: list[str]
    value: float | bool | str | list[str]


class DocumentResponse(Schema):
    """A part of the policy that comes with the exchange folder."""

    key: str
    title: str
    says: str


class PreparedTerm(Schema):
    """A term as the registrar sees it."""

    code: str
    name: str
    state: TermStateName
    first_day: date
    last_day: date
    sections: int
    checks: list[CheckResponse]
    settings: list[SettingResponse]
    documents: list[DocumentResponse]


class Opening(Schema):
    """Opening a term, or closing it."""

    state: Literal["open", "closed"]
    despite: list[Annotated[str, Field(max_length=40)]] = Field(
        default=[], max_length=30, description="Lines of the check list known not to be in order"
    )


class SettingWanted(Schema):
    """Another value for a setting."""

    value: float | bool | str | list[Annotated[str, Field(max_length=60)]]


class BreakWanted(Schema):
    """Days without classes."""

    name: Annotated[str, Field(min_length=1, max_length=80)]
    first_day: date
    last_day: date


class ForwardWanted(Schema):
    """A term that is another one carried forward."""

    code: Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]{0,39}$")]
    name: Annotated[str, Field(min_length=1, max_length=80)]
    first_day: date
    last_day: date
    breaks: list[BreakWanted] = Field(default=[], max_length=20)
    with_students: bool = True


class CarriedResponse(Schema):
    """What was carried forward."""

    code: str
    sections: int
    cancelled: int = Field(description="Sections that did not take place, and were left behind")
    students: int


class GroupWanted(Schema):
    """Students who choose before the others."""

    kind: Literal["cohort", "program"]
    value: Annotated[str, Field(min_length=1, max_length=80)]


class RuleOfDealing(Schema):
    """How windows are dealt."""

    groups: list[GroupWanted] = Field(default=[], max_length=20)
    bands: list[Annotated[float, Field(gt=0, le=1000)]] = Field(
        max_length=12, description="Credits earned from which a band begins, most first"
    )
    first_day: date
    weekdays: Annotated[str, Field(pattern=r"^M?T?W?R?F?S?U?$", min_length=1)]
    starts: Annotated[int, Field(ge=0, le=1440, description="Minutes since midnight, local")]
    ends: Annotated[int, Field(ge=0, le=1440)]
    slot_minutes: Annotated[int, Field(ge=5, le=1440)]
    capacity: Annotated[int, Field(ge=1, le=100_000)]
    closes_at: datetime = Field(description="Local times are those of the campus")
    seed: Annotated[str, Field(min_length=1, max_length=80)]


class DealingWanted(Schema):
    """A dealing to look at, or, with the digest of what was looked at, to publish."""

    rule: RuleOfDealing
    moves_dealt: bool = Field(default=False, description="Windows dealt before that are not open yet move")
    digest: Annotated[str, Field(max_length=64)] = ""


class SlotResponse(Schema):
    """When windows open together."""

    opens_at: datetime
    part: int
    dealt: int
    kept: int
    expected: int = Field(description="Sendings to expect in its first minute")


class DealingResponse(Schema):
    """What a rule comes to."""

    parts: list[str]
    slots: list[SlotResponse]
    dealt: int
    kept: int
    left: int = Field(description="Students for whom no slot is left")
    digest: str
    each: float = Field(description="Sendings of a student in the first minute, as seen so far")
    windows_seen: int = Field(description="Windows that have opened so far, by which that is known")
    carried: int = Field(description="Sendings a minute that were measured")


class DealingPublished(Schema):
    """What publishing did."""

    dealt: int
    moved: int
    is_told: bool = Field(description="Students are told; else they are when the term is opened")


class PastDealing(Schema):
    """A dealing that was published."""

    id: int
    rule: RuleOfDealing
    dealt: int
    moved: int
    published_at: datetime
    published_by: str


class OpeningAt(Schema):
    """How many windows open at a moment."""

    opens_at: datetime
    many: int


class WindowsResponse(Schema):
    """The windows of a term."""

    students: int
    without: int
    opening: list[OpeningAt]
    dealings: list[PastDealing]
    cohorts: list[str]
    programs: list[str]


class OwnWindowResponse(Schema):
    """A window of one student."""

    opens_at: datetime
    closes_at: datetime
    was_dealt: bool


class WindowForOne(Schema):
    """A window for one student."""

    before: AwareDatetime | None = Field(default=None, description="When the window opens that is changed")
    opens_at: datetime
    closes_at: datetime
    reason: Annotated[str, Field(min_length=3, max_length=300)]


class MistakeResponse(Schema):
    """Something in a folder that cannot be taken over."""

    table: str
    line: int
    column: str
    value: str
    problem: str
    guess: str


class RowChange(Schema):
    """A row of which something else is kept."""

    key: list[str]
    cells: dict[str, list[str]] = Field(description="By column, what is kept and what comes in its place")


class TableChange(Schema):
    """What a table of a folder brings."""

    name: str
    rows: int
    new: int
    changed: int
    left_out: int
    first_changed: list[RowChange]


class ReachedResponse(Schema):
    """A section that students notice a change of."""

    number: str
    name: str
    is_off: bool
    before: str
    after: str
    registered: int
    waiting: int
    in_carts: int
    clashing: int


class FolderReport(Schema):
    """What a folder brings, or what is wrong with it."""

    mistakes: list[MistakeResponse]
    mistakes_in_all: int
    tables: list[TableChange]
    reached: list[ReachedResponse]
    strangers: list[str]
    changes_nothing: bool
    has_moved: bool
    is_done: bool
    digest: str


class FolderProgress(Schema):
    """A line of the answer: how far it has come, and at last what came of it."""

    doing: str = ""
    share: float = 0.0
    report: FolderReport | None = None
    problem: dict[str, Any] | None = None


class AuditEntryResponse(Schema):
    """Something that was done."""

    id: int
    at: datetime
    kind: str
    person: str
    account: str
    student: str
    address: str
    request_id: str
    detail: str


class AuditPage(Schema):
    """Entries of the record, the latest first."""

    entries: list[AuditEntryResponse]
    next: int | None = Field(description="Where to go on")


class ChainBreak(Schema):
    """An entry at which the chain does not hold."""

    entry: int
    what: str


class ChainResponse(Schema):
    """What going through the chain came to."""

    many: int
    older: int
    first_at: datetime | None
    last_at: datetime | None
    last: str
    breaks: list[ChainBreak]
