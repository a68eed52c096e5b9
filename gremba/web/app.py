"""The web application."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Any

from fastapi import Depends, FastAPI
from starlette.concurrency import run_in_threadpool
from starlette.types import ASGIApp

from gremba.actions.access.sessions import token_digest
from gremba.logs import set_up_logs
from gremba.settings import Settings
from gremba.web import demo_routes, frontend, problems
from gremba.web.access import audit_log_routes, password_routes, session_routes
from gremba.web.access.cookies import session_cookie
from gremba.web.access.guard import guard
from gremba.web.account import account_routes, cashier_routes, payment_routes, payment_standin
from gremba.web.catalogue import find_routes, section_office_routes, term_office_routes, term_routes
from gremba.web.exchange import import_routes
from gremba.web.messages import stream_routes
from gremba.web.permission import request_routes
from gremba.web.registration import (
    cart_plan_routes,
    cart_routes,
    schedule_link_routes,
    schedule_routes,
    submission_routes,
)
from gremba.web.requests.compression import Compression
from gremba.web.requests.envelope import Envelope
from gremba.web.requests.fast_path import FastPath
from gremba.web.requests.turns import Turns
from gremba.web.services import start
from gremba.web.students import academic_plan_routes, clearance_routes, office_routes, student_office_routes
from gremba.web.timetables import draft_routes, timetable_routes
from gremba.web.waitlists import waitlist_routes
from gremba.web.windows import window_routes

ROUTERS = (
    session_routes.router,
    password_routes.router,
    term_routes.router,
    find_routes.router,
    timetable_routes.router,
    draft_routes.router,
    academic_plan_routes.router,
    cart_routes.router,
    cart_plan_routes.router,
    submission_routes.router,
    schedule_routes.router,
    stream_routes.router,
    schedule_link_routes.router,
    waitlist_routes.router,
    clearance_routes.router,
    office_routes.router,
    request_routes.router,
    account_routes.router,
    payment_routes.router,
    cashier_routes.router,
    term_office_routes.router,
    window_routes.router,
    section_office_routes.router,
    student_office_routes.router,
    import_routes.router,
    audit_log_routes.router,
    demo_routes.router,
)


class DescribedApi(FastAPI):
    """FastAPI whose OpenAPI document gives problems their own media type."""

    def openapi(self) -> dict[str, Any]:
        """The OpenAPI document, built on first use."""
        if self.openapi_schema is None:
            problems.name_media_type(super().openapi())
        return super().openapi()


def create_app() -> ASGIApp:
    """Build the application from the environment's settings (for uvicorn)."""
    settings = Settings()  # type: ignore[call-arg]
    return around(build_app(settings), settings)


def around(app: FastAPI, settings: Settings) -> ASGIApp:
    """Wraps the application in its middleware; the fast path bypasses the framework."""
    cookie = session_cookie(settings.secure_cookies)

    async def whose(token: str) -> int | None:
        # What is found here is at hand when the request is let through.
        session = await app.state.services.sessions.find(token_digest(token))
        return None if session is None else session.person.id

    inner = Compression(Turns(FastPath(app), cookie, whose))
    return Envelope(app, inner, settings.names, over_tls=settings.secure_cookies)


def build_app(settings: Settings) -> FastAPI:
    """Build the application; it connects to the database on startup."""

    set_up_logs()

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        services = app.state.services = await run_in_threadpool(start, settings)
        services.live.begin(asyncio.get_running_loop())
        yield
        services.live.end()
        await run_in_threadpool(services.stop)

    app = DescribedApi(
        title="Gremba",
        description="Register, drop, swap and wait for course sections.",
        version="0.1.0",
        openapi_url="/api/openapi.json" if settings.openapi else None,
        docs_url=None,
        redoc_url=None,
        lifespan=lifespan,
        generate_unique_id_function=lambda route: route.name,
    )
    problems.install(app, ROUTERS)
    for router in ROUTERS:
        app.include_router(
            router,
            dependencies=[Depends(guard)],
            responses=problems.DESCRIBED,
        )
    if settings.payment_standin:
        app.include_router(payment_standin.router)
    if settings.frontend:
        frontend.install(app, Path(settings.frontend))
    return app
