"""Serves the built front end: its compressed files, and the page that loads them."""

from __future__ import annotations

import mimetypes
import re
import secrets
from dataclasses import dataclass
from html import escape
from pathlib import Path
from urllib.parse import quote

import orjson
import structlog
from fastapi import FastAPI, Request
from fastapi.responses import HTMLResponse, PlainTextResponse, RedirectResponse, Response
from starlette.concurrency import run_in_threadpool
from starlette.exceptions import HTTPException

from gremba.actions.access.sessions import token_digest
from gremba.actions.problem import Problem
from gremba.store.database import Unavailable
from gremba.web.access.session_routes import session_response
from gremba.web.requests.accepted_codings import accepts
from gremba.web.services import Services

log = structlog.get_logger()

_NONCE = "GREMBA_NONCE"
_FIRST = "<!-- What this page fetches first -->"
_ENCODINGS = (("br", ".br"), ("gzip", ".gz"))

_ROBOTS = """\
User-agent: *
Disallow: /api/
Disallow: /shared/
Allow: /
"""

_FROM_HERE = "from-here"
"""Stands in an address that is asked for once more."""

_OWN = ("access/session/SignInPage",)
"""What a visitor gets of somebody's own pages."""

_TERM = "[a-z0-9-]{1,40}"
_PAGES = (
    (r"", _OWN, ("registration/schedule/WeekPage",)),
    (r"(?P<term>TERM)/find", ("frame/PublicFrame", "catalogue/find/FindPage"), ("catalogue/find/FindPage",)),
    (r"(?P<term>TERM)(/(schedule|cart))?", _OWN, ("registration/schedule/WeekPage",)),
    (r"(?P<term>TERM)/account", _OWN, ("account/statement/AccountPage",)),
    (r"(?P<term>TERM)/timetables", _OWN, ("timetables/TimetablesPage",)),
    (
        r"(?P<term>TERM)/(account/print|clearance|timetables/print|plan|schedule/print|waitlists|messages|requests|"
        r"confirmations(/\d{1,18})?)",
        _OWN,
        (),
    ),
    (r"welcome", ("access/session/WelcomePage",), ()),
    (r"no-term-yet", ("access/session/SignInPage",), ()),
    (
        r"shared/[A-Za-z0-9_-]{1,100}",
        ("registration/schedule/SharedPage",),
        ("registration/schedule/SharedPage",),
    ),
    (
        r"shared/timetables/[A-Za-z0-9_-]{1,100}",
        ("timetables/SharedTimetable",),
        ("timetables/SharedTimetable",),
    ),
    (r"(advising|teaching|fees)/(?P<term>TERM)", _OWN, ()),
    (r"fees/(?P<term>TERM)/(nonpayment|day|\d{1,9})", _OWN, ()),
    (r"office/(?P<term>TERM)(/(students(/\d{1,9})?|sections|windows|folder|record|mail))?", _OWN, ()),
    (r"(advising|office|teaching)/(?P<term>TERM)/requests", _OWN, ()),
    (r"teaching/(?P<term>TERM)/[0-9]{5}", _OWN, ()),
    (
        r"(advising|office/students)/\d{1,9}/(?P<term>TERM)(/(clearance|find|timetables(/print)?|plan|schedule(/print)?|cart|waitlists|messages|"
        r"requests|confirmations(/\d{1,18})?))?",
        _OWN,
        (),
    ),
)
"""Addresses of the screens, with the pages that they begin with for a visitor, and for who is signed in."""

_KNOWN = tuple(
    (re.compile(pattern.replace("TERM", _TERM)), visitor, signed_in) for pattern, visitor, signed_in in _PAGES
)


_RENAMED = {"fits": "timetables", "week": "schedule", "receipts": "confirmations", "cut": "nonpayment"}
"""Screens by the names that stood in their addresses once: links in mails and bookmarks lead on."""
_OLD_FILTER = re.compile(r"(^|&)block=")
"""A filter of Find by the name that it had."""
_OLD = re.compile(rf"(.+/)({'|'.join(_RENAMED)})(/print|/\d{{1,18}})?")


@dataclass(frozen=True, slots=True)
class _File:
    media_type: str
    bodies: dict[str, bytes]
    """By encoding, "" for none."""


class Built:
    """The built front end, read into memory once."""

    def __init__(self, folder: Path) -> None:
        self.index = (folder / "index.html").read_text()
        self.icon = (folder / "icon.svg").read_bytes()
        self.files = {
            path.name: _read(path)
            for path in (folder / "assets").iterdir()
            if path.suffix not in (".br", ".gz")
        }
        self._manifest = orjson.loads((folder / ".vite/manifest.json").read_bytes())

    def scripts_of(self, pages: tuple[str, ...]) -> list[str]:
        """The scripts that pages need besides the main one, so that they can be preloaded."""
        found: dict[str, None] = {}
        waiting = [f"src/features/{page}.tsx" for page in pages]
        entry = self._manifest.get("index.html", {})
        while waiting:
            chunk = self._manifest.get(waiting.pop(0), {})
            if chunk and chunk["file"] != entry.get("file"):
                found[chunk["file"]] = None
                waiting += [name for name in chunk.get("imports", ()) if name != "index.html"]
        return list(found)


def _read(path: Path) -> _File:
    bodies = {"": path.read_bytes()}
    for encoding, suffix in _ENCODINGS:
        beside = path.with_name(path.name + suffix)
        if beside.exists():
            bodies[encoding] = beside.read_bytes()
    return _File(mimetypes.guess_type(path.name)[0] or "application/octet-stream", bodies)


def _policy(nonce: str) -> str:
    return (
        "default-src 'none'; script-src 'self'; connect-src 'self'; img-src 'self' data:; "
        f"font-src 'self'; style-src 'self' 'nonce-{nonce}'; base-uri 'none'; "
        "form-action 'self'; frame-ancestors 'none'"
    )


def install(app: FastAPI, folder: Path) -> None:
    """Serve the built pages at every address outside the API."""
    built = Built(folder)

    @app.get("/assets/{name}", include_in_schema=False)
    async def asset(request: Request, name: str) -> Response:
        file = built.files.get(name)
        if file is None:
            raise HTTPException(404)
        headers = {"Cache-Control": "public, max-age=31536000, immutable", "Vary": "Accept-Encoding"}
        accepted = request.headers.get("Accept-Encoding", "")
        for encoding, _ in _ENCODINGS:
            if encoding in file.bodies and accepts(accepted, encoding):
                headers["Content-Encoding"] = encoding
                return Response(file.bodies[encoding], media_type=file.media_type, headers=headers)
        return Response(file.bodies[""], media_type=file.media_type, headers=headers)

    @app.get("/robots.txt", include_in_schema=False)
    async def robots() -> Response:
        return PlainTextResponse(_ROBOTS, headers={"Cache-Control": "max-age=86400"})

    @app.get("/icon.svg", include_in_schema=False)
    async def icon() -> Response:
        return Response(built.icon, media_type="image/svg+xml", headers={"Cache-Control": "max-age=86400"})

    @app.get("/{path:path}", include_in_schema=False)
    async def page(request: Request, path: str) -> Response:
        if path.startswith(("api/", "assets/")):
            raise HTTPException(404)
        services: Services = request.app.state.services
        renamed = _renamed(services, path, request.url.query)
        if renamed is not None:
            return RedirectResponse(renamed, status_code=308)
        token = services.session_cookie.read(request)
        found = _find(services, path)
        if found is not None and not token and found[1] == _OWN and _is_from_elsewhere(request):
            return _once_more(request)
        first = await _session(services, token)
        if found is not None:
            term, *pages = found
            scripts = built.scripts_of(("frame/Frame", *pages[1]) if token else pages[0])
            first += "".join(f'<link rel="modulepreload" href="/{s}">' for s in scripts)
            first += "".join(
                f'<link rel="preload" as="fetch" crossorigin href="{escape(asked)}">'
                for asked in _asked_first(services, path, term, bool(token), request.url.query)
            )
        nonce = secrets.token_urlsafe(16)
        headers = {"Content-Security-Policy": _policy(nonce), "Cache-Control": "no-store"}
        if path.startswith("shared/"):
            headers["X-Robots-Tag"] = "noindex"
        return HTMLResponse(
            built.index.replace(_NONCE, nonce).replace(_FIRST, first),
            status_code=404 if found is None else 200,
            headers=headers,
        )


def _is_from_elsewhere(request: Request) -> bool:
    """Whether the browser comes from another site, such as a mail or the payment service: then it sends no
    session cookie (SameSite=Strict)."""
    return request.headers.get("Sec-Fetch-Site") == "cross-site" and _FROM_HERE not in request.query_params


def _once_more(request: Request) -> Response:
    """Has the browser request the same address again from here, so with its session."""
    query = f"{request.url.query}&" if request.url.query else ""
    address = escape(f"{request.url.path}?{query}{_FROM_HERE}=")
    page = (
        '<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Gremba</title>'
        f'<meta http-equiv="refresh" content="0;url={address}"></head><body></body></html>'
    )
    headers = {"Content-Security-Policy": "default-src 'none'", "Cache-Control": "no-store"}
    return HTMLResponse(page, headers=headers)


def _renamed(services: Services, path: str, query: str) -> str | None:
    """The new address of a renamed screen; None if there is none.

    A path that begins with a slash, which a browser reads as another host, leads nowhere.
    """
    old = _OLD.fullmatch(path)
    new = f"{old[1]}{_RENAMED[old[2]]}{old[3] or ''}" if old else path
    asked = _OLD_FILTER.sub(r"\1session=", query) if path.endswith("/find") else query
    if (new, asked) == (path, query) or _find(services, new) is None:
        return None
    return f"/{new}?{asked}" if asked else f"/{new}"


def _find(services: Services, path: str) -> tuple[str, tuple[str, ...], tuple[str, ...]] | None:
    """The term an address is about ("" for none) and the pages it starts with; None if nothing is there."""
    for pattern, visitor, signed_in in _KNOWN:
        match = pattern.fullmatch(path)
        if match is None:
            continue
        term = match.groupdict().get("term", "")
        if not term or services.context.catalogue.known(term) is not None:
            return term, visitor, signed_in
    return None


def _asked_first(services: Services, path: str, term: str, signed_in: bool, query: str) -> list[str]:
    """What the page will request first, if known, so that it can be preloaded."""
    if signed_in or query:
        return []
    if term and path == f"{term}/find":
        return [f"/api/terms/{quote(term)}/search?against=&offset=0&limit=100"]
    return ["/api/demo/people"] if not path and services.settings.demo else []


async def _session(services: Services, token: str) -> str:
    """Who is signed in and the terms, embedded in the page to save a request."""
    try:
        session = await services.sessions.find(token_digest(token)) if token else None
        own = await run_in_threadpool(session_response, services, session)
    except (Problem, *Unavailable):
        # The page asks by itself, and says that there is no answer.
        return ""
    told = own.model_dump_json().replace("<", "\\u003c")
    return f'<script type="application/json" id="session">{told}</script>'
