"""Routes that import and export an exchange folder."""

from __future__ import annotations

import asyncio
import json
import queue
import threading
import time
from collections.abc import AsyncIterator, Callable, Iterator
from contextlib import ExitStack, suppress
from datetime import UTC, datetime
from tempfile import SpooledTemporaryFile, TemporaryFile
from typing import IO, Annotated, Any, Literal

import structlog
from fastapi import APIRouter, Query, Request, Response
from fastapi.responses import StreamingResponse
from starlette.concurrency import run_in_threadpool

from gremba.actions.exchange.bring_in import Progress, bring_in
from gremba.actions.exchange.rosters import write_rosters
from gremba.actions.exchange.write_out import write_out
from gremba.actions.problem import Problem, records_away
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.exchange.tables import TABLES
from gremba.core.plain_text import plain
from gremba.core.states import AuditKind
from gremba.formats import table_file
from gremba.formats.exchange.json_schema import json_schema
from gremba.formats.exchange.sheets import UnreadableFile
from gremba.formats.exchange.source import open_packed
from gremba.formats.exchange.writing import write_archive, write_workbook
from gremba.formats.registrations_file import RegistrationRow, registrations_file
from gremba.store.access.audit_log import Entry
from gremba.store.database import Unavailable, connected
from gremba.store.students.people import read_roster, rosters_of_term
from gremba.web.access.guard import SignedIn
from gremba.web.exchange.responses import report_response
from gremba.web.files import TABLE, as_file
from gremba.web.problems import document_of
from gremba.web.schemas import FolderProgress
from gremba.web.services import services_of

router = APIRouter(prefix="/api/exchange")
log = structlog.get_logger()

AT_ONCE = 2
"""Folders that a process reads at a time; one of them waits for the other."""

_LOOKS_EVERY = 0.05
"""Seconds between two looks at how far a folder has come."""

MAX_SECONDS = 1_800
"""For reading one folder in."""

_places = threading.BoundedSemaphore(AT_ONCE)

NDJSON = "application/x-ndjson"
_MEDIA_TYPES = {
    "zip": "application/zip",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
}
_IN_MEMORY = 4 << 20
_PIECE = 256 * 1024

_AS_LINES: dict[int | str, dict[str, Any]] = {
    200: {"description": "Lines of JSON: how far it has come, at last the report", "model": FolderProgress}
}
_FILE: dict[int | str, dict[str, Any]] = {
    200: {"description": "A file", "content": {"application/octet-stream": {}}}
}
Form = Annotated[Literal["zip", "xlsx"], Query(description="One archive of text files, or one workbook")]


@router.post("/folder", responses=_AS_LINES, response_class=StreamingResponse)
async def bring_in_folder(
    request: Request,
    session: SignedIn,
    name: Annotated[str, Query(max_length=200, description="What the file is called")] = "",
    trial: bool = True,
    expected: Annotated[str, Query(max_length=64, description="The digest of the trial's report")] = "",
) -> StreamingResponse:
    """Import a folder, sent as .zip or .xlsx; a trial keeps nothing. The answer is a stream of JSON lines
    with the progress; the last line holds the result."""
    if not _places.acquire(blocking=False):
        raise Problem(ProblemKind.FOLDERS_WAITING, "Try again when they are done.", retry_after=10)
    try:
        file = await _received(request)
        what = plain(f"exchange folder {name}").strip()
        request.state.detail = f"{what} {'tried' if trial else 'sent'}"
        lines = _lines(request, session.person.id, what, file, trial, expected)
    except BaseException:
        _places.release()
        raise
    return StreamingResponse(lines, media_type=NDJSON)


async def _received(request: Request) -> IO[bytes]:
    # Closed by whoever reads it.
    file: IO[bytes] = SpooledTemporaryFile(_IN_MEMORY)  # noqa: SIM115
    async for piece in request.stream():
        # On a disk that is slow nobody else waits.
        await run_in_threadpool(file.write, piece)
    await run_in_threadpool(file.seek, 0)
    return file


def _lines(
    request: Request, person: int, what: str, file: IO[bytes], is_trial: bool, expected: str
) -> AsyncIterator[str]:
    """Imports on a separate thread and yields its progress. If the client disconnects or the time is up, the
    import stops and nothing is kept."""
    told: queue.Queue[FolderProgress | None] = queue.Queue()
    is_left = threading.Event()
    ends_at = time.monotonic() + MAX_SECONDS
    services = services_of(request)
    context, record = services.context, services.record

    def say(now: Progress) -> None:
        if is_left.is_set():
            raise _Ended("It was stopped")
        if time.monotonic() > ends_at:
            raise _Ended(f"It took longer than {MAX_SECONDS // 60} minutes; send it in parts")
        told.put(_progress(now))

    def work() -> None:
        try:
            with open_packed(file) as source:
                report = bring_in(
                    context.database,
                    source,
                    context.clock.now(),
                    is_trial=is_trial,
                    say=say,
                    expected=expected,
                )
            if report.is_done and not report.changes_nothing:
                done = f"{what} taken over"
                record.note(Entry(datetime.now(UTC), AuditKind.OFFICE_ACT, person, detail=done))
            told.put(FolderProgress(doing="done", share=1.0, report=report_response(report)))
        except (UnreadableFile, _Ended) as problem:
            told.put(_problem(Problem(ProblemKind.FOLDER_UNREADABLE, f"{problem}.")))
        except Unavailable:
            told.put(_problem(records_away()))
        except Exception:
            log.exception("a folder could not be read")
            told.put(_problem(Problem(ProblemKind.UNFORESEEN, "Nothing was changed; try again.")))
        finally:
            _places.release()
            told.put(None)

    threading.Thread(target=work, name="exchange", daemon=True).start()
    return _until_none(request, told, is_left)


class _Ended(Exception):
    """The import was stopped; the text says why."""


async def _until_none(
    request: Request, told: queue.Queue[FolderProgress | None], is_left: threading.Event
) -> AsyncIterator[str]:
    try:
        while not await request.is_disconnected():
            with suppress(queue.Empty):
                line = told.get_nowait()
                if line is None:
                    return
                yield line.model_dump_json() + "\n"
                continue
            await asyncio.sleep(_LOOKS_EVERY)
    finally:
        is_left.set()


def _progress(now: Progress) -> FolderProgress:
    return FolderProgress(doing=now.doing, share=round(now.share, 3))


def _problem(problem: Problem) -> FolderProgress:
    return FolderProgress(problem=document_of(problem).model_dump())


@router.get("/folder", responses=_FILE, response_class=Response)
def download_folder(
    request: Request, form: Form = "zip", term: Annotated[str, Query(max_length=40)] = ""
) -> StreamingResponse:
    """Download the college as an exchange folder that can be imported again; for one term, only the tables
    that are by term."""
    services = services_of(request)
    title = services.settings.college or "College"
    code = services.context.term(term).code if term else ""

    def write(file: IO[bytes]) -> None:
        write_out(services.context.database, file, form, title, term=code)

    return _sent(write, _MEDIA_TYPES[form], f"{code or 'college'}.{form}")


def _sent(write: Callable[[IO[bytes]], None], media_type: str, name: str) -> StreamingResponse:
    """Streams a file from disk."""
    closing = ExitStack()
    file = closing.enter_context(TemporaryFile())  # noqa: SIM115
    try:
        write(file)
    except BaseException:
        closing.close()
        raise
    file.seek(0)

    def pieces() -> Iterator[bytes]:
        with closing:
            while piece := file.read(_PIECE):
                yield piece

    headers = {
        "Content-Disposition": f'attachment; filename="{name}"',
        "Cache-Control": "private, no-store",
    }
    return StreamingResponse(pieces(), media_type=media_type, headers=headers)


@router.get("/template", responses=_FILE, response_class=Response)
def download_template(form: Form = "zip") -> StreamingResponse:
    """Download every table of the folder with its columns and no rows."""

    def write(file: IO[bytes]) -> None:
        if form == "zip":
            write_archive(file, "College", TABLES, lambda _: ())
        else:
            write_workbook(file, TABLES, lambda _: ())

    return _sent(write, _MEDIA_TYPES[form], f"template.{form}")


@router.get("/schema", responses=_FILE, response_class=Response)
def download_schema() -> Response:
    """The tables of the folder as a JSON Schema."""
    body = json.dumps(json_schema("Exchange folder", TABLES), indent=1, ensure_ascii=False)
    return as_file(body.encode(), "application/schema+json", "exchange-schema.json")


@router.get("/terms/{term}/rosters", responses=_FILE, response_class=Response)
def download_rosters(request: Request, term: str) -> StreamingResponse:
    """Download a term's rosters for learning platforms, as OneRoster 1.2 CSV."""
    services = services_of(request)
    found = services.context.term(term)
    college = services.settings.college or "College"

    def write(file: IO[bytes]) -> None:
        write_rosters(services.context.database, found.code, college, file)

    return _sent(write, _MEDIA_TYPES["zip"], f"rosters-{found.code}.zip")


@router.get("/terms/{term}/registrations", responses=TABLE, response_class=Response)
def download_registrations(
    request: Request, term: str, number: Annotated[str, Query(max_length=5)] = ""
) -> Response:
    """Download a term's registrations, or one section's, as CSV."""
    context = services_of(request).context
    found = context.term(term)
    section = found.by_number.get(number)
    if number and section is None:
        raise Problem(ProblemKind.SECTION_UNKNOWN, "Look at the list again.", term=found.name, number=number)
    with connected(context.database) as database:
        lines = read_roster(database, section.id) if section else rosters_of_term(database, found.id)
    rows = (
        RegistrationRow(
            found.by_id[line.section_id].reference_number,
            found.by_id[line.section_id].name,
            line.username,
            line.full_name,
            line.program,
            line.credits,
            line.grading,
            line.registered_at.astimezone(found.calendar.zone),
        )
        for line in lines
        if line.section_id in found.by_id
    )
    return as_file(registrations_file(rows), table_file.MEDIA_TYPE, f"{number or term}-registered.csv")
