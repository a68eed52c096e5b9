"""Sets passwords: by a link that works once, or with the current password."""

from __future__ import annotations

import secrets
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from peewee import IntegrityError
from playhouse.pool import PooledPostgresqlDatabase

from gremba.actions.access.sessions import SignedIn, open_for, token_digest
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.access.password_rules import password_problem
from gremba.core.states import Role
from gremba.standins.passwords import hash_password
from gremba.standins.sign_in import SignInAttempt, settle
from gremba.store.access.passwords import (
    Invitee,
    add_link,
    add_person,
    end_links,
    person_of_link,
    put_password,
    without_password,
)
from gremba.store.access.sessions import Person, find_person
from gremba.store.database import connected

LINK_LASTS = timedelta(days=7)


@dataclass(frozen=True, slots=True)
class Invited:
    """A person who can set their password.

    Attributes:
        token: the secret part of the link; it is told once.
        is_new: they were not known before.
    """

    username: str
    token: str
    ends_at: datetime
    is_new: bool


def invite(
    database: PooledPostgresqlDatabase, username: str, role: Role | None, full_name: str = "", email: str = ""
) -> Invited:
    """Create a link for a person, who is added if nobody has this name. Earlier links become invalid.

    Args:
        role: of somebody new; None where they are known.

    Raises:
        ValueError: nobody has that name and no role is given, or they have another role.
    """
    now, token = datetime.now(UTC), secrets.token_urlsafe(32)
    with connected(database), database.atomic():
        found = find_person(database, username)
        if found is None:
            if role is None:
                raise ValueError(f"Nobody is called {username}. Say --role to make them known.")
            try:
                person = add_person(database, username, full_name or username, email, role)
            except IntegrityError:
                raise ValueError(f"{username} has been made known this moment. Try again.") from None
        else:
            person = found[0].id
            if role is not None and role is not found[0].role:
                raise ValueError(f"{username} is there already, as {found[0].role}. Leave out --role.")
        add_link(database, token_digest(token), person, now, now + LINK_LASTS)
    return Invited(username, token, now + LINK_LASTS, found is None)


@dataclass(frozen=True, slots=True)
class SentInvitations:
    """The result of sending invitations.

    Attributes:
        many: that went out.
        without_mail: user names of people to whom none went; they have no link.
        after: id of the last one looked at; None where there are no more.
    """

    many: int
    without_mail: tuple[str, ...]
    after: int | None


def invite_some(
    database: PooledPostgresqlDatabase, after: int, most: int, send: Callable[[Invitee, str], bool]
) -> SentInvitations:
    """Send links to people without a password or a link, in batches; a second run sends nothing twice.

    Args:
        after: id behind which to go on.
        send: told whom and the secret part of the link; gives whether it was taken.
    """
    with connected(database):
        people = without_password(database, after, most, datetime.now(UTC))
    many, failed = 0, []
    for one in people:
        if send(one, invite(database, one.username, None).token):
            many += 1
            continue
        failed.append(one.username)
        with connected(database):
            end_links(database, one.id, datetime.now(UTC))
    return SentInvitations(many, tuple(failed), people[-1].id if len(people) == most else None)


def look_at_link(database: PooledPostgresqlDatabase, token: str) -> Person:
    """Whose password a link sets.

    Raises:
        Problem: it was used, is over, or never was.
    """
    with connected(database), database.atomic():
        return _person(database, token)


def set_by_link(database: PooledPostgresqlDatabase, token: str, password: str) -> None:
    """Set a password with a link, which is used up. Sessions of the old password end.

    Raises:
        Problem: the link leads nowhere, or the password will not do; then the link can be used still.
    """
    with connected(database), database.atomic():
        person = _person(database, token)
        _check(person, password)
        put_password(database, person.id, hash_password(password), datetime.now(UTC))


def change_password(
    database: PooledPostgresqlDatabase,
    attempt: SignInAttempt,
    person: Person,
    old_is_right: bool,
    password: str,
    browser_name: str,
) -> SignedIn:
    """Change a person's password. All their sessions end, and a new one opens where they did it.

    Args:
        attempt: at giving the old one, which counts as one of signing in.
        old_is_right: whether it was given.
        browser_name: told in the list of one's sessions.

    Raises:
        Problem: it was not, or the new one will not do.
    """
    settle(database, attempt, old_is_right)
    if not old_is_right:
        raise Problem(ProblemKind.PASSWORD_WRONG, "Type the password that you sign in with now.")
    _check(person, password)
    with connected(database), database.atomic():
        put_password(database, person.id, hash_password(password), datetime.now(UTC))
        return open_for(database, person, attempt.browser, browser_name)


def _person(database: PooledPostgresqlDatabase, token: str) -> Person:
    found = person_of_link(database, token_digest(token), datetime.now(UTC))
    if found is None:
        raise Problem(
            ProblemKind.LINK_GONE,
            "It was used, or it is older than seven days. Ask the office that sent it for another.",
        )
    return found


def _check(person: Person, password: str) -> None:
    problem = password_problem(password, person.username, person.full_name)
    if problem:
        raise Problem(ProblemKind.PASSWORD_WEAK, problem)
