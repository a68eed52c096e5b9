"""Builds the demo: catalogue, people, transcripts, and the morning up to the clock's time."""

from __future__ import annotations

import random
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from types import SimpleNamespace

from playhouse.pool import PooledPostgresqlDatabase

from gremba.actions.context import ActionContext
from gremba.core.account.policy import AccountPolicy, account_policy_data
from gremba.core.catalogue.requisites import to_data
from gremba.core.catalogue.term import TermCatalogue
from gremba.core.messages import MessageKind, message
from gremba.core.states import WaitlistState
from gremba.core.wording import moment, times_text
from gremba.demo.accounts import fill_accounts
from gremba.demo.cast import CAST, ISOLDE, JUNIPER, ODO, OFFICES, PASSWORD, TOBIN, WREN
from gremba.demo.clearance_texts import CLEARANCE_TEXTS
from gremba.demo.courses import CoursePlan, read_courses
from gremba.demo.morning import Crowd, Morning, SetClock, early_time
from gremba.demo.names import names
from gremba.demo.next_term import prepare_next_term
from gremba.demo.records_of_cast import PROGRAM_AND_YEAR, RECORDS
from gremba.demo.requests_of_cast import (
    add_heads,
    add_rooms,
    play_requests,
    take_waitlist_away,
)
from gremba.demo.roles_of_cast import play_cast
from gremba.demo.season import (
    EARLY_WINDOW,
    FIRST_WINDOW,
    FIRST_YEARS_WINDOW,
    HARVEST,
    JUNIPERS_WINDOW,
    LATE_WINDOW,
    MORNING,
    OFFER_MADE,
    TERMS,
    THAW,
    TOBINS_WINDOW,
    WINDOWS_CLOSE,
    ZONE,
    TermPlan,
    at,
)
from gremba.demo.students import (
    PROGRAMS,
    STUDENT_COUNT,
    Records,
    StudentPlan,
    enter,
    hold_row,
    standing_of,
)
from gremba.demo.tables import Tables
from gremba.demo.tariffs import HARVEST_ACCOUNT, HARVEST_TARIFF, THAW_TARIFF
from gremba.demo.timetable import SectionPlan, TermTimetable
from gremba.standins.clock import set_campus_time
from gremba.standins.passwords import hash_password
from gremba.store.account.rates import fee_rows, rate_rows
from gremba.store.catalogue.cache import CatalogueCache
from gremba.store.database import connected, run_sql
from gremba.store.installation import InstallationKind, look_at, mark_as_demo, migrate
from gremba.store.models import Message, WaitlistEntry
from gremba.store.queries import fetch, write

SEED = 20270419
Say = Callable[[str], None]

CAMPUSES = {"hillfoot": "Hillfoot", "millrace": "Millrace", "skyfield": "Skyfield"}
TRAVEL = (("hillfoot", "millrace", 15), ("hillfoot", "skyfield", 25), ("millrace", "skyfield", 30))
SHARES = {"thaw-2027": 1.0, "high-summer-2027": 0.25, "harvest-2027": 1.0}


@dataclass
class Build:
    """The demo while it is built."""

    rng: random.Random
    tables: Tables = field(default_factory=Tables)
    students: list[StudentPlan] = field(default_factory=list)
    sections: dict[str, list[SectionPlan]] = field(default_factory=dict)
    windows: dict[int, datetime] = field(default_factory=dict)
    rows_of: dict[int, int] = field(default_factory=dict)


def build_demo(database: PooledPostgresqlDatabase, say: Say) -> None:
    """Fill a database with the demo; an older demo in it is dropped first.

    Args:
        say: told what is being done, a line at a time.

    Raises:
        ValueError: it holds anything else.
    """
    say("Preparing the tables")
    empty(database)
    migrate(database)
    with connected(database):
        mark_as_demo(database, is_complete=False)
    build = Build(random.Random(SEED))
    say("Writing the catalogue: 3 terms")
    _campuses(build)
    courses = read_courses()[1]
    teachers = _offices_and_teachers(build)
    for term_id, plan in enumerate(TERMS, 1):
        _term(build, term_id, plan, courses, teachers)
    take_waitlist_away(build.tables)
    add_rooms(build.tables)
    add_heads(build.tables, teachers, _PETRA)
    say(f"Making up {STUDENT_COUNT:,} students and their records")
    records = _students(build, courses)
    _thaw_registrations(build)
    _thaw_waitlists(build)
    with connected(database), database.atomic():
        build.tables.write(database)
        set_campus_time(database, MORNING)
    clock = SetClock(MORNING)
    context = ActionContext(database, CatalogueCache(database), clock)
    term = context.term(HARVEST.code)
    morning = Morning(context, clock, term, build.rows_of)
    crowd = Crowd(build.rng, records, build.sections[HARVEST.code])
    _play_morning(build, morning, crowd, say)
    say("Preparing the term after the next")
    prepare_next_term(context)
    say("Writing the accounts")
    fill_accounts(context)
    with connected(database):
        run_sql(database, _HISTORY, (OFFER_MADE,))
        _tell_of_offers(database, term)
        # The clock starts when the demo is ready, not when it was begun.
        set_campus_time(database, MORNING)
        run_sql(database, "ANALYZE")
        mark_as_demo(database, is_complete=True)
    say("The demo is ready")


def _tell_of_offers(database: PooledPostgresqlDatabase, term: TermCatalogue) -> None:
    """The messages about open offers; they were mailed long ago."""
    offered = WaitlistEntry.state == WaitlistState.OFFERED
    for entry in fetch(database, WaitlistEntry.select().where(offered), SimpleNamespace):
        section = term.by_id[entry.section_id]
        until = moment(entry.offer_until.astimezone(term.calendar.zone))
        told = message(MessageKind.OFFERED, section, times=times_text(section.meetings), until=until)
        new = Message.insert(
            student_term=entry.student_term_id,
            entry=entry.id,
            kind=told.kind,
            facts=dict(told.facts),
            until=entry.offer_until,
            made_at=OFFER_MADE,
            mailed_at=OFFER_MADE,
        )
        write(database, new)


_HISTORY = """
WITH joined AS (
    INSERT INTO waitlist_events (entry_id, what, at)
    SELECT id, 'joined', joined_at FROM waitlist_entries ORDER BY joined_at, id
)
INSERT INTO waitlist_events (entry_id, what, at)
SELECT id, 'offered', %s FROM waitlist_entries WHERE state = 'offered'
"""


def empty(database: PooledPostgresqlDatabase) -> None:
    """Drop everything in the public schema of a database that holds the demo and nothing else.

    Raises:
        ValueError: it holds anything else.
    """
    with connected(database), database.atomic():
        found = look_at(database)
        begun = found.kind is InstallationKind.OURS and not found.is_demo and not found.has_people
        if found.kind is InstallationKind.EMPTY or begun:
            return
        if not found.is_demo or found.strange:
            raise ValueError("only a database that is marked as demo is made anew")
        run_sql(database, "DROP SCHEMA public CASCADE")
        run_sql(database, "CREATE SCHEMA public")


def _campuses(build: Build) -> None:
    for code, name in CAMPUSES.items():
        build.tables.add_link("campuses", code=code, name=name)
    for one, other, minutes in TRAVEL:
        build.tables.add_link("travel", campus_from=one, campus_to=other, minutes=minutes)
    subjects, courses = read_courses()
    for code, name in subjects.items():
        build.tables.add_link("subjects", code=code, name=name)
    for course in courses:
        build.tables.add(
            "courses",
            subject=course.subject,
            number=course.number,
            title=course.title,
            description=_description(course),
            credits_least=course.credits[0],
            credits_most=course.credits[1],
            requisites=None if course.requisites is None else to_data(course.requisites),
            gradings=["pass/no pass"] if course.key == "FARM 260" else ["standard", "pass/no pass", "audit"],
            equivalents=_EQUIVALENTS.get(course.key, []),
            by_topic=course.marked("topic"),
            tags=course.tags,
            attempts_allowed=None if course.teaching == "project" else 3,
            repeats="for credit"
            if course.teaching == "project"
            else "never after a pass"
            if course.teaching == "seminar"
            else "best counts",
            fees=[{"label": "materials", "cents": course.fee_cents}] if course.fee_cents else [],
        )


_EQUIVALENTS = {"FARM 101": ["SHEP 100"], "MAPS 140": ["SURV 140"]}
"""Courses that had other numbers until Harvest 2025."""


def _description(course: CoursePlan) -> str:
    how = {
        "lab": "Lectures with a weekly lab",
        "studio": "Work in the shop under guidance",
        "field": "Whole mornings or afternoons outside",
        "half": "Seven weeks, twice a week",
        "project": "A piece of work of your own",
        "seminar": "A small circle with much to read",
    }.get(course.teaching, "Lectures and discussion")
    return f"{course.title}. {how}."


_PETRA = 3
"""Her id: the offices' people are the first."""


def _offices_and_teachers(build: Build) -> dict[str, list[int]]:
    hashed = hash_password(PASSWORD)
    tables = build.tables
    taken = {p.full_name for p in (*CAST, *OFFICES)}
    build_names = names(build.rng, taken)

    def person(username: str, full_name: str, role: str) -> int:
        return tables.add(
            "persons",
            username=username,
            full_name=full_name,
            role=role,
            email=f"{username}@brindlemere.example",
            password_hash=hashed,
        )

    for player in OFFICES:
        person(player.username, player.full_name, player.who)
    for _ in range(11):
        username, full_name = next(build_names)
        person(username, full_name, "advisor")
    teachers: dict[str, list[int]] = {}
    for subject in read_courses()[0]:
        own = [person(*next(build_names), "instructor") for _ in range(4)]
        teachers[subject] = [_PETRA, *own] if subject in ("CERM", "TXTL") else own
    for player in CAST:
        person(player.username, player.full_name, "student")
    for _ in range(STUDENT_COUNT - len(CAST)):
        person(*next(build_names), "student")
    return teachers


def _term(
    build: Build,
    term_id: int,
    plan: TermPlan,
    courses: tuple[CoursePlan, ...],
    teachers: dict[str, list[int]],
) -> None:
    tables = build.tables
    tariff = HARVEST_TARIFF if plan is HARVEST else THAW_TARIFF
    tables.add(
        "terms",
        code=plan.code,
        name=plan.name,
        zone=str(ZONE),
        first_day=plan.first,
        last_day=plan.last,
        state=plan.state,
        late_from=tariff.late_from,
        late_cents=tariff.late_cents,
        policy={
            "credit_limits": {"good": 18, "probation": 13},
            "account": account_policy_data(HARVEST_ACCOUNT if plan is HARVEST else AccountPolicy()),
            "clearance": CLEARANCE_TEXTS,
        },
    )
    for rate in rate_rows(tariff):
        tables.add_link("tariff_rates", term_id=term_id, **rate)
    for fee in fee_rows(tariff):
        tables.add("tariff_fees", term_id=term_id, **fee)
    for name, first, last in plan.breaks:
        tables.add_link("term_breaks", term_id=term_id, name=name, first_day=first, last_day=last)
    sessions = {b.code: tables.add("term_sessions", term_id=term_id, **b.row()) for b in plan.sessions}
    timetable = TermTimetable(tables, build.rng, term_id, plan, teachers, SHARES[plan.code])
    if plan.code == "high-summer-2027":
        courses = tuple(c for c in courses if c.level == 1 and c.teaching in ("pair", "half"))
    timetable.fill(courses, sessions)
    timetable.cross_list()
    if plan is HARVEST:
        timetable.bundle_first_years()
        timetable.add_discussions()
    build.sections[plan.code] = timetable.sections


def _students(build: Build, courses: tuple[CoursePlan, ...]) -> Records:
    rng, tables = build.rng, build.tables
    records = Records(rng, courses)
    credits = {c.key: c.credits[0] for c in courses}
    people = [p for p in tables.rows["persons"] if p["role"] == "student"]
    advisors = [p["id"] for p in tables.rows["persons"] if p["role"] == "advisor"]
    for person in people:
        scripted = RECORDS.get(person["username"])
        if scripted is not None:
            program, year = PROGRAM_AND_YEAR[person["username"]]
            terms = len(scripted)
        else:
            program = rng.choice(list(PROGRAMS))
            terms = rng.choices(range(1, 9), (3, 25, 4, 22, 4, 20, 4, 18))[0]
            year = (terms + 1) // 2
        student = StudentPlan(person["id"], person["username"], person["full_name"], program, year)
        tables.add_link(
            "students",
            id=student.id,
            program=program,
            cohort=student.cohort,
            campus=rng.choices(["hillfoot", "skyfield"], (9, 1))[0],
            residence=rng.choice(["North House", "Mill House", "Orchard House", "", ""]),
            advisor_id=advisors[0] if scripted else rng.choice(advisors),
            receives_aid=person["username"] == TOBIN.username or person["id"] % 5 < 2,
        )
        tables.add_link("contact_details", student_id=student.id, **_reached(student.id))
        if scripted is None:
            records.fill(tables, student, terms)
            student.last_term = terms == 8 and rng.random() < 0.4
            student.standing = standing_of(rng, student)
        else:
            for name, entries in scripted.items():
                for key, grade in entries:
                    enter(tables, student, key, credits[key], name, grade)
            student.standing = "probation" if student.username == ODO.username else "good"
            student.last_term = student.username == ISOLDE.username
        build.students.append(student)
    _terms_of_students(build)
    return records


def _reached(student: int) -> dict[str, str]:
    """Contact details; the phone numbers are of the range reserved for fiction (555-01xx)."""
    return {
        "phone": f"555-01{student % 100:02d}",
        "address": f"{student % 90 + 3} Quern Lane, Brindlemere",
        "emergency_name": "Next of kin",
        "emergency_phone": f"555-01{(student * 7) % 100:02d}",
    }


def _terms_of_students(build: Build) -> None:
    tables, rng = build.tables, build.rng
    placed = at(THAW.first + timedelta(60), 11)
    advisors = {s["id"]: s["advisor_id"] for s in tables.rows["students"]}
    _assign_windows(build)
    for student in build.students:
        tables.add(
            "student_terms",
            student_id=student.id,
            term_id=1,
            standing=student.standing,
            credit_limit=None,
        )
    for student in build.students:
        row = tables.add(
            "student_terms",
            student_id=student.id,
            term_id=3,
            standing=student.standing,
            credit_limit=20 if rng.random() < 0.01 else None,
        )
        build.rows_of[student.id] = row
        for opens, closes in ((build.windows[student.id], WINDOWS_CLOSE), LATE_WINDOW):
            tables.add_link("windows", student_term_id=row, opens_at=opens, closes_at=closes)
        open_items = {
            TOBIN.username: {"agreement", "details"},
            ODO.username: {"release", "orientation"},
            WREN.username: set(),
            ISOLDE.username: set(),
            JUNIPER.username: set(),
        }
        early = build.windows[student.id] <= MORNING
        for kind in ("agreement", "details", "survey", "orientation", "release"):
            not_done = open_items.get(student.username)
            done = kind not in not_done if not_done is not None else early or rng.random() < 0.6
            tables.add_link(
                "clearance_items",
                student_term_id=row,
                kind=kind,
                done_at=placed if done else None,
                done_by=(advisors[student.id] if kind == "release" else student.id) if done else None,
            )
        if student.username == TOBIN.username:
            tables.add(
                "holds",
                student_id=student.id,
                kind="fee",
                reason="A workshop fee of 62.00 from Thaw 2027 is unpaid.",
                office="the cashier",
                contact="Hillfoot, room 3, or the payment page",
                stops=["add", "swap", "wait"],
                cleared_by="student",
                amount_cents=6200,
                placed_at=placed,
                lifted_at=None,
            )
        elif student.username not in RECORDS and rng.random() < 0.05:
            tables.add("holds", **hold_row(student.id, rng, placed))


def _assign_windows(build: Build) -> None:
    """Windows by credits earned, most first; ties by a seeded draw."""
    draw = {s.id: build.rng.random() for s in build.students}
    ranked = sorted(build.students, key=lambda s: (-s.credits, draw[s.id]))
    starts = {
        4: FIRST_WINDOW,
        3: FIRST_WINDOW + timedelta(minutes=60),
        2: TOBINS_WINDOW,
        1: FIRST_YEARS_WINDOW,
    }
    slots = {4: 2, 3: 3, 2: 14, 1: 14}
    for year in (4, 3, 2, 1):
        same = [s for s in ranked if s.year == year]
        for index, student in enumerate(same):
            slot = index * slots[year] // len(same)
            build.windows[student.id] = starts[year] + timedelta(minutes=30 * slot)
            if student.last_term:
                build.windows[student.id] = EARLY_WINDOW
    by_name = {s.username: s for s in build.students}
    build.windows[by_name[WREN.username].id] = FIRST_WINDOW + timedelta(hours=2)
    build.windows[by_name[TOBIN.username].id] = TOBINS_WINDOW
    build.windows[by_name[ODO.username].id] = FIRST_YEARS_WINDOW
    build.windows[by_name[JUNIPER.username].id] = JUNIPERS_WINDOW


def _thaw_waitlists(build: Build) -> None:
    """The results of the running term's waitlists: the better the position, the more likely a seat; labs
    move less than lectures."""
    rng = random.Random(SEED + 1)
    opened, closed = at(THAW.first - timedelta(60), 9), at(THAW.first - timedelta(1), 22)
    for section in build.sections[THAW.code]:
        if section.cancelled or rng.random() < 0.45:
            continue
        seats_freed = rng.choice((0, 0, 1, 1, 2, 3, 5) if section.component != "lab" else (0, 0, 1, 2))
        waiting = rng.sample(range(1, len(build.students) + 1), rng.randint(1, 8))
        for position, row in enumerate(waiting):
            came_up = position < seats_freed
            joined = opened + timedelta(hours=3 * position + rng.random())
            build.tables.add(
                "waitlist_entries",
                student_term_id=row,
                term_id=1,
                section_id=section.id,
                pool_id=section.pool,
                state="given" if came_up else "closed",
                joined_at=joined,
                ended_at=joined + timedelta(days=1 + 20 * rng.random()) if came_up else closed,
            )


def _thaw_registrations(build: Build) -> None:
    """Courses in progress become sections of the running term, as far as they fit a schedule."""
    tables = build.tables
    options: dict[str, list[SectionPlan]] = {}
    for section in build.sections[THAW.code]:
        if section.component != "lab" and not section.cancelled:
            options.setdefault(section.course.key, []).append(section)
    pools = {p["id"]: p for p in tables.rows["seat_pools"]}
    taken: dict[int, int] = {}
    registered = at(THAW.first - timedelta(60), 10)
    for row, student in enumerate(build.students, 1):
        week = 0
        for key in sorted(student.running):
            best = sorted(options.get(key, ()), key=lambda s: taken.get(s.pool, 0))
            primary = next((s for s in best if not s.week & week), None)
            if primary is None:
                continue
            labs = sorted(primary.labs, key=lambda s: taken.get(s.pool, 0))
            lab = next((s for s in labs if not s.week & week), None)
            for section in (primary, lab) if lab else (primary,):
                week |= section.week
                taken[section.pool] = taken.get(section.pool, 0) + 1
                tables.add(
                    "registrations",
                    student_term_id=row,
                    term_id=1,
                    section_id=section.id,
                    pool_id=section.pool,
                    state="registered",
                    grading="standard",
                    credits=0 if section.component == "lab" else section.course.credits[0],
                    registered_at=registered,
                )
    for pool, many in taken.items():
        pools[pool]["seat_limit"] = max(pools[pool]["seat_limit"], many)


def _play_morning(build: Build, morning: Morning, crowd: Crowd, say: Say) -> None:
    rng = build.rng
    cast = {s.username: s for s in build.students if s.username in RECORDS}
    others = [s for s in build.students if s.username not in RECORDS]
    early = [s for s in others if s.last_term]
    open_now = [
        s for s in others if not s.last_term and build.windows[s.id] <= MORNING and rng.random() < 0.94
    ]
    say(f"Letting {len(early) + len(open_now):,} students register")
    done = 0

    def tick(many: int) -> None:
        nonlocal done
        done += many
        if done // 320 > (done - many) // 320:
            say(f"  {done:,} have registered")

    friday = sorted(
        ((s, early_time(rng, EARLY_WINDOW), crowd.choose(s, 15)) for s in early),
        key=lambda w: w[1],
    )
    morning.register(friday, "friday", tick)
    monday = sorted(
        ((s, min(early_time(rng, build.windows[s.id]), MORNING), crowd.choose(s, 15)) for s in open_now),
        key=lambda w: w[1],
    )
    play_cast(morning, crowd, cast, [w[0] for w in friday], before=True)
    morning.register(monday, "monday", tick)
    waiting = morning.queue_up(rng, MORNING - timedelta(minutes=1))
    say(f"  {waiting:,} wait for a seat")
    play_cast(morning, crowd, cast, [w[0] for w in friday], before=False)
    say("Asking Petra")
    play_requests(morning, cast, [w[0] for w in monday])
