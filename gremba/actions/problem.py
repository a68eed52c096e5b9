"""Problems: answers that refuse something and say what to do."""

from __future__ import annotations

from gremba.actions.problem_kinds import ProblemKind


class Problem(Exception):
    """An error the caller has to know about; the web layer answers it with a problem document (RFC 9457).

    Attributes:
        kind: what kind of problem it is.
        title: what is the matter, in a few words.
        detail: what to do, in a sentence or two.
        retry_after: seconds after which it makes sense to try again.
        now: what it is about as it is now, as plain data, where that helps.
    """

    def __init__(
        self, kind: ProblemKind, detail: str, retry_after: int | None = None, **facts: str | int
    ) -> None:
        """A problem.

        Args:
            facts: what the kind's title names.
        """
        self.kind = kind
        self.title = kind.title.format(**facts)
        super().__init__(f"{kind.code}: {self.title}")
        self.detail = detail
        self.retry_after = retry_after
        self.now: object = None


def no_such_term(code: str) -> Problem:
    """The term is unknown."""
    shown = code if len(code) <= 40 else f"{code[:40]}…"
    return Problem(ProblemKind.TERM_UNKNOWN, f"There is no term “{shown}”. Choose one at the top.")


def not_expected(term: str) -> Problem:
    """The student is not enrolled in the term."""
    return Problem(
        ProblemKind.NOT_IN_TERM,
        f"You have no registration for {term}. Ask the registrar's office if that is a mistake.",
    )


def records_away() -> Problem:
    """The database cannot be reached."""
    return Problem(
        ProblemKind.RECORDS_AWAY,
        "Nothing was changed and your cart is kept. Try again in a moment; sending the same "
        "request again is safe.",
        retry_after=2,
    )


def key_used() -> Problem:
    """The key was used before with a different request."""
    return Problem(
        ProblemKind.KEY_USED,
        "Each sending needs an Idempotency-Key of its own; only a repetition may carry the same.",
    )


def too_many_changes(most: int) -> Problem:
    """The submission has more changes than a cart may hold."""
    return Problem(
        ProblemKind.TOO_MANY_CHANGES,
        f"A cart holds {most} changes, and so does a sending. Send the rest afterwards.",
        most=most,
    )


def too_many_submissions(seconds: int) -> Problem:
    """More submissions in a minute than anybody makes by hand."""
    return Problem(
        ProblemKind.SUBMISSIONS_LIMITED,
        f"Wait {seconds} seconds, then send again. Your cart is kept, and nothing of this was changed.",
        retry_after=seconds,
    )
