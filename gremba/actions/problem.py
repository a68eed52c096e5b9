"""An answer other than the one hoped for, in words for whoever asked."""

from __future__ import annotations


class Problem(Exception):
    """Something the caller has to know; the web turns it into a problem document (RFC 9457).

    Attributes:
        slug: stable name of the kind of problem.
        title: what is the matter, in a few words.
        detail: what to do, in a sentence or two.
        status: the HTTP status that fits it (RFC 9110).
        retry_after: seconds after which it makes sense to try again.
        now: what it is about as it is now, as plain data, where that helps.
    """

    def __init__(
        self, slug: str, title: str, detail: str, status: int, retry_after: int | None = None
    ) -> None:
        super().__init__(f"{slug}: {title}")
        self.slug = slug
        self.title = title
        self.detail = detail
        self.status = status
        self.retry_after = retry_after
        self.now: object = None


def no_such_term(code: str) -> Problem:
    """The term is unknown."""
    shown = code if len(code) <= 40 else f"{code[:40]}…"
    return Problem("term-unknown", "No such term", f"There is no term “{shown}”. Choose one at the top.", 404)


def not_expected(term: str) -> Problem:
    """The student has no place in the term."""
    return Problem(
        "not-in-term",
        "You are not expected in this term",
        f"You have no registration for {term}. Ask the registrar's office if that is a mistake.",
        404,
    )


def desk_away() -> Problem:
    """The database cannot be reached."""
    return Problem(
        "records-away",
        "The records cannot be reached right now",
        "Nothing was changed and your cart is kept. Try again in a moment; sending the same "
        "request again is safe.",
        503,
        retry_after=2,
    )


def key_used() -> Problem:
    """A key has been sent before with something else."""
    return Problem(
        "key-used",
        "This key was used for other changes",
        "Each sending needs an Idempotency-Key of its own; only a repetition may carry the same.",
        422,
    )


def too_many_changes(most: int) -> Problem:
    """A submission carries more than a cart may hold."""
    return Problem(
        "too-many-changes",
        f"At most {most} changes at a time",
        f"A cart holds {most} changes, and so does a sending. Send the rest afterwards.",
        422,
    )


def too_many_submissions(seconds: int) -> Problem:
    """Somebody sends more within a minute than anybody would by hand."""
    return Problem(
        "submissions-limited",
        "That is very much within a minute",
        f"Wait {seconds} seconds, then send again. Your cart is kept, and nothing of this was changed.",
        429,
        retry_after=seconds,
    )
