"""A large college from an exchange folder: 50,000 students, each with eight terms on their record and a
plan of eight lines, and 5,000 sections, into an empty database, and the same again, where nothing changes."""

from __future__ import annotations

import csv
import os
import random
import re
import subprocess
import sys
import time
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from datetime import date, timedelta
from pathlib import Path

STUDENTS, SECTIONS, TERMS, COURSES_A_TERM = 50_000, 5_000, 8, 5
LINES_OF_A_PLAN = 8
_SUBJECTS = ["".join((one, other, "RT")) for one in "ABCDE" for other in "KLMNP"]
_COURSES = [f"{subject} {number}" for subject in _SUBJECTS for number in range(100, 500, 10)]
_FIRST, _LAST = date(2027, 8, 23), date(2027, 12, 10)
_GRADES = ["A", "A-", "B+", "B", "B-", "C+", "C", "D", "F"]


@dataclass(frozen=True)
class Exchanging:
    """What was measured.

    Attributes:
        rows: of the folder, all tables together.
        seconds, megabytes: of reading it into an empty database; memory is the reading process's, at its
            most.
        again_seconds: of reading it once more.
    """

    rows: int
    seconds: float
    megabytes: float
    again_seconds: float


def write_college(folder: Path) -> int:
    """Write the folder; gives how many rows it has."""
    folder.mkdir(parents=True, exist_ok=True)
    rng = random.Random(11)
    many = 0
    for name, heading, rows in _tables(rng):
        with (folder / f"{name}.csv").open("w", encoding="utf-8", newline="") as file:
            writer = csv.writer(file)
            writer.writerow(heading.split(","))
            for row in rows:
                writer.writerow(row)
                many += 1
    return many


def _tables(rng: random.Random) -> Iterator[tuple[str, str, Iterable[Iterable[object]]]]:
    students = [f"student{n}" for n in range(STUDENTS)]
    numbers = [f"{20_000 + n}" for n in range(SECTIONS)]
    teachers = [f"teacher{n}" for n in range(1_000)]
    yield "campuses", "code,name", [("hill", "Hill")]
    yield "rooms", "campus,name,capacity", [("hill", f"Room {n}", 60) for n in range(400)]
    yield (
        "terms",
        "code,name,zone,first_day,last_day",
        [("autumn", "Autumn 2027", "America/New_York", _FIRST, _LAST)],
    )
    yield (
        "sessions",
        "term,code,name,first_day,last_day,add_by,drop_by,withdraw_by,refunds",
        [("autumn", "full", "full term", _FIRST, _LAST, "2027-08-27", "2027-09-03", "2027-11-05", "")],
    )
    yield "subjects", "code,name", [(subject, f"Art of {subject}") for subject in _SUBJECTS]
    yield (
        "courses",
        "subject,number,title,credits_least,credits_most",
        [(*course.split(), f"On {course}", 3, 3) for course in _COURSES],
    )
    yield (
        "people",
        "username,full_name,role,email",
        (
            (name, name.capitalize(), role, f"{name}@college.example")
            for role, names in (("student", students), ("instructor", teachers))
            for name in names
        ),
    )
    yield "students", "username,program,cohort", ((name, "Farming", "2025") for name in students)
    yield (
        "records",
        "username,course,term,grade,credits",
        (
            (name, course, f"Term {term}", rng.choice(_GRADES), 3)
            for name in students
            for term in range(TERMS)
            for course in rng.sample(_COURSES, COURSES_A_TERM)
        ),
    )
    yield (
        "sections",
        "term,number,course,session,component,seats,waitlist_limit",
        (
            ("autumn", number, _COURSES[n % len(_COURSES)], "full", "lecture", 40, 10)
            for n, number in enumerate(numbers)
        ),
    )
    yield (
        "meetings",
        "term,number,weekdays,starts,ends,first_day,last_day,campus,room",
        (
            ("autumn", number, ("MW", "TR")[n % 2], *_hours(n), _FIRST, _LAST, "hill", f"Room {n % 400}")
            for n, number in enumerate(numbers)
        ),
    )
    yield (
        "instructors",
        "term,number,username",
        (("autumn", number, teachers[n % 1_000]) for n, number in enumerate(numbers)),
    )
    yield (
        "tariff_rates",
        "term,rate_class,per_credit",
        [("autumn", "", "245.00"), ("autumn", "beyond", "385.00")],
    )
    yield (
        "plans",
        "username,version,written_by,written_at",
        ((name, 1, "teacher0", "2027-03-19T11:00") for name in students),
    )
    yield (
        "plan_lines",
        "username,version,place,term,courses",
        (
            (name, 1, line + 1, "autumn", "; ".join(rng.sample(_COURSES, 1 + line % 2)))
            for name in students
            for line in range(LINES_OF_A_PLAN)
        ),
    )
    yield "student_terms", "term,username", (("autumn", name) for name in students)
    opens = date(2027, 4, 19)
    yield (
        "windows",
        "term,username,opens_at,closes_at",
        (
            ("autumn", name, f"{opens + timedelta(n % 5)}T{8 + n % 9:02d}:00", "2027-05-03T17:00")
            for n, name in enumerate(students)
        ),
    )


def _hours(place: int) -> tuple[str, str]:
    return f"{8 + place % 10:02d}:00", f"{9 + place % 10:02d}:15"


def measure_exchanging(url: str, local: Path) -> Exchanging:
    """Write the folder, and read it twice, each time with a process of its own.

    Args:
        url: of an empty database with its tables.
    """
    folder = local / "bench-college"
    rows = write_college(folder)
    seconds, megabytes = _read(url, folder)
    again, _ = _read(url, folder)
    return Exchanging(rows, seconds, megabytes, again)


def _read(url: str, folder: Path) -> tuple[float, float]:
    began = time.perf_counter()
    process = subprocess.Popen(
        [sys.executable, "-m", "gremba", "import", str(folder)],
        env={**os.environ, "GREMBA_DATABASE_URL": url},
    )
    megabytes = 0.0
    while process.poll() is None:
        megabytes = max(megabytes, _most_memory(process.pid))
        time.sleep(0.2)
    if process.returncode:
        raise RuntimeError("the folder was not taken over")
    return time.perf_counter() - began, megabytes


def _most_memory(pid: int) -> float:
    """The most memory that a process has had, in MB. (What the system reckons up at its end begins with
    what the process had that started it.)"""
    try:
        found = re.search(r"VmHWM:\s*(\d+) kB", Path(f"/proc/{pid}/status").read_text())
    except OSError:
        return 0.0
    return int(found[1]) / 1024 if found else 0.0


def rows_of(found: Exchanging) -> list[tuple[str, str]]:
    """The lines to print."""
    return [
        (f"A college of {found.rows:,} rows read in", f"{found.seconds:.0f} s"),
        ("  memory of the reading process, at its most", f"{found.megabytes:.0f} MB"),
        ("  the same again, where nothing changes", f"{found.again_seconds:.0f} s"),
    ]
