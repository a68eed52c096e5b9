"""What a password must be.

Long rather than intricate (NIST SP 800-63B-4, 3.1.1.2, and OWASP ASVS 5.0, 6.2, both from memory): no rules
about kinds of signs, no change without a reason, nothing that is easily guessed of this person.
"""

from __future__ import annotations

import unicodedata

LEAST, MOST = 12, 256
"""Signs of a password."""


def password_problem(password: str, username: str, full_name: str) -> str:
    """What is wrong with a new password, and what to do; "" if nothing is.

    Args:
        password: as it was typed; blanks count.
    """
    if len(password) < LEAST:
        return f"Use at least {LEAST} signs; a few words in a row are easy to remember."
    if len(password) > MOST:
        return f"Use at most {MOST} signs."
    if any(unicodedata.category(sign) in ("Cc", "Cs") for sign in password):
        return "There are signs in it that cannot be typed everywhere; leave them out."
    folded = password.casefold()
    if len(set(folded)) < 5:
        return "It is too much of the same; use a few words in a row."
    names = [username, *full_name.split()]
    if any(len(name) >= 3 and name.casefold() in folded for name in names):
        return "Your name is in it, which is guessed first; leave it out."
    return ""
