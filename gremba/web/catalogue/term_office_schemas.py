"""Schemas of a term for the registrar."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Literal

from pydantic import Field

from gremba.web.schema_base import Schema

TermStateName = Literal["in preparation", "open", "closed"]


class FaultResponse(Schema):
    """A problem the checklist found."""

    text: str
    number: str = Field(description="Reference number of the section it is about; empty if it is about none")


class CheckResponse(Schema):
    """A line of the setup checklist."""

    key: str
    title: str
    is_well: bool
    holds_up: bool = Field(description="Opening the term like that stops students")
    mend: Literal["folder", "sections", "windows", "policies"]
    faults: list[FaultResponse]
    has_more: bool


class SettingResponse(Schema):
    """A setting of a term."""

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
    """A part of the policy that comes from the exchange folder."""

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
    """Opens or closes a term."""

    state: Literal["open", "closed"]
    despite: list[Annotated[str, Field(max_length=40)]] = Field(
        default=[], max_length=30, description="Lines of the check list known not to be in order"
    )


class SettingWanted(Schema):
    """A new value for a setting."""

    value: float | bool | str | list[Annotated[str, Field(max_length=60)]]


class BreakWanted(Schema):
    """Days without classes."""

    name: Annotated[str, Field(min_length=1, max_length=80)]
    first_day: date
    last_day: date


class ForwardWanted(Schema):
    """A term to copy to."""

    code: Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]{0,39}$")]
    name: Annotated[str, Field(min_length=1, max_length=80)]
    first_day: date
    last_day: date
    breaks: list[BreakWanted] = Field(default=[], max_length=20)
    with_students: bool = True


class CarriedResponse(Schema):
    """What was copied."""

    code: str
    sections: int
    cancelled: int = Field(description="Sections that did not take place, and were left behind")
    students: int
