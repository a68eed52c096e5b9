"""Messages about registration windows."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from datetime import datetime

from gremba.core.catalogue.term import TermCatalogue
from gremba.core.messages import Message, MessageKind, message_of
from gremba.core.wording import moment

Span = tuple[datetime, datetime]
"""When a window opens and closes."""


def window_message(
    term: TermCatalogue,
    opens_at: datetime,
    closes_at: datetime,
    before: datetime | None = None,
    why: str | None = None,
) -> Message:
    """The message that a student has a window, or another one.

    Args:
        before: when the one opened that it takes the place of; None where there was none.
        why: the reason, where somebody has given one.
    """
    zone = term.calendar.zone
    opens, closes = (moment(one.astimezone(zone)) for one in (opens_at, closes_at))
    if before is None:
        return message_of(MessageKind.WINDOW_SET, term=term.name, opens=opens, closes=closes)
    was = moment(before.astimezone(zone))
    return message_of(
        MessageKind.WINDOW_MOVED, term=term.name, opens=opens, closes=closes, before=was, why=why
    )


def changed_windows(
    term: TermCatalogue, before: Mapping[int, Sequence[Span]], after: Mapping[int, Sequence[Span]]
) -> Iterator[tuple[int, Message]]:
    """The messages to a term's students whose windows have changed.

    Args:
        before, after: the windows that are not over, in order, by the row of each student.
    """
    for row, windows in after.items():
        were = before.get(row, ())
        for place, window in enumerate(windows):
            if place >= len(were):
                yield row, window_message(term, *window)
            elif window != were[place]:
                yield row, window_message(term, *window, before=were[place][0])
