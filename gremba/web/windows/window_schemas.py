"""Schemas of registration windows for the registrar."""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated, Literal

from pydantic import AwareDatetime, Field

from gremba.web.schema_base import CampusMoment, Schema


class GroupWanted(Schema):
    """A priority group."""

    kind: Literal["cohort", "program"]
    value: Annotated[str, Field(min_length=1, max_length=80)]


class RuleOfAssignment(Schema):
    """How windows are assigned."""

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
    closes_at: CampusMoment = Field(description="Local times are those of the campus")
    seed: Annotated[str, Field(min_length=1, max_length=80)]


class AssignmentWanted(Schema):
    """An assignment to preview, or to publish with the digest of its preview."""

    rule: RuleOfAssignment
    moves_assigned: bool = Field(default=False, description="Windows assigned before that are not open move")
    digest: Annotated[str, Field(max_length=64)] = ""


class SlotResponse(Schema):
    """A time at which windows open together."""

    opens_at: datetime
    part: int
    assigned: int
    kept: int
    expected: int = Field(description="Sendings to expect in its first minute")


class AssignmentResponse(Schema):
    """The result of an assignment."""

    parts: list[str]
    slots: list[SlotResponse]
    assigned: int
    kept: int
    left: int = Field(description="Students for whom no slot is left")
    digest: str
    each: float = Field(description="Sendings of a student in the first minute, as seen so far")
    windows_seen: int = Field(description="Windows that have opened so far, by which that is known")
    carried: int = Field(description="Sendings a minute that were measured")


class AssignmentPublished(Schema):
    """The result of publishing."""

    assigned: int
    moved: int
    is_told: bool = Field(description="Students are told; else they are when the term is opened")


class PastAssignment(Schema):
    """A published assignment."""

    id: int
    rule: RuleOfAssignment
    assigned: int
    moved: int
    published_at: datetime
    published_by: str


class OpeningAt(Schema):
    """How many windows open at a time."""

    opens_at: datetime
    many: int


class WindowsResponse(Schema):
    """A term's windows."""

    students: int
    without: int
    opening: list[OpeningAt]
    assignments: list[PastAssignment]
    cohorts: list[str]
    programs: list[str]


class OwnWindowResponse(Schema):
    """A window given to one student."""

    opens_at: datetime
    closes_at: datetime
    was_assigned: bool


class WindowForOne(Schema):
    """A window to give to one student."""

    before: AwareDatetime | None = Field(default=None, description="When the window opens that is changed")
    opens_at: CampusMoment
    closes_at: CampusMoment
    reason: Annotated[str, Field(min_length=3, max_length=300)]
