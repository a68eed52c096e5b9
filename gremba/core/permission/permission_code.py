"""A permission code or grant: what it lets one student do in one section, once."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime


@dataclass(frozen=True, slots=True)
class PermissionCode:
    """A permission for one student, or for whoever has its code, in one section, once.

    Attributes:
        section: id of the section it is for.
        student: id of the one student it is for; None for anybody.
        waives: what it lifts, see :class:`Waiver`.
        used: it has been used already.
        also: ids of others that are used up with it, where several people have said yes to different things.
    """

    id: int
    code: str
    section: int
    waives: frozenset[str]
    by: str
    student: int | None = None
    expires_at: datetime | None = None
    used: bool = False
    also: tuple[int, ...] = ()
