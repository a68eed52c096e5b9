"""What a password must be.

Long rather than intricate (NIST SP 800-63B-4, 3.1.1.2, and OWASP ASVS 5.0, 6.2, both from memory): no rules
about kinds of signs, no change without a reason, nothing that is easily guessed of this person, nothing
that is on a list of common passwords.
"""

from __future__ import annotations

import unicodedata

from zxcvbn import zxcvbn

MIN_LENGTH, MAX_LENGTH = 12, 256
"""Signs of a password."""


def password_problem(password: str, username: str, full_name: str) -> str:
    """What is wrong with a new password and what to do; "" if nothing is.

    Args:
        password: as it was typed; blanks count.
    """
    if len(password) < MIN_LENGTH:
        return f"Use at least {MIN_LENGTH} signs; a few words in a row are easy to remember."
    if len(password) > MAX_LENGTH:
        return f"Use at most {MAX_LENGTH} signs."
    if any(unicodedata.category(sign) in ("Cc", "Cs") for sign in password):
        return "There are signs in it that cannot be typed everywhere; leave them out."
    folded = password.casefold()
    if len(set(folded)) < 5:
        return "It is too much of the same; use a few words in a row."
    names = [username, *full_name.split()]
    if any(len(name) >= 3 and name.casefold() in folded for name in names):
        return "Your name is in it, which is guessed first; leave it out."
    if _is_common(password):
        return (
            "Many people use one like it, so it is tried first; use a few words that do not belong together."
        )
    return ""


def _is_common(password: str) -> bool:
    """Whether a password is a common one, also with digits appended or letters replaced. Passwords longer
    than any in the list are not checked."""
    if len(password) > _LONGEST_COMMON:
        return False
    guesses: float = zxcvbn(password)["guesses_log10"]
    return guesses < _GUESSES_LOG10


_LONGEST_COMMON = 24
"""Signs; how long it takes to look at a password grows with their third power."""

_GUESSES_LOG10 = 8.0
"""Of guesses in the order of zxcvbn, which knows some 90,000 common passwords, names and words."""
