"""The web application."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path

from fastapi import Depends, FastAPI
from starlette.concurrency import run_in_threadpool
from starlette.types import ASGIApp

from gremba.actions.sessions import token_digest
from gremba.logs import set_up_logs
from gremba.settings import Settings
from gremba.web import frontend, payment_standin, problems
from gremba.web.access import guard
from gremba.web.compression import Compression
from gremba.web.cookies import session_cookie
from gremba.web.envelope import Envelope
from gremba.web.fast_path import FastPath
from gremba.web.routes import (
    account,
    cart,
    cashier,
    clearance,
    demo,
    drafts,
    exchange,
    find,
    fits,
    keep,
    offices,
    passwords,
    paying,
    plans,
    record,
    requests,
    section_office,
    session,
    stream,
    student_office,
    study_plans,
    submissions,
    term_office,
    terms,
    waitlists,
    week,
    window_office,
)
from gremba.web.services import start
from gremba.web.turns import Turns

ROUTERS = (
    session.router,
    passwords.router,
    terms.router,
    find.router,
    fits.router,
    drafts.router,
    study_plans.router,
    cart.router,
    plans.router,
    submissions.router,
    week.router,
    stream.router,
    keep.router,
    waitlists.router,
    clearance.router,
    offices.router,
    requests.router,
    account.router,
    paying.router,
    cashier.router,
    term_office.router,
    window_office.router,
    section_office.router,
    student_office.router,
    exchange.router,
    record.router,
    demo.router,
)


def create_app() -> ASGIApp:
    """The application as settings from the environment describe it (for uvicorn)."""
    settings = Settings()  # type: ignore[call-arg]
    return around(build_app(settings), settings)


def around(app: FastAPI, settings: Settings) -> ASGIApp:
    """What stands around the application: the fast path for submissions passes all of its own
    machinery."""
    cookie = session_cookie(settings.secure_cookies)

    async def whose(token: str) -> int | None:
        # What is found here is at hand when the request is let through.
        session = await app.state.services.sessions.find(token_digest(token))
        return None if session is None else session.person.id

    inner = Compression(Turns(FastPath(app), cookie, whose))
    return Envelope(app, inner, settings.names, over_tls=settings.secure_cookies)


def build_app(settings: Settings) -> FastAPI:
    """The application for these settings; the database is reached when it starts."""

    set_up_logs()

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        services = app.state.services = await run_in_threadpool(start, settings)
        services.live.begin(asyncio.get_running_loop())
        yield
        services.live.end()
        await run_in_threadpool(services.stop)

    app = FastAPI(
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
