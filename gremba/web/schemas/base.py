"""What every shape of the API shares, and the kinds of values that several use."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, StringConstraints

Kind = Literal["add", "drop", "swap", "adjust", "wait"]
Result = Literal["accepted", "waiting", "refused"]
Lift = Literal[
    "consent", "seats", "requisite", "restriction", "late add", "repeat", "conflict", "hold"
]
Mode = Literal["each", "all"]
Severity = Literal["stop", "heed", "note"]
Number = Annotated[str, StringConstraints(pattern=r"^[0-9]{5}$")]


class Shape(BaseModel):
    """What every shape shares: nothing may stand in it that is not described."""

    model_config = ConfigDict(extra="forbid")
