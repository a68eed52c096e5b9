"""Schemas of passwords and the links that set them."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from pydantic import Field, StringConstraints

from gremba.web.schema_base import Schema

Password = Annotated[str, StringConstraints(min_length=1, max_length=1000)]
LinkToken = Annotated[str, StringConstraints(min_length=1, max_length=100)]


class PasswordLinkResponse(Schema):
    """The token of a link."""

    token: LinkToken


class PasswordByLink(PasswordLinkResponse):
    """A new password, with the token of the link."""

    password: Password


class PasswordChange(Schema):
    """The current password and a new one."""

    old: Password
    new: Password


class PasswordOwner(Schema):
    """Whose password a link sets."""

    username: str
    full_name: str


class PasswordLinkMade(Schema):
    """A link that sets a password."""

    full_name: str
    mailed_to: str = Field(description="Where it went; empty where no mail goes out")
    path: str = Field(description="To be handed over, where it was not mailed; told this once")
    ends_at: datetime


class LinksWanted(Schema):
    """Where to continue sending links."""

    after: Annotated[int, Field(ge=0, le=2**31 - 1)] = 0


class LinksSent(Schema):
    """How many links were sent."""

    sent: int
    without_mail: list[str] = Field(description="User names of people to whom no mail went")
    after: int | None = Field(description="Where to go on; none at the end")
