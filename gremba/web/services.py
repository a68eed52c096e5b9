"""The services of one web process, started and stopped with it."""

from __future__ import annotations

import gc
import sys
from dataclasses import dataclass, field

import structlog
from starlette.requests import Request

from gremba.actions.access.audit_anchor import AnchorSender, sender_of
from gremba.actions.access.audit_log import AuditWriter
from gremba.actions.account.payment_service import AnswersOnly, PaymentService
from gremba.actions.catalogue.find_sections import Finder
from gremba.actions.context import ActionContext, Clock
from gremba.actions.messages.mail import Postman
from gremba.actions.problem import Problem
from gremba.actions.registration.batch_queue import BatchQueue
from gremba.actions.registration.process_submissions import SubmissionAnswer, process_submissions
from gremba.actions.registration.submission import Submission
from gremba.actions.sweep import Sweepers
from gremba.actions.timetables.ask import MOST_OF_ONE as MOST_QUESTIONS_OF_ONE
from gremba.actions.timetables.ask import MOST_WAITING, Asked, Fitted, answer_each
from gremba.actions.timetables.drafts import Drafts
from gremba.core.waitlists.chances import Chances, PastEntry
from gremba.settings import Settings
from gremba.standins.clock import RealClock, SettableClock
from gremba.standins.passwords import Verifier
from gremba.standins.payment import StandInPayments
from gremba.store.catalogue.cache import CatalogueCache
from gremba.store.catalogue.follower import CatalogueFollower
from gremba.store.catalogue.seat_board import SeatBoard
from gremba.store.catalogue.terms import list_terms
from gremba.store.database import connect, connected
from gremba.store.listener import Listener
from gremba.store.long_lived_thread import LongLivedThread
from gremba.store.waitlists.lines import read_past_entries
from gremba.web.access.cookies import Cookie, browser_cookie, session_cookie
from gremba.web.access.guard import SessionCache
from gremba.web.catalogue.find_responses import Rows
from gremba.web.catalogue.seats_told import SeatsTold
from gremba.web.messages.live import Live
from gremba.web.requests.limits import RateLimit, Slots

log = structlog.get_logger()

MOST_OF_ONE = 6
"""Submissions of one student that may wait for the one before them."""

REPORTS_A_MINUTE = 6
"""Reports of pages that failed, a person or address."""

STREAMS_OF_SESSION = 12
"""Pages that one session may have open in a process."""

STREAMS_OF_ADDRESS = 300
"""Pages open without signing in, an address, which a whole campus may share."""

LINKS_A_MINUTE = 20
"""Links for setting a password that are looked at or used, an address."""

SUBMISSIONS_A_MINUTE = 30
"""Submissions of one person in a process, for whomever they are."""


@dataclass(slots=True)
class Services:
    """Everything a process needs to answer requests; see :func:`start`."""

    settings: Settings
    context: ActionContext
    sessions: SessionCache
    submission_queue: BatchQueue[Submission, SubmissionAnswer]
    timetable_queue: BatchQueue[Asked, Fitted | Problem]
    drafts: Drafts
    listener: Listener
    follower: CatalogueFollower
    campus_clock: SettableClock | None
    finder: Finder
    board: SeatBoard
    live: Live
    sweeper: Sweepers
    postman: Postman | None
    anchor_sender: AnchorSender | None
    chances: Chances
    session_cookie: Cookie
    browser_cookie: Cookie
    verifier: Verifier
    payments: PaymentService
    record: AuditWriter
    submissions_a_minute: RateLimit
    reports_a_minute: RateLimit
    links_a_minute: RateLimit
    streams_of_session: Slots = field(default_factory=lambda: Slots(STREAMS_OF_SESSION))
    streams_of_address: Slots = field(default_factory=lambda: Slots(STREAMS_OF_ADDRESS))
    seats_told: SeatsTold = field(default_factory=SeatsTold)

    @property
    def troubles(self) -> dict[str, str]:
        """What is wrong with background threads, by name."""
        threads: list[LongLivedThread] = [
            *self.submission_queue.threads,
            *self.timetable_queue.threads,
            *self.sessions.threads,
            *self.sweeper.threads,
            self.listener,
            self.follower,
            self.board,
            self.record,
        ]
        threads += [thread for thread in (self.postman, self.anchor_sender) if thread is not None]
        return {thread.name: thread.trouble for thread in threads if thread.trouble}

    def stop(self) -> None:
        """Finish the queue, then close everything."""
        self.submission_queue.stop()
        self.timetable_queue.stop()
        self.sessions.stop()
        self.verifier.stop()
        self.record.stop()
        self.sweeper.stop()
        for thread in (self.postman, self.anchor_sender):
            if thread is not None:
                thread.stop()
        self.listener.stop()
        self.follower.stop()
        self.board.stop()
        self.context.database.close_all()


def start(settings: Settings) -> Services:
    """Connect, load the catalogue, and start the submission queue and the listener."""
    # The queue waits for the database many times a batch, and each time wants the interpreter back from
    # the thread that serves HTTP. With Python's default of 5 ms, 8 percent fewer submissions a second
    # (median of nine rounds by turns); switching much more often costs more than it gains.
    sys.setswitchinterval(0.002)
    # A batch makes thousands of small objects and drops all of them; a collection every 700, the default,
    # finds no cycles among them and costs 5 percent of the submissions a second.
    gc.set_threshold(50_000, 20, 50)
    database = connect(settings.database_url, most_connections=40)
    campus_clock = SettableClock(database) if settings.demo else None
    clock: Clock = campus_clock or RealClock()
    catalogue = CatalogueCache(database)
    context = ActionContext(database, catalogue, clock)
    sessions = SessionCache(database, batching_window=settings.batching_window)
    with connected(database):
        codes = [term.code for term in list_terms(database)]
    for code in codes:
        catalogue.reload(code)

    live = Live()
    board = SeatBoard(database, live.seats_changed)
    board.read()
    finder = Finder(board)

    def prepare_to_find(code: str) -> None:
        term = context.term(code)
        today = term.calendar.local_date(clock.now())
        Rows(finder.index(term), finder.seats, finder.fit(term, ()), today).prepare()
        # All of it stays; the garbage collector need not look through it again and again.
        gc.collect()
        gc.freeze()

    for code in codes:
        prepare_to_find(code)
    with connected(database):
        past = read_past_entries(database, clock.now().date())
    chances = Chances(PastEntry(*entry) for entry in past)

    def changed_catalogue(code: str) -> None:
        prepare_to_find(code)
        live.term_changed(code)

    follower = CatalogueFollower(catalogue, changed_catalogue)

    send_anchor = sender_of(settings.audit_anchor, settings.mail)
    anchor_sender = None if send_anchor is None else AnchorSender(database, send_anchor)
    postman = None if settings.mail is None else Postman(context, settings.mail)
    sweeper = Sweepers(context, catalogue.in_memory)

    def moved_clock(_: str) -> None:
        if campus_clock is not None:
            campus_clock.reload()
            sweeper.clock_moved()
            live.clock_moved()

    def ended_session(digest_hex: str) -> None:
        sessions.ended(digest_hex)
        live.session_ended(digest_hex)

    def missed() -> None:
        follower.missed()
        sessions.forget()
        board.missed()
        live.missed()
        moved_clock("")

    listener = Listener(
        database,
        {
            "gremba_catalogue": follower.announced,
            "gremba_clock": moved_clock,
            "gremba_session_end": ended_session,
            "gremba_students": live.students_changed,
            "gremba_seats": board.announced,
            "gremba_freed_seats": sweeper.wake,
        },
        missed,
    )
    board.start()
    sweeper.start()
    if postman is not None:
        postman.start()
    follower.start()
    if anchor_sender is not None:
        anchor_sender.start()
    listener.start()
    record = AuditWriter(database)
    record.start()
    submission_queue = BatchQueue[Submission, SubmissionAnswer](
        lambda batch: process_submissions(context, batch),
        key=lambda submission: submission.student_term_id,
        threads=settings.batch_queue_threads,
        slow=lambda submission: submission.chooses,
        most_of_one=MOST_OF_ONE,
        batching_window=settings.batching_window,
    )
    # One at a time: a long search takes turns with everything else in the process as one thread.
    timetable_queue = BatchQueue[Asked, Fitted | Problem](
        lambda questions: answer_each(context, board, questions),
        key=lambda asked: asked.student_id,
        most=1,
        longest=MOST_WAITING,
        most_of_one=MOST_QUESTIONS_OF_ONE,
        name="timetables",
    )
    secret = settings.payment_secret
    return Services(
        settings,
        context,
        sessions,
        submission_queue,
        timetable_queue,
        Drafts(context, board),
        listener,
        follower,
        campus_clock,
        finder,
        board,
        live,
        sweeper,
        postman,
        anchor_sender,
        chances,
        session_cookie(settings.secure_cookies),
        browser_cookie(settings.secure_cookies),
        Verifier(),
        StandInPayments(secret) if settings.payment_standin else AnswersOnly(secret),
        record,
        RateLimit(SUBMISSIONS_A_MINUTE),
        RateLimit(REPORTS_A_MINUTE),
        RateLimit(LINKS_A_MINUTE),
    )


def services_of(request: Request) -> Services:
    """The services of the process handling a request."""
    services: Services = request.app.state.services
    return services
