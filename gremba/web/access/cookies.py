"""The cookies: the session, and a mark of browsers that were used before.

Both are random tokens that scripts cannot read and other sites cannot have sent.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta

from starlette.requests import HTTPConnection
from starlette.responses import Response


@dataclass(frozen=True, slots=True)
class Cookie:
    """A cookie with its attributes.

    Attributes:
        is_secure: sent over TLS only and set by this very host, which its name promises
            (``__Host-``: RFC 6265bis). Without it only where everything is on one machine.
    """

    name: str
    is_secure: bool

    @property
    def full_name(self) -> str:
        """The name on the wire, with its prefix."""
        return f"__Host-{self.name}" if self.is_secure else self.name

    def read(self, connection: HTTPConnection) -> str:
        """The value a request carries, or ""."""
        return connection.cookies.get(self.full_name, "")[:200]

    def give(self, response: Response, value: str, lasts: timedelta) -> None:
        """Set the cookie on a response."""
        response.set_cookie(
            self.full_name,
            value,
            max_age=int(lasts.total_seconds()),
            httponly=True,
            samesite="strict",
            secure=self.is_secure,
            path="/",
        )

    def take_back(self, response: Response) -> None:
        """Delete the cookie from the browser."""
        response.delete_cookie(
            self.full_name, path="/", httponly=True, samesite="strict", secure=self.is_secure
        )


def session_cookie(is_secure: bool) -> Cookie:
    """The session cookie."""
    return Cookie("gremba_session", is_secure)


def browser_cookie(is_secure: bool) -> Cookie:
    """The cookie that marks a browser as known to an account."""
    return Cookie("gremba_browser", is_secure)
